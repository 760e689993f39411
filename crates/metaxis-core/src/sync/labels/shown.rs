//! How far a microphone stands from what its clip shows: as a person gave it, or as claps show it.

use super::slates::EYE_S;
use crate::sync::input::{GivenDistance, SOUND_M_PER_S};
use serde::{Deserialize, Serialize};

/// Less is nothing to speak of, metres.
const LEAST_M: f64 = 3.0;
/// From farther no shout carries, metres.
const MOST_M: f64 = 200.0;
/// What an eye tells of a distance to three standard deviations, metres.
pub(super) const TELLS_M: f64 = 3.0 * EYE_S * SOUND_M_PER_S;

/// How far a microphone stood, as claps show it beside what is given.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ShownDistance {
    /// Device, as the caller names it.
    pub device: usize,
    /// The clip, by its place among the day's, where this is said of it alone; else of the whole device.
    #[serde(default)]
    pub clip: Option<usize>,
    /// Metres from its microphone to the clap.
    pub metres: f64,
    /// Metres that are given.
    #[serde(default)]
    pub given_m: f64,
    /// Claps that show it.
    pub slates: usize,
    /// Whether a person marked them; else the sticks were found in the picture.
    pub marked: bool,
}

/// How far a microphone is, by how much later its own sound of a clap comes than the picture shows it, metres. None
/// where sound would come first, or from farther than a shout carries.
pub(crate) fn distance_m(late_s: f64) -> Option<f64> {
    let metres = late_s * SOUND_M_PER_S;
    (LEAST_M..MOST_M).contains(&metres).then_some(metres)
}

/// The same, with 0 where picture and sound are of one place as far as an eye can tell.
fn distance_or_none_m(late_s: f64) -> Option<f64> {
    let metres = late_s * SOUND_M_PER_S;
    if (-TELLS_M..LEAST_M).contains(&metres) { Some(0.0) } else { distance_m(late_s) }
}

/// What the slates of one clip show.
pub(crate) struct ClipSlates {
    /// The clip, by its place among the day's.
    pub clip: usize,
    /// What is given.
    pub given: GivenDistance,
    /// How much later than in its picture its own microphone hears each slate, seconds.
    pub late_s: Vec<f64>,
}

/// A clip's slates as a distance.
struct Shows<'s> {
    of: &'s ClipSlates,
    metres: f64,
    slates: usize,
}

impl Shows<'_> {
    /// Whether a distance speaks against what is given to it.
    fn is_news(&self, metres: f64) -> bool {
        let given_m = self.of.given.metres();
        if given_m > 0.0 { (metres - given_m).abs() > TELLS_M } else { metres >= LEAST_M }
    }
}

/// The distances that marked slates of a device show and that are not given: one for the device where its clips agree,
/// else one for each clip that lies elsewhere than it is given.
pub(crate) fn shown_by_slates(device: usize, clips: &[ClipSlates]) -> Vec<ShownDistance> {
    let shows = |of| {
        let clip: &ClipSlates = of;
        let all: Vec<f64> = clip.late_s.iter().filter_map(|late_s| distance_or_none_m(*late_s)).collect();
        Some(Shows { of, slates: all.len(), metres: middle(all)? })
    };
    let shown: Vec<Shows> = clips.iter().filter_map(shows).collect();
    let (alone, together): (Vec<&Shows>, Vec<&Shows>) =
        shown.iter().partition(|one| matches!(one.of.given, GivenDistance::Clip(_)));
    let say = |clip, of: &Shows, metres, slates| ShownDistance {
        device,
        clip,
        metres,
        given_m: of.of.given.metres(),
        slates,
        marked: true,
    };
    let each = |of: &&Shows| of.is_news(of.metres).then(|| say(Some(of.of.clip), of, of.metres, of.slates));
    let mut all: Vec<ShownDistance> = alone.iter().filter_map(each).collect();
    let Some(metres) = middle(together.iter().map(|one| one.metres).collect()) else { return all };
    if together.iter().all(|one| (one.metres - metres).abs() <= TELLS_M) {
        let slates = together.iter().map(|one| one.slates).sum();
        let news = together.iter().find(|one| one.is_news(metres));
        all.extend(news.map(|one| say(None, one, metres, slates)));
    } else {
        all.extend(together.iter().filter_map(each));
    }
    all
}

fn middle(mut values: Vec<f64>) -> Option<f64> {
    values.sort_by(f64::total_cmp);
    values.get(values.len() / 2).copied()
}
