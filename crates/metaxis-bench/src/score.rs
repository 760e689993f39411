//! What became of a shoot, against its truth.

use crate::{Shoot, Take};
use metaxis_core::sync::{DayResult, Placement, Signs, Verdict, clock_notes};
use metaxis_shoot::field::TrueTime;

/// Half a frame at 25 fps: what "right" means.
const RIGHT_S: f64 = 0.02;
/// Start errors above this are told one by one: what 99 % are to stay below.
const FAR_S: f64 = 0.5e-3;
/// A clip this long is looked at all along it, at so many moments; what is off by more is told.
const LONG_S: f64 = 600.0;
const MOMENTS: u32 = 400;
const ALONG_S: f64 = 0.3e-3;
/// A step this large is a break.
const STEP_S: f64 = 0.3e-3;

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
    /// Solid clips with such.
    pub invented_solid: usize,
    /// Largest error anywhere along each long clip, seconds.
    pub along_s: Vec<f64>,
    /// Share of start errors within two and three of their own sigmas: (within two, all).
    pub within_two_sigma: (usize, usize),
    /// Pictures without sound at the place their timecode gives them, and those there were.
    pub silent: (usize, usize),
    /// Islands that lie on the day within three sigmas of what is said, and those there were.
    pub laid: (usize, usize),
    /// How far they are off, seconds.
    pub laid_s: Vec<f64>,
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
        self.count_laid(shoot, result, name);
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
                    "{name}: take {i} (device {}) WRONG {:?} {:.3} by {:?}, {near} alternatives, {:?}, true {:?}",
                    take.device, placement.verdict, placement.confidence, error, placement.reasons, take.truth.gaps
                ));
            }
        }
    }

    fn count_named(&mut self, shoot: &Shoot, result: &DayResult, name: &str) {
        let notes = clock_notes(&result.clocks, &[]);
        for (device, frames) in &shoot.late_frames {
            let said = notes.iter().filter(|note| note.device == *device).find_map(|note| note.take_off);
            self.named.1 += 1;
            if said.unwrap_or(0) == *frames {
                self.named.0 += 1;
            } else {
                self.notes.push(format!("{name}: device {device} is {frames} frames late, said {said:?}"));
            }
        }
    }

    /// Islands on the day, where the shoot has one.
    fn count_laid(&mut self, shoot: &Shoot, result: &DayResult, name: &str) {
        let begins = |clip: usize| {
            Some(shoot.worlds_s.get(shoot.takes[clip].world)? + shoot.takes[clip].truth.at(0.0))
        };
        let Some(zero_s) = begins(result.reference) else { return };
        for island in result.islands.iter().filter(|island| island.component > 0) {
            let Some(true_s) = begins(island.reference) else { continue };
            let off_s = island.zero_s - (true_s - zero_s);
            self.laid.1 += 1;
            match island.sigma_s {
                Some(sigma_s) if off_s.abs() < 3.0 * sigma_s => self.laid.0 += 1,
                sigma => self.notes.push(format!(
                    "{name}: island {} lies {off_s:.2} s off, sigma {sigma:?} by {:?}",
                    island.component, island.by
                )),
            }
            if island.by.is_some() {
                self.laid_s.push(off_s.abs());
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
        let whole = take.truth.gaps.is_empty() && base.truth.gaps.is_empty();
        if whole {
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
        }
        self.measure_along(name, take, base, placement, of_base);
        let length = take.samples.len().min(base.samples.len()) as f64 / 16_000.0;
        if take.truth.bends.is_empty() && base.truth.bends.is_empty() {
            let truth = (1.0 + take.truth.ppm * 1e-6) / (1.0 + base.truth.ppm * 1e-6);
            let own =
                (1.0 + placement.stretches[0].rate_ppm * 1e-6) / (1.0 + of_base.stretches[0].rate_ppm * 1e-6);
            self.rate_ppm.push((length, ((own / truth - 1.0) * 1e6).abs()));
        }
        self.measure_breaks(name, take, base, placement, of_base);
    }

    /// How far a long clip is off anywhere along it, but for a second about each break.
    fn measure_along(
        &mut self,
        name: &str,
        take: &Take,
        base: &Take,
        placement: &Placement,
        of_base: &Placement,
    ) {
        let length_s = take.samples.len() as f64 / 16_000.0;
        if length_s < LONG_S {
            return;
        }
        let broken = |truth: &TrueTime, at: f64| truth.gaps.iter().any(|gap| (gap.at_s - at).abs() < 1.5);
        let errors = (0..=MOMENTS).filter_map(|i| {
            let at = length_s * f64::from(i) / f64::from(MOMENTS);
            let base_s = of_base.clip_s(placement.axis_s(at)?)?;
            let clean = !broken(&take.truth, at) && !broken(&base.truth, base_s);
            clean.then(|| (at, base.truth.at(base_s) - take.truth.at(at)))
        });
        let Some((at, worst)) = errors.max_by(|a, b| a.1.abs().total_cmp(&b.1.abs())) else { return };
        self.along_s.push(worst.abs());
        if worst.abs() > ALONG_S {
            self.notes.push(format!(
                "{name}: {:.2} ms off at {at:.0} s of {length_s:.0} s, {:?} {:.3}, {} stretches",
                worst * 1e3,
                placement.verdict,
                placement.confidence,
                placement.stretches.len()
            ));
        }
    }

    fn measure_breaks(
        &mut self,
        name: &str,
        take: &Take,
        base: &Take,
        placement: &Placement,
        of_base: &Placement,
    ) {
        // (moment, size) of what the answer calls a break: the joints of a bending clock are none.
        let steps: Vec<(f64, f64)> = placement
            .stretches
            .windows(2)
            .map(|pair| (pair[1].clip_start_s, pair[1].start_s - pair[0].axis_s(pair[1].clip_start_s)))
            .filter(|(_, size)| size.abs() > STEP_S)
            .collect();
        let near = |at: f64| take.truth.gaps.iter().any(|gap| (gap.at_s - at).abs() < 2.0);
        let in_base = |at: f64| {
            let there = placement.axis_s(at).and_then(|axis| of_base.clip_s(axis));
            there.is_some_and(|there| base.truth.gaps.iter().any(|gap| (gap.at_s - there).abs() < 2.0))
        };
        let invented: Vec<&(f64, f64)> = steps.iter().filter(|(at, _)| !near(*at) && !in_base(*at)).collect();
        self.false_breaks += invented.len();
        if !invented.is_empty() {
            self.invented_solid += usize::from(placement.verdict == Verdict::Solid);
            self.notes.push(format!(
                "{name}: INVENTED {invented:.4?} of {steps:.4?}, true {:.4?}, {:?}",
                take.truth.gaps, placement.verdict
            ));
        }
        for gap in &take.truth.gaps {
            self.breaks += 1;
            match steps.iter().find(|(at, _)| (at - gap.at_s).abs() < 1.0) {
                Some((at, size)) => {
                    self.found_breaks.push(((at - gap.at_s).abs(), (size - gap.lost_s).abs()));
                }
                None => self.notes.push(format!("{name}: {gap:.4?} not found, but {steps:.4?}")),
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
        self.invented_solid += other.invented_solid;
        self.along_s.extend(other.along_s);
        self.within_two_sigma.0 += other.within_two_sigma.0;
        self.within_two_sigma.1 += other.within_two_sigma.1;
        self.silent.0 += other.silent.0;
        self.silent.1 += other.silent.1;
        self.laid.0 += other.laid.0;
        self.laid.1 += other.laid.1;
        self.laid_s.extend(other.laid_s);
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
            let world = own.truth.at(at);
            let axis = stretch.axis_s(at);
            let base_clip = of_base.stretches[0].clip_s(axis);
            other.truth.at(base_clip) - world
        })
        .max_by(|a, b| a.abs().total_cmp(&b.abs()))
}
