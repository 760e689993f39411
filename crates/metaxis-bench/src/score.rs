//! What became of a shoot, against its truth.

use crate::{Shoot, Take};
use metaxis_core::sync::{DayResult, Placement, Signs, Verdict, clock_notes};

/// Half a frame at 25 fps: what "right" means.
const RIGHT_S: f64 = 0.02;
/// Start errors above this are told one by one: what 99 % are to stay below.
const FAR_S: f64 = 0.5e-3;

/// Counts and errors of one or many shoots.
#[derive(Debug, Clone, Default)]
pub struct Tally {
    /// Takes that ought to be found.
    pub due: usize,
    /// Of these, at the right place.
    pub right: usize,
    /// Of these, solid.
    pub right_solid: usize,
    /// Placed wrongly and called solid: must be none.
    pub wrong_solid: usize,
    /// Placed wrongly, called check.
    pub wrong_check: usize,
    /// Start errors of right positions, seconds.
    pub start_s: Vec<f64>,
    /// (length in seconds, rate error in ppm) of right positions.
    pub rate_ppm: Vec<(f64, f64)>,
    /// (confidence, right) of everything placed.
    pub calibration: Vec<(f64, bool)>,
    /// What each of these was reckoned from.
    pub signs: Vec<Signs>,
    /// Breaks there were and breaks found; (time error, size error) of those found, seconds.
    pub breaks: usize,
    /// See `breaks`.
    pub found_breaks: Vec<(f64, f64)>,
    /// Breaks reported where there were none.
    pub false_breaks: usize,
    /// Share of start errors within two and three of their own sigmas: (within two, all).
    pub within_two_sigma: (usize, usize),
    /// Pictures without sound at the place their timecode gives them, and those there were.
    pub silent: (usize, usize),
    /// Devices whose timecode was named late by as many frames as it is, and those there were.
    pub named: (usize, usize),
    /// Seconds of matching and of sound.
    pub seconds: f64,
    /// Seconds of sound in all takes.
    pub sound_s: f64,
    /// Details, one line each.
    pub notes: Vec<String>,
}

impl Tally {
    /// Counts a result.
    pub fn add(&mut self, shoot: &Shoot, result: &DayResult, seconds: f64, name: &str) {
        self.seconds += seconds;
        self.sound_s += shoot.takes.iter().map(|take| take.samples.len() as f64 / 16_000.0).sum::<f64>();
        self.count_named(shoot, result, name);
        for (i, take) in shoot.takes.iter().enumerate() {
            if i == result.reference {
                continue;
            }
            let placement = &result.placements[i];
            self.due += usize::from(take.due && !take.silent);
            self.silent.1 += usize::from(take.due && take.silent);
            if placement.verdict == Verdict::Unplaced {
                if take.due {
                    self.notes.push(format!(
                        "{name}: take {i} (device {}) unplaced: {:?}",
                        take.device, placement.reasons
                    ));
                }
                continue;
            }
            let Some(base) = base_of(shoot, result, i) else { continue };
            let error = error_s(shoot, result, base, i);
            let right =
                take.world == shoot.takes[base].world && error.is_some_and(|error| error.abs() < RIGHT_S);
            self.calibration.push((placement.confidence, right));
            self.signs.push(placement.signs.unwrap_or_default());
            if take.silent {
                // What a label names is a frame.
                let frame_s = take.labels.first().map_or(RIGHT_S, |label| label.unit_s);
                self.silent.0 += usize::from(take.due && error.is_some_and(|error| error.abs() < frame_s));
            }
            if right && take.silent {
                // Its errors are those of its timecode, not of the ear.
            } else if right {
                self.right += usize::from(take.due);
                self.right_solid += usize::from(take.due && placement.verdict == Verdict::Solid);
                self.measure(
                    &format!("{name}: take {i}"),
                    take,
                    &shoot.takes[base],
                    placement,
                    &result.placements[base],
                    error.unwrap_or(0.0),
                );
            } else {
                let solid = placement.verdict == Verdict::Solid;
                self.wrong_solid += usize::from(solid);
                self.wrong_check += usize::from(!solid);
                let near = placement.alternatives.len();
                self.notes.push(format!(
                    "{name}: take {i} (device {}) WRONG {:?} {:.3} by {:?}, {near} alternatives, {:?}",
                    take.device, placement.verdict, placement.confidence, error, placement.reasons
                ));
            }
        }
    }

    fn count_named(&mut self, shoot: &Shoot, result: &DayResult, name: &str) {
        let notes = clock_notes(&result.clocks, &[]);
        for (device, frames) in &shoot.late_frames {
            let said = notes.iter().filter(|note| note.device == *device).find_map(|note| note.frames_off);
            self.named.1 += 1;
            if said.unwrap_or(0) == *frames {
                self.named.0 += 1;
            } else {
                self.notes.push(format!("{name}: device {device} is {frames} frames late, said {said:?}"));
            }
        }
    }

    fn measure(
        &mut self,
        name: &str,
        take: &Take,
        base: &Take,
        placement: &Placement,
        of_base: &Placement,
        error: f64,
    ) {
        if take.breaks.is_empty() && base.breaks.is_empty() {
            self.start_s.push(error.abs());
            if error.abs() > FAR_S {
                let (sigma_ms, murk) = (
                    placement.stretches[0].start_sigma_s * 1e3,
                    placement.signs.map_or(0.0, |signs| signs.murk),
                );
                self.notes.push(format!(
                    "{name}: start {:.2} ms off, sigma {sigma_ms:.2} ms, murk {murk:.3}, {:?} {:.3}",
                    error * 1e3,
                    placement.verdict,
                    placement.confidence
                ));
            }
            let sigma = placement.stretches[0].start_sigma_s;
            self.within_two_sigma.0 += usize::from(error.abs() < 2.0 * sigma + 5e-6);
            self.within_two_sigma.1 += 1;
            self.false_breaks += placement.stretches.len() - 1;
        }
        let length = take.samples.len().min(base.samples.len()) as f64 / 16_000.0;
        let truth = (1.0 + take.ppm * 1e-6) / (1.0 + base.ppm * 1e-6);
        let own =
            (1.0 + placement.stretches[0].rate_ppm * 1e-6) / (1.0 + of_base.stretches[0].rate_ppm * 1e-6);
        self.rate_ppm.push((length, ((own / truth - 1.0) * 1e6).abs()));
        for (k, at) in take.breaks.iter().enumerate() {
            self.breaks += 1;
            let lost = (take.truth[k + 1].1 - take.truth[k].1)
                - (take.truth[k + 1].0 - take.truth[k].0) / (1.0 + take.ppm * 1e-6);
            let found = placement.stretches.windows(2).find(|pair| (pair[1].clip_start_s - at).abs() < 1.0);
            if found.is_none() {
                let bounds: Vec<String> = placement.stretches[1..]
                    .iter()
                    .zip(&placement.stretches)
                    .map(|(after, before)| {
                        let size = after.start_s - before.axis_s(after.clip_start_s);
                        format!("{size:.4} s at {:.1} s", after.clip_start_s)
                    })
                    .collect();
                self.notes.push(format!(
                    "break of {lost:.4} s at {at:.1} s of {length:.0} s not found, but {bounds:?}"
                ));
            }
            if let Some(pair) = found {
                let size = pair[1].start_s - pair[0].axis_s(pair[1].clip_start_s);
                self.found_breaks.push(((pair[1].clip_start_s - at).abs(), (size - lost).abs()));
            }
        }
    }

    /// Adds another's counts.
    pub fn merge(&mut self, other: Tally) {
        self.due += other.due;
        self.right += other.right;
        self.right_solid += other.right_solid;
        self.wrong_solid += other.wrong_solid;
        self.wrong_check += other.wrong_check;
        self.start_s.extend(other.start_s);
        self.rate_ppm.extend(other.rate_ppm);
        self.calibration.extend(other.calibration);
        self.signs.extend(other.signs);
        self.breaks += other.breaks;
        self.found_breaks.extend(other.found_breaks);
        self.false_breaks += other.false_breaks;
        self.within_two_sigma.0 += other.within_two_sigma.0;
        self.within_two_sigma.1 += other.within_two_sigma.1;
        self.silent.0 += other.silent.0;
        self.silent.1 += other.silent.1;
        self.named.0 += other.named.0;
        self.named.1 += other.named.1;
        self.seconds += other.seconds;
        self.sound_s += other.sound_s;
        self.notes.extend(other.notes);
    }

    /// Brier score of the confidences.
    pub fn brier(&self) -> f64 {
        let sum: f64 =
            self.calibration.iter().map(|(p, right)| (p - f64::from(u8::from(*right))).powi(2)).sum();
        sum / self.calibration.len().max(1) as f64
    }
}

/// The clip that a clip's position is judged against: the origin, or on an island its first other clip.
fn base_of(shoot: &Shoot, result: &DayResult, i: usize) -> Option<usize> {
    let component = result.placements[i].component;
    if component == 0 {
        return Some(result.reference);
    }
    (0..shoot.takes.len()).find(|&other| {
        other != i
            && result.placements[other].component == component
            && result.placements[other].verdict != Verdict::Unplaced
    })
}

/// Position error of take `i` against take `base`, where their worlds are one: the largest over its stretches.
fn error_s(shoot: &Shoot, result: &DayResult, base: usize, i: usize) -> Option<f64> {
    let (own, other) = (&shoot.takes[i], &shoot.takes[base]);
    if own.world != other.world {
        return None;
    }
    let (placed, of_base) = (&result.placements[i], &result.placements[base]);
    placed
        .stretches
        .iter()
        .map(|stretch| {
            // A moment of the stretch that the truth covers with one piece.
            let at = if placed.stretches.len() == 1 {
                stretch.clip_start_s
            } else {
                0.5 * (stretch.clip_start_s + stretch.clip_end_s)
            };
            let world = world_s(own, at);
            let axis = stretch.axis_s(at);
            let base_clip = of_base.stretches[0].clip_s(axis);
            world_s(other, base_clip) - world
        })
        .max_by(|a, b| a.abs().total_cmp(&b.abs()))
}

fn world_s(take: &Take, clip_s: f64) -> f64 {
    let piece = take.truth.iter().rev().find(|(own, _)| *own <= clip_s + 1e-9).unwrap_or(&take.truth[0]);
    piece.1 + (clip_s - piece.0) / (1.0 + take.ppm * 1e-6)
}
