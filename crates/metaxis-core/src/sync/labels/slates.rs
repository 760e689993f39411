//! Slates: the moment in a picture at which the sticks close, against the moment in a sound at which they are heard.

use crate::sync::input::{DayClip, SlateMark};

/// A mark in a picture that lies against the mark of a sound.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct SlatePair {
    /// The clip with the sound.
    pub sound: usize,
    /// The moment in the picture and in the sound, each in its clip's own time, seconds.
    pub picture_s: f64,
    pub sound_s: f64,
    /// The sound has as many claps of the take as the picture, and this is the one of the same number.
    pub in_order: bool,
}

/// A frame of an unknown rate, for how well an eye can mark, seconds.
pub(crate) const FRAME_S: f64 = 0.04;
/// An eye tells half a frame: standard deviation of a pair, seconds.
pub(crate) const EYE_S: f64 = FRAME_S / 4.0;
/// Marks that part by more than this belong to different claps, seconds.
pub(crate) const OTHER_CLAP_S: f64 = 1.0;

/// For every picture mark of every clip, in the order of time, the sound marks of its take on other devices.
pub(crate) fn pairs(clips: &[DayClip]) -> Vec<Vec<Vec<SlatePair>>> {
    (0..clips.len()).map(|clip| pairs_of(clips, clip)).collect()
}

fn pairs_of(clips: &[DayClip], clip: usize) -> Vec<Vec<SlatePair>> {
    let others = || (0..clips.len()).filter(|&other| clips[other].device != clips[clip].device);
    let seen = sorted(&clips[clip].marks, |mark| mark.picture_s);
    let pairs = |(take, picture_s): &(&str, f64)| {
        let own: Vec<f64> = seen.iter().filter(|(other, _)| other == take).map(|(_, at_s)| *at_s).collect();
        let place = own.iter().position(|at_s| at_s == picture_s);
        others()
            .flat_map(|sound| {
                let heard = |mark: &SlateMark| {
                    mark.sound_s.filter(|_| mark.picture_s.is_none() && mark.take == *take)
                };
                let theirs = sorted(&clips[sound].marks, heard);
                let as_many = theirs.len() == own.len();
                let pair = move |(i, sound_s)| {
                    let in_order = as_many && Some(i) == place;
                    SlatePair { sound, picture_s: *picture_s, sound_s, in_order }
                };
                theirs.into_iter().map(|(_, at_s)| at_s).enumerate().map(pair).collect::<Vec<_>>()
            })
            .collect()
    };
    seen.iter().map(pairs).collect()
}

/// The takes and moments of the marks that have one, in the order of time.
fn sorted(marks: &[SlateMark], moment: impl Fn(&SlateMark) -> Option<f64>) -> Vec<(&str, f64)> {
    let mut all: Vec<(&str, f64)> =
        marks.iter().filter_map(|mark| Some((mark.take.as_str(), moment(mark)?))).collect();
    all.sort_by(|a, b| a.1.total_cmp(&b.1));
    all
}
