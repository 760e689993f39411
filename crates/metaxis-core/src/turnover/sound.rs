//! The sound of a group in documents: every recorder's files, piece by piece as their clocks are corrected.

use super::{
    Sources,
    items::{at_rate, gap, track, warp},
};
use crate::{
    clip::{ClipId, DeviceId},
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

/// A sound track for each recorder, or for each of its recordings that ran at the same time, `whole` samples long.
pub(super) fn sound_tracks(sources: &Sources, sound: &LaidSound, whole: f64) -> Vec<Value> {
    let LaidSound { plan, .. } = sound;
    let mut lanes: Vec<(DeviceId, usize, Vec<usize>)> = vec![];
    for own in &plan.laid.tracks {
        let numbers = own.parts.iter().map(|(source, _)| *source);
        match lanes.iter_mut().find(|(device, lane, _)| (*device, *lane) == (own.device, own.lane)) {
            Some((_, _, all)) => all.extend(numbers),
            None => lanes.push((own.device, own.lane, numbers.collect())),
        }
    }
    let rate = f64::from(plan.rate.0);
    let one = |(device, lane, mut numbers): (DeviceId, usize, Vec<usize>)| {
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
        let mut made = track(&sources.device_name(device), "Audio", items);
        if let Some(grid) = &sound.grid {
            let own: Vec<Track> = plan
                .laid
                .tracks
                .iter()
                .filter(|own| (own.device, own.lane) == (device, lane))
                .cloned()
                .collect();
            let factors = grid.factors(&own);
            made["enabled"] = factors.iter().flatten().any(|own| *own != 0.0).into();
            made["metadata"]["metaxis"] = json!({ "grid": routes(grid, &own, &factors) });
        }
        made
    };
    lanes.into_iter().map(one).collect()
}

/// To which outputs tracks go, and how loud.
fn routes(grid: &Grid, tracks: &[Track], factors: &[Vec<f32>]) -> Vec<Value> {
    let one = |(output, row): (usize, &Vec<f32>)| {
        let open = tracks.iter().zip(row).filter(|(_, factor)| **factor != 0.0);
        let open = open.map(move |(track, factor)| {
            json!({
                "output": grid.outputs[output].name,
                "channel": track.channel + 1,
                "name": track.name,
                "level_db": (20.0 * factor.abs().log10() * 10.0).round() / 10.0,
                "inverted": *factor < 0.0,
                "follows_picture": grid.outputs[output].follows,
            })
        });
        open.collect::<Vec<_>>()
    };
    factors.iter().enumerate().flat_map(one).collect()
}

fn item(sources: &Sources, sound: &LaidSound, number: usize, run: &Run) -> Option<Value> {
    let clip = sound.clips.get(run.recording).copied().flatten()?;
    let (source, laid) = (sources.clips.get(&clip)?, &sound.plan.laid.sources[number]);
    let treatment = sound.plan.treatments.get(number)?;
    let (own, out) = (laid.rates.own, laid.rates.out);
    let speed = run.pace() * out / own;
    let origin = source.first_sample() as f64;
    let length = source.facts.sound.as_ref().map_or(0.0, |sound| (sound.duration_s * own).round());
    let effects = if (speed - 1.0).abs() > 1e-9 { vec![warp(speed)] } else { vec![] };
    Some(json!({
        "OTIO_SCHEMA": "Clip.2",
        "name": source.file_name,
        "enabled": true, "effects": effects, "markers": [],
        "metadata": { "metaxis": {
            "reel": source.reel(),
            "clip_id": clip.0,
            "correction": treatment.correction,
            "fill": treatment.fill,
            "why": treatment.proposal.why,
            "rate_ppm": (speed - 1.0) * 1e6,
            "channels": source.facts.sound.as_ref().map(|sound| &sound.channel_names),
        }},
        "source_range": {
            "OTIO_SCHEMA": "TimeRange.1",
            "start_time": at_rate(origin + run.own.0, own),
            "duration": at_rate((run.to - run.from) as f64, out),
        },
        "media_references": { "DEFAULT_MEDIA": {
            "OTIO_SCHEMA": "ExternalReference.1",
            "name": source.file_name,
            "metadata": {},
            "available_image_bounds": null,
            "available_range": {
                "OTIO_SCHEMA": "TimeRange.1",
                "start_time": at_rate(origin, own),
                "duration": at_rate(length, own),
            },
            "target_url": source.url,
        }},
        "active_media_reference_key": "DEFAULT_MEDIA",
    }))
}
