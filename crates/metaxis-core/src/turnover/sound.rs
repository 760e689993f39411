//! The sound of a group in documents: every recorder's files, piece by piece as their clocks are corrected.

use super::{
    Sources,
    items::{Kind, at_rate, gap, media, range_at, track, warp},
};
use crate::{
    clip::ClipId,
    line::Layer,
    sound::{Grid, LaidSource, SoundPlan, Track},
};
use serde_json::{Value, json};

/// What is heard over a group.
#[derive(Debug, Clone, PartialEq)]
pub struct LaidSound {
    /// What lies where, as it is corrected.
    pub plan: SoundPlan,
    /// Which tracks go where, where that was chosen: those that go nowhere are off.
    pub grid: Option<Grid>,
    /// The clips of the recordings that the plan names by number.
    pub clips: Vec<Option<ClipId>>,
}

/// A part of a file that runs at one pace.
#[derive(Debug, Clone, PartialEq)]
struct Run {
    recording: usize,
    /// Output samples, from the group's beginning on.
    from: i64,
    to: i64,
    /// Samples of the file at both.
    own: (f64, f64),
    /// Where its pace changes a little, in both.
    joints: Vec<(i64, f64)>,
}

/// Where a clock bends, one pace stands for several while it is nowhere further off than this, seconds.
const BENDS_S: f64 = 0.5e-3;

impl Run {
    fn pace(&self) -> f64 {
        (self.own.1 - self.own.0) / (self.to - self.from) as f64
    }

    /// Takes what follows into it, where that goes on in the same file and one pace still stands for all.
    fn goes_on(&mut self, next: &Run, own_rate: f64) -> bool {
        let follows = next.recording == self.recording && next.from == self.to;
        if !follows || (next.own.0 - self.own.1).abs() > 0.01 {
            return false;
        }
        let mut whole = Run { to: next.to, own: (self.own.0, next.own.1), ..self.clone() };
        whole.joints.push((self.to, self.own.1));
        let off = |(at, own): &(i64, f64)| whole.own.0 + (at - whole.from) as f64 * whole.pace() - own;
        let straight = whole.joints.iter().all(|joint| off(joint).abs() < BENDS_S * own_rate);
        if straight {
            *self = whole;
        }
        straight
    }
}

/// The runs of a source, in order.
fn runs(source: &LaidSource) -> Vec<Run> {
    let mut out: Vec<Run> = vec![];
    for leg in &source.legs {
        for (number, (recording, begins)) in source.files.iter().enumerate() {
            // The first file also stands for what is before it, and the last for what is behind.
            let reach = |sample: i64| leg.from + ((sample as f64 - leg.at) / leg.step).ceil() as i64;
            let from = if number == 0 { leg.from } else { reach(*begins).max(leg.from) };
            let to = source.files.get(number + 1).map_or(leg.to, |(_, next)| reach(*next).min(leg.to));
            if from >= to {
                continue;
            }
            let own = |at: i64| leg.position(at) - *begins as f64;
            let run = Run { recording: *recording, from, to, own: (own(from), own(to)), joints: vec![] };
            if !out.last_mut().is_some_and(|last| last.goes_on(&run, source.rates.own)) {
                out.push(run);
            }
        }
    }
    out
}

/// A sound track for each channel of each recorder, and of each of its recordings that ran at the same time, `whole` samples long:
/// named, with its number and how many its files have, and off where nothing of it goes out.
pub(super) fn sound_tracks(sources: &Sources, sound: &LaidSound, whole: f64) -> Vec<Value> {
    let LaidSound { plan, .. } = sound;
    let rate = f64::from(plan.rate.0);
    let one = |own: &Track| {
        let mut numbers: Vec<usize> = own.parts.iter().map(|(source, _)| *source).collect();
        numbers.sort_by_key(|number| plan.laid.sources[*number].extent());
        numbers.dedup();
        let mut items = vec![];
        let mut at = 0;
        for number in numbers {
            for run in runs(&plan.laid.sources[number]) {
                let Some(item) = item(sources, sound, number, &run) else { continue };
                if run.from > at {
                    items.push(gap((run.from - at) as f64, rate));
                }
                items.push(item);
                at = run.to;
            }
        }
        if whole - at as f64 > 1e-6 {
            items.push(gap(whole - at as f64, rate));
        }
        let most = own.parts.iter().map(|(source, _)| channels(sources, sound, *source)).max();
        let number = own.channel + 1;
        let called = own.name.clone().unwrap_or_else(|| format!("channel {number}"));
        let mut made = track(&format!("{} {called}", sources.device_name(own.device)), Kind::Sound, items);
        made["metadata"]["metaxis"] = json!({ "channel": number, "of": most, "lane": own.lane });
        if let Some(grid) = &sound.grid {
            let factors = grid.factors(std::slice::from_ref(own));
            made["enabled"] = factors.iter().flatten().any(|own| *own != 0.0).into();
            made["metadata"]["metaxis"]["grid"] = routes(grid, own, &factors).into();
        }
        made
    };
    // What lies over the line is no recorder's: the line says it itself.
    plan.laid.tracks.iter().filter(|own| !Layer::is_device(own.device)).map(one).collect()
}

/// How many channels the files of a source have.
fn channels(sources: &Sources, sound: &LaidSound, number: usize) -> u32 {
    let files = sound.plan.laid.sources[number].files.iter();
    let clips = files.filter_map(|(recording, _)| sound.clips.get(*recording).copied().flatten());
    let own = clips.filter_map(|clip| sources.clips.get(&clip)?.facts.sound.as_ref());
    own.map(|sound| sound.channels).max().unwrap_or(0)
}

/// To which outputs a track goes, and how loud.
fn routes(grid: &Grid, track: &Track, factors: &[Vec<f32>]) -> Vec<Value> {
    let one = |(output, row): (usize, &Vec<f32>)| {
        let factor = row.first().copied().filter(|own| *own != 0.0)?;
        Some(json!({
            "output": grid.outputs[output].name,
            "channel": track.channel + 1,
            "name": track.name,
            "level_db": (20.0 * factor.abs().log10() * 10.0).round() / 10.0,
            "inverted": factor < 0.0,
            "follows_picture": grid.outputs[output].follows,
        }))
    };
    factors.iter().enumerate().filter_map(one).collect()
}

fn item(sources: &Sources, sound: &LaidSound, number: usize, run: &Run) -> Option<Value> {
    let clip = sound.clips.get(run.recording).copied().flatten()?;
    let (source, laid) = (sources.clips.get(&clip)?, &sound.plan.laid.sources[number]);
    let treatment = sound.plan.treatments.get(number)?;
    let (own, out) = (laid.rates.own, laid.rates.out);
    let speed = run.pace() * out / own;
    let origin = source.first_sample() as f64;
    let part = json!({
        "OTIO_SCHEMA": "TimeRange.1",
        "start_time": at_rate(origin + run.own.0, own),
        "duration": at_rate((run.to - run.from) as f64, out),
    });
    let mut item = media(source, clip, Kind::Sound, part, range_at(origin, source.samples()?, own));
    if (speed - 1.0).abs() > 1e-9 {
        item["effects"] = vec![warp(speed)].into();
    }
    let said = &mut item["metadata"]["metaxis"];
    said["correction"] = json!(treatment.correction);
    said["fill"] = json!(treatment.fill);
    said["why"] = json!(treatment.proposal.why);
    said["rate_ppm"] = json!((speed - 1.0) * 1e6);
    said["channels"] = json!(source.facts.sound.as_ref().map(|sound| &sound.channel_names));
    Some(item)
}
