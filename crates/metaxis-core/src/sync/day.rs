//! A whole day: every clip against the reference device.

use super::{
    Aligner, HeardSound, Placement, Search, Verdict,
    anchor::anchor_axis,
    candidates::{Found, search},
};
use crate::signal::Correlator;
use rayon::prelude::*;
use std::{
    cmp::Reverse,
    ops::ControlFlow,
    sync::atomic::{AtomicBool, AtomicUsize, Ordering},
};
use thiserror::Error;

/// A clip as the day's solver sees it. Clips and devices are named by the caller's own numbers.
pub struct DayClip<'a> {
    /// Device that recorded it.
    pub device: usize,
    /// Length in seconds.
    pub duration_s: f64,
    /// Whether it has a picture.
    pub has_picture: bool,
    /// Its sound; `None` where there is nothing to listen to.
    pub sound: Option<HeardSound<'a>>,
    /// Time of day from the file's BWF time reference, seconds.
    pub time_reference_s: Option<f64>,
}

/// Tells a running computation to go on or to stop; called with clips done and clips in all.
pub type Flow<'a> = dyn Fn(usize, usize) -> ControlFlow<()> + Sync + 'a;

/// Why a day could not be placed at all.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum DayError {
    /// Nothing to take as reference.
    #[error("no clip has any sound to take as the reference")]
    NoReference,
    /// Stopped by the caller.
    #[error("stopped")]
    Stopped,
}

/// Placements in the order of the clips, and the reference clip that starts the axis.
#[derive(Debug, Clone, PartialEq)]
pub struct DayResult {
    /// Index of the clip that starts at zero.
    pub reference: usize,
    /// One a clip.
    pub placements: Vec<Placement>,
}

/// Two clips of one device may touch by this much before they count as overlapping, seconds.
const TOUCH_S: f64 = 0.1;

/// The reference device where nobody chose one: the separate recorder with most sound, else the device
/// with most sound.
pub fn pick_reference(clips: &[DayClip]) -> Option<usize> {
    let mut devices: Vec<usize> = clips.iter().map(|clip| clip.device).collect();
    devices.sort_unstable();
    devices.dedup();
    devices
        .into_iter()
        .filter_map(|device| {
            let own = || clips.iter().filter(move |clip| clip.device == device);
            let heard: f64 = own().filter_map(|clip| clip.sound.as_ref()).map(HeardSound::duration_s).sum();
            let recorder = own().all(|clip| !clip.has_picture);
            (heard > 0.0).then_some((recorder, heard, Reverse(device)))
        })
        .max_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)).then(a.2.cmp(&b.2)))
        .map(|(_, _, Reverse(device))| device)
}

/// How a day is to be placed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct DayPlan {
    /// The device whose clock is the axis.
    pub reference: usize,
    /// The clip that starts the axis; the device's longest unless given.
    pub origin: Option<usize>,
    /// How much to spend on each clip.
    pub search: Search,
    /// Day mode: one device cannot record two clips at once. Off where takes lie above each other.
    pub devices_apart: bool,
}

/// Places every clip on the axis of the reference.
///
/// # Errors
/// [`DayError::NoReference`] where that device has no sound; [`DayError::Stopped`] when `flow` breaks.
pub fn place_day(clips: &[DayClip], plan: DayPlan, flow: &Flow) -> Result<DayResult, DayError> {
    let anchors: Vec<usize> =
        (0..clips.len()).filter(|&i| clips[i].device == plan.reference && clips[i].sound.is_some()).collect();
    let longest = || {
        anchors
            .iter()
            .copied()
            .max_by(|&a, &b| clips[a].duration_s.total_cmp(&clips[b].duration_s).then(b.cmp(&a)))
    };
    let origin = plan.origin.filter(|i| anchors.contains(i)).or_else(longest).ok_or(DayError::NoReference)?;
    let axis = anchor_axis(clips, &anchors, origin);

    let stopped = AtomicBool::new(false);
    let done = AtomicUsize::new(0);
    let mut results: Vec<Found> = clips
        .par_iter()
        .enumerate()
        .map_init(
            || (Correlator::default(), Aligner::default()),
            |(correlator, aligner), (i, clip)| {
                if stopped.load(Ordering::Relaxed) {
                    return Found::default();
                }
                let found = match (&clip.sound, anchors.contains(&i)) {
                    (Some(sound), false) => {
                        search(clips, &anchors, &axis, sound, plan.search, correlator, aligner)
                    }
                    _ => Found::default(),
                };
                let done = done.fetch_add(1, Ordering::Relaxed) + 1;
                if flow(done, clips.len()).is_break() {
                    stopped.store(true, Ordering::Relaxed);
                }
                found
            },
        )
        .collect();
    if stopped.into_inner() {
        return Err(DayError::Stopped);
    }

    let mut placements: Vec<Placement> = (0..clips.len())
        .map(|i| match axis.iter().find(|anchor| anchor.clip == i) {
            Some(anchor) => anchor.placement(clips, origin),
            None if clips[i].sound.is_none() => Placement::unplaced("It has no sound to listen to."),
            None => results[i].placement(0),
        })
        .collect();
    if plan.devices_apart {
        keep_devices_apart(clips, &anchors, &mut results, &mut placements);
    }
    Ok(DayResult { reference: origin, placements })
}

/// One device cannot record two clips at once: where two of its clips overlap, the surer one stays and
/// the other takes its next free position, or none.
fn keep_devices_apart(
    clips: &[DayClip],
    anchors: &[usize],
    found: &mut [Found],
    placements: &mut [Placement],
) {
    let mut order: Vec<usize> = (0..clips.len()).filter(|i| !anchors.contains(i)).collect();
    order.sort_by(|&a, &b| placements[b].confidence.total_cmp(&placements[a].confidence).then(a.cmp(&b)));
    let mut settled: Vec<usize> = vec![];
    for i in order {
        let free = |candidate: &Placement| {
            let Some((start, end)) = candidate.extent_s() else { return true };
            settled.iter().all(|&other| {
                let Some((from, to)) = placements[other].extent_s() else { return true };
                clips[other].device != clips[i].device
                    || placements[other].component != candidate.component
                    || end <= from + TOUCH_S
                    || to <= start + TOUCH_S
            })
        };
        if !free(&placements[i]) {
            let next = (1..found[i].candidates.len())
                .map(|take| found[i].placement(take))
                .find(|placement| placement.verdict != Verdict::Unplaced && free(placement));
            placements[i] = match next {
                Some(mut placement) => {
                    placement.verdict = Verdict::Check;
                    placement.confidence = placement.confidence.min(0.6);
                    placement.reasons.insert(
                        0,
                        "Its best position lies over another clip of the same device; this is the next best."
                            .into(),
                    );
                    placement
                }
                None => Placement::unplaced("Its only position lies over another clip of the same device."),
            };
        }
        if placements[i].verdict != Verdict::Unplaced {
            settled.push(i);
        }
    }
}
