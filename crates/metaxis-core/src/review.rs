//! What a finished pass says of a whole day in one glance: what has no place, what would end late, which clocks drift apart,
//! which takes nobody recorded well.

use crate::{
    clip::{ClipId, DeviceId},
    sync::{Placement, Stretch, runs},
    time::FrameRate,
};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use ts_rs::TS;

/// A clip of the day that takes part, and where it lies.
#[derive(Debug, Clone, Copy)]
pub struct Reviewed<'a> {
    /// The clip.
    pub id: ClipId,
    /// Its device.
    pub device: DeviceId,
    /// Rate of its pictures; `None` where it has none.
    pub picture: Option<FrameRate>,
    /// Where the pass put it.
    pub placement: &'a Placement,
}

/// What is looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Question {
    /// Does every clip have a place?
    Places,
    /// Do clips end in step where their drift is left alone?
    Ends,
    /// Do devices keep the same time?
    Clocks,
    /// Does a recorder run with every picture?
    Sound,
    /// Is the sound of every clip whole?
    Breaks,
}

/// The answer to one of them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Answer {
    /// What was looked at.
    pub question: Question,
    /// Whether all is well.
    pub well: bool,
    /// A sentence.
    pub text: String,
    /// The clips it is about, the worst first.
    pub clips: Vec<ClipId>,
}

/// The frame of clips that have no pictures, seconds.
const FRAME_S: f64 = 0.04;
/// Clocks that part by more than a frame of 25 in an hour are said, ppm.
const APART_PPM: f64 = 1e6 * FRAME_S / 3600.0;
/// Beyond this it is another speed and no drift, ppm.
const SPEED_PPM: f64 = 600.0;
/// Share of a picture that a recorder must have run with.
const COVERED: f64 = 0.5;

/// Looks at a day: one answer a question, in their order. Nothing where nothing takes part.
pub fn review(clips: &[Reviewed], reference: DeviceId) -> Vec<Answer> {
    if clips.is_empty() {
        return vec![];
    }
    let mut answers = vec![places(clips), ends(clips)];
    answers.extend(clocks(clips, reference));
    answers.extend(sound(clips));
    answers.push(breaks(clips));
    answers
}

fn answer(question: Question, clips: Vec<ClipId>, well: &str, ill: String) -> Answer {
    let is_well = clips.is_empty();
    Answer { question, well: is_well, text: if is_well { well.to_owned() } else { ill }, clips }
}

/// A number with the noun that goes with it.
fn count(number: usize, noun: &str) -> String {
    format!("{number} {noun}{}", if number == 1 { "" } else { "s" })
}

fn has(number: usize) -> &'static str {
    if number == 1 { "has" } else { "have" }
}

fn places(clips: &[Reviewed]) -> Answer {
    let (pictures, sounds): (Vec<&Reviewed>, Vec<&Reviewed>) = clips
        .iter()
        .filter(|clip| clip.placement.stretches.is_empty())
        .partition(|clip| clip.picture.is_some());
    let said = match (pictures.len(), sounds.len()) {
        (some, 0) => format!("{} {} no place.", count(some, "picture"), has(some)),
        (0, some) => format!("{} {} no place.", count(some, "sound"), has(some)),
        (some, more) => format!("{} and {} have no place.", count(some, "picture"), count(more, "sound")),
    };
    let ids = pictures.into_iter().chain(sounds).map(|clip| clip.id).collect();
    answer(Question::Places, ids, "Every clip has a place.", said)
}

/// How much longer a clip's own time is than the axis's, seconds; 0 where it runs at another speed.
fn late_s(stretches: &[Stretch]) -> f64 {
    let one = |own: &Stretch| (own.clip_end_s - own.clip_start_s) - (own.end_s() - own.start_s);
    if stretches.iter().any(|own| own.rate_ppm.abs() > SPEED_PPM) {
        return 0.0;
    }
    stretches.iter().map(one).sum()
}

fn ends(clips: &[Reviewed]) -> Answer {
    let frame_s = |clip: &Reviewed| clip.picture.map_or(FRAME_S, |rate| 1.0 / rate.as_f64());
    let late = |clip: &Reviewed| (late_s(&clip.placement.stretches), frame_s(clip));
    let mut out: Vec<(ClipId, f64, f64)> = clips
        .iter()
        .map(|clip| (clip.id, late(clip).0, late(clip).1))
        .filter(|(_, late_s, frame_s)| late_s.abs() > 0.5 * frame_s)
        .collect();
    out.sort_by(|a, b| (b.1.abs() / b.2).total_cmp(&(a.1.abs() / a.2)));
    let said = out.first().map_or_else(String::new, |(_, late_s, frame_s)| {
        format!(
            "Left alone, {} would end more than half a frame out, the worst by {:.1} f · {:.0} ms.",
            count(out.len(), "clip"),
            late_s.abs() / frame_s,
            late_s.abs() * 1e3
        )
    });
    let ids = out.iter().map(|(id, ..)| *id).collect();
    answer(Question::Ends, ids, "Left alone, every clip would end within half a frame.", said)
}

/// Rates of the devices against the reference, by their longest clips.
fn clocks(clips: &[Reviewed], reference: DeviceId) -> Option<Answer> {
    let mut rates: BTreeMap<DeviceId, (f64, f64, ClipId, f64)> = BTreeMap::new();
    for clip in clips.iter().filter(|clip| clip.device != reference) {
        for own in &clip.placement.stretches {
            let length_s = own.clip_end_s - own.clip_start_s;
            // A rate is as sure as the square of the length it was measured over.
            let weight = length_s * length_s;
            if own.rate_ppm.abs() > SPEED_PPM || own.rate_ppm == 0.0 || weight <= 0.0 {
                continue;
            }
            let (sum, weights, longest, seconds) =
                rates.entry(clip.device).or_insert((0.0, 0.0, clip.id, 0.0));
            *sum += weight * own.rate_ppm;
            *weights += weight;
            if length_s > *seconds {
                (*longest, *seconds) = (clip.id, length_s);
            }
        }
    }
    let mut apart: Vec<(ClipId, f64)> = rates
        .into_values()
        .map(|(sum, weights, longest, _)| (longest, sum / weights))
        .filter(|(_, ppm)| ppm.abs() > APART_PPM)
        .collect();
    if clips.iter().all(|clip| clip.device == reference) {
        return None;
    }
    apart.sort_by(|a, b| b.1.abs().total_cmp(&a.1.abs()));
    let said = apart.first().map_or_else(String::new, |(_, ppm)| {
        format!(
            "{} drift{} from the reference by more than a frame an hour, the worst by {:.1} ppm: {:.1} f an hour.",
            count(apart.len(), "device"),
            if apart.len() == 1 { "s" } else { "" },
            ppm.abs(),
            ppm.abs() * 1e-6 * 3600.0 / FRAME_S
        )
    });
    let ids = apart.iter().map(|(id, _)| *id).collect();
    Some(answer(Question::Clocks, ids, "All devices keep the reference's time to a frame an hour.", said))
}

/// Pictures with which no recorder ran; nothing where the day has no recorder.
fn sound(clips: &[Reviewed]) -> Option<Answer> {
    let is_recorder = |device: DeviceId| {
        clips.iter().filter(|clip| clip.device == device).all(|clip| clip.picture.is_none())
    };
    let recorded: Vec<(u32, f64, f64)> = clips
        .iter()
        .filter(|clip| is_recorder(clip.device))
        .flat_map(|clip| {
            runs(&clip.placement.stretches)
                .map(|run| (clip.placement.component, run[0].start_s, run[run.len() - 1].end_s()))
        })
        .collect();
    if !clips.iter().any(|clip| is_recorder(clip.device)) {
        return None;
    }
    let bare = |clip: &&Reviewed| {
        let Some((from_s, to_s)) = clip.placement.extent_s() else { return false };
        let with = recorded.iter().filter(|(component, ..)| *component == clip.placement.component);
        let covered_s: f64 = with.map(|(_, from, to)| (to_s.min(*to) - from_s.max(*from)).max(0.0)).sum();
        covered_s < COVERED * (to_s - from_s)
    };
    let ids: Vec<ClipId> =
        clips.iter().filter(|clip| clip.picture.is_some()).filter(bare).map(|clip| clip.id).collect();
    let said = format!(
        "{} {} no recorder with it for most of its length.",
        count(ids.len(), "picture"),
        has(ids.len())
    );
    Some(answer(Question::Sound, ids, "A recorder ran with every picture.", said))
}

fn breaks(clips: &[Reviewed]) -> Answer {
    let broken = |clip: &&Reviewed| runs(&clip.placement.stretches).count() > 1;
    let ids: Vec<ClipId> = clips.iter().filter(broken).map(|clip| clip.id).collect();
    let said = format!("{} lost or repeated sound within.", count(ids.len(), "clip"));
    answer(Question::Breaks, ids, "No clip lost or repeated sound.", said)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(start_s: f64, length_s: f64, rate_ppm: f64) -> Placement {
        let stretches = vec![Stretch { rate_ppm, ..Stretch::whole(length_s, start_s) }];
        Placement { stretches, ..Placement::unplaced("") }
    }

    fn clip(id: i64, device: i64, placement: &Placement) -> Reviewed<'_> {
        let picture = (device != 9).then(|| FrameRate::new(25, 1).expect("a rate"));
        Reviewed { id: ClipId(id), device: DeviceId(device), picture, placement }
    }

    fn ask(clips: &[Reviewed], question: Question) -> Option<Answer> {
        review(clips, DeviceId(9)).into_iter().find(|answer| answer.question == question)
    }

    #[test]
    fn a_day_in_order_is_said_to_be() {
        let (recorder, camera) = (at(0.0, 600.0, 0.0), at(10.0, 500.0, 2.0));
        let answers = review(&[clip(1, 9, &recorder), clip(2, 1, &camera)], DeviceId(9));
        assert_eq!(answers.len(), 5);
        assert!(answers.iter().all(|answer| answer.well && answer.clips.is_empty()), "{answers:?}");
        assert!(review(&[], DeviceId(9)).is_empty());
    }

    #[test]
    fn what_would_end_late_is_counted_the_worst_first() {
        let recorder = at(0.0, 7200.0, 0.0);
        // An hour at 40 ppm is 3.6 frames of 25; ten minutes are 0.6; one minute is in step.
        let clips = [at(0.0, 60.0, 40.0), at(0.0, 600.0, 40.0), at(0.0, 3600.0, -40.0)];
        let day =
            [clip(1, 9, &recorder), clip(2, 1, &clips[0]), clip(3, 1, &clips[1]), clip(4, 2, &clips[2])];
        let ends = ask(&day, Question::Ends).expect("an answer");
        assert_eq!(ends.clips, [ClipId(4), ClipId(3)]);
        assert_eq!(
            ends.text,
            "Left alone, 2 clips would end more than half a frame out, the worst by 3.6 f · 144 ms."
        );
        let clocks = ask(&day, Question::Clocks).expect("an answer");
        assert!(clocks.text.starts_with("2 devices drift from the reference"), "{}", clocks.text);
        assert!(clocks.text.ends_with("40.0 ppm: 3.6 f an hour."), "{}", clocks.text);
    }

    #[test]
    fn another_speed_is_no_drift() {
        let (recorder, fast) = (at(0.0, 3600.0, 0.0), at(0.0, 3600.0, 1000.0));
        let day = [clip(1, 9, &recorder), clip(2, 1, &fast)];
        assert!(ask(&day, Question::Ends).is_some_and(|answer| answer.well));
        assert!(ask(&day, Question::Clocks).is_some_and(|answer| answer.well));
    }

    #[test]
    fn pictures_without_a_recorder_and_without_a_place_are_named() {
        let nowhere = Placement::unplaced("");
        let (recorder, with, without) = (at(0.0, 100.0, 0.0), at(50.0, 80.0, 0.0), at(80.0, 80.0, 0.0));
        let elsewhere = Placement { component: 1, ..at(0.0, 50.0, 0.0) };
        let day = [
            clip(1, 9, &recorder),
            clip(2, 1, &with),
            clip(3, 1, &without),
            clip(4, 2, &nowhere),
            clip(5, 2, &elsewhere),
        ];
        let sound = ask(&day, Question::Sound).expect("an answer");
        assert_eq!(sound.clips, [ClipId(3), ClipId(5)]);
        let places = ask(&day, Question::Places).expect("an answer");
        assert_eq!((places.text.as_str(), places.clips), ("1 picture has no place.", vec![ClipId(4)]));
        // Without a recorder nobody can miss it.
        assert_eq!(ask(&day[1..], Question::Sound), None);
    }

    #[test]
    fn a_clip_in_two_runs_lost_sound_and_a_bending_clock_did_not() {
        let first = Stretch { rate_ppm: 5.0, clip_end_s: 50.0, ..Stretch::whole(100.0, 0.0) };
        let next = |start_s: f64| Stretch { clip_start_s: 50.0, start_s, ..Stretch::whole(100.0, 0.0) };
        let bent = Placement { stretches: vec![first, next(first.end_s())], ..Placement::unplaced("") };
        let broken = Placement { stretches: vec![first, next(51.0)], ..Placement::unplaced("") };
        let recorder = at(0.0, 100.0, 0.0);
        let day = [clip(1, 9, &recorder), clip(2, 1, &bent), clip(3, 1, &broken)];
        let breaks = ask(&day, Question::Breaks).expect("an answer");
        assert_eq!(
            (breaks.text.as_str(), breaks.clips),
            ("1 clip lost or repeated sound within.", vec![ClipId(3)])
        );
    }
}
