//! A camera that was fed the recorder's own signal hears it without air between: the sound can be laid to billionths of a
//! second, so that the one cancels the other.

use super::{
    Rates, Render, Samples,
    course::{Leg, runs_of},
};
use realfft::{RealFftPlanner, RealToComplex, num_complex::Complex64};
use std::{f64::consts::TAU, ops::Range, sync::Arc};

/// Length of a passage that is compared, in samples, and of the pieces over which its spectra are averaged.
const WINDOW: usize = 32_768;
const PIECE: usize = 4_096;
/// Passages of a run that are compared, and how many of the first are tried before it is given up: nothing came by cable.
const WINDOWS: i64 = 48;
const TRIED: i64 = 6;
/// Share of the power that both have in common where one signal went to both.
const SAME: f64 = 0.995;
/// The frequencies at which it is so too, and the share of them that is asked for: a few loud tones of one thing in one room are
/// alike in two microphones, and the rest of the room is not.
const ALIKE: f64 = 0.9;
const WIDE: f64 = 0.25;
/// The sound already lies within so many samples.
const NEAR: f64 = 3.0;
/// Frequencies that are compared, Hz.
const BAND_HZ: (f64, f64) = (50.0, 16_000.0);

/// The course of `source` along a leading clip, laid anew by what that clip's own sound has in common with it; `None` where no
/// channel of the two is one signal. `leading` is read along `own`, the leading clip's own course.
///
/// Delays are the slopes of the cross spectrum's phase, each frequency weighted by its coherence (G. C. Carter, 1987: "Coherence
/// and time delay estimation"), and a clock's are a line.
///
/// # Errors
/// Those of either sound.
pub fn by_cable<S: Samples, L: Samples<Error = S::Error>>(
    legs: &[Leg],
    rates: Rates,
    source: &mut S,
    own: (Leg, Rates),
    leading: &mut L,
) -> Result<Option<Vec<Leg>>, S::Error> {
    let (heard, known) = (Render::new(legs.to_vec(), rates), Render::new(vec![own.0], own.1));
    let mut compared = Compared::new(rates.out);
    let mut out = vec![];
    let mut found = false;
    for run in runs_of(legs) {
        let (from, to) = (run[0].from, run[run.len() - 1].to);
        let last = to - WINDOW as i64;
        let count = ((to - from) / WINDOW as i64).clamp(1, WINDOWS);
        let mut points = vec![];
        for number in 0..count {
            let begin = from + (last - from).max(0) * number / (count - 1).max(1);
            if last < from || points.is_empty() && number >= TRIED {
                break;
            }
            let mut theirs = vec![vec![0.0; WINDOW]; source.channels()];
            let mut ours = vec![vec![0.0; WINDOW]; leading.channels()];
            heard.read(source, begin, &mut theirs)?;
            known.read(leading, begin, &mut ours)?;
            if let Some(late) = compared.late(&theirs, &ours) {
                points.push(((begin + WINDOW as i64 / 2) as f64, late));
            }
        }
        found |= !points.is_empty();
        let (base, slope) = line(&points);
        // What comes late is read as much further on.
        out.extend(run.iter().map(|leg| Leg {
            at: leg.at + (base + slope * leg.from as f64) * leg.step,
            step: leg.step * (1.0 + slope),
            ..*leg
        }));
    }
    Ok(found.then_some(out))
}

/// The line through moments and how late it is there, both in samples.
fn line(points: &[(f64, f64)]) -> (f64, f64) {
    let count = points.len() as f64;
    let mean = |of: fn(&(f64, f64)) -> f64| points.iter().map(of).sum::<f64>() / count.max(1.0);
    let (at, late) = (mean(|point| point.0), mean(|point| point.1));
    let (both, own) = points.iter().fold((0.0, 0.0), |(both, own), point| {
        (both + (point.0 - at) * (point.1 - late), own + (point.0 - at).powi(2))
    });
    // Two moments tell no more than where it is: a clock is known better from the whole day.
    let slope = if points.len() < 3 || own == 0.0 { 0.0 } else { both / own };
    (late - slope * at, slope)
}

/// Comparing passages.
struct Compared {
    transform: Arc<dyn RealToComplex<f64>>,
    weights: Vec<f64>,
    bins: Range<usize>,
    /// The channels that are one signal, once they are known.
    pair: Option<(usize, usize)>,
}

impl Compared {
    fn new(rate: f64) -> Self {
        let bin = |hz: f64| ((hz / rate * PIECE as f64) as usize).clamp(1, PIECE * 2 / 5);
        let weight = |i: usize| 0.5 - 0.5 * (TAU * i as f64 / PIECE as f64).cos();
        Self {
            transform: RealFftPlanner::new().plan_fft_forward(PIECE),
            weights: (0..PIECE).map(weight).collect(),
            bins: bin(BAND_HZ.0)..bin(BAND_HZ.1),
            pair: None,
        }
    }

    /// How much later `theirs` has what `ours` has, in samples; `None` where no two channels are one signal.
    fn late(&mut self, theirs: &[Vec<f32>], ours: &[Vec<f32>]) -> Option<f64> {
        if let Some((their, our)) = self.pair {
            return self.pair_late(&theirs[their], &ours[our]);
        }
        for (their, a) in theirs.iter().enumerate() {
            for (our, b) in ours.iter().enumerate() {
                if let Some(late) = self.pair_late(a, b) {
                    self.pair = Some((their, our));
                    return Some(late);
                }
            }
        }
        None
    }

    fn pair_late(&self, their: &[f32], our: &[f32]) -> Option<f64> {
        let (a, b) = (self.spectra(their), self.spectra(our));
        let mut cross = vec![];
        let (mut common, mut all) = (0.0, 0.0);
        for bin in self.bins.clone() {
            let (mut both, mut own, mut other) = (Complex64::default(), 0.0, 0.0);
            for (a, b) in a.iter().zip(&b) {
                both += a[bin] * b[bin].conj();
                own += a[bin].norm_sqr();
                other += b[bin].norm_sqr();
            }
            let power = own * other;
            let coherence = if power > 0.0 { both.norm_sqr() / power } else { 0.0 };
            common += coherence * power.sqrt();
            all += power.sqrt();
            cross.push((bin as f64, both, coherence));
        }
        let alike = cross.iter().filter(|(_, _, coherence)| *coherence >= ALIKE).count();
        if all <= 0.0 || common < SAME * all || (alike as f64) < WIDE * cross.len() as f64 {
            return None;
        }
        // Where the sum is largest by whole steps, then along the phase that is left.
        let sum = |late: f64| -> Complex64 {
            let turned = |(bin, both, _): &(f64, Complex64, f64)| both * turn(*bin, late);
            cross.iter().map(turned).sum()
        };
        let steps = (-12..=12).map(|step| f64::from(step) * NEAR / 12.0);
        let mut late = steps.max_by(|a, b| sum(*a).re.abs().total_cmp(&sum(*b).re.abs()))?;
        let sign = sum(late).re.signum();
        for _ in 0..4 {
            let (mut along, mut across) = (0.0, 0.0);
            for (bin, both, coherence) in &cross {
                let left = (both * turn(*bin, late) * sign).arg();
                let weight = coherence / (1.0 - coherence + 1e-6);
                let angle = TAU * bin / PIECE as f64;
                along -= weight * angle * left;
                across += weight * angle * angle;
            }
            late += along / across;
        }
        (late.abs() <= NEAR).then_some(late)
    }

    fn spectra(&self, samples: &[f32]) -> Vec<Vec<Complex64>> {
        let pieces = (0..=(samples.len() - PIECE) / (PIECE / 2)).map(|number| number * PIECE / 2);
        let spectrum = |from: usize| {
            let own = samples[from..from + PIECE].iter().zip(&self.weights);
            let mut input: Vec<f64> = own.map(|(value, weight)| f64::from(*value) * weight).collect();
            let mut out = self.transform.make_output_vec();
            // Lengths are those that the plan was made for.
            let _ = self.transform.process(&mut input, &mut out);
            out
        };
        pieces.map(spectrum).collect()
    }
}

/// Takes the turn of so many samples' delay out of a bin.
fn turn(bin: f64, late: f64) -> Complex64 {
    Complex64::from_polar(1.0, TAU * bin * late / PIECE as f64)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sound::Samples;
    use std::convert::Infallible;

    /// Many tones, sampled by a clock of its own; on its second channel something else.
    struct Tones {
        at: f64,
        step: f64,
        gain: f32,
        other: u64,
    }

    impl Samples for Tones {
        type Error = Infallible;

        fn channels(&self) -> usize {
            2
        }

        fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
            for i in 0..out[0].len() {
                let n = from + i as i64;
                let at = self.at + n as f64 * self.step;
                let tone = |k: i32| {
                    let turns = f64::from(k * k) * 0.001_017 * at + 0.37 * f64::from(k);
                    (TAU * turns.fract()).sin() * (TAU * (at * 1e-5 * f64::from(k)).fract()).sin()
                };
                out[0][i] = self.gain * (1..=20).map(tone).sum::<f64>() as f32 / 30.0;
                let noise = (n as u64).wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ self.other;
                out[1][i] = (noise.wrapping_mul(0xD134_2543_DE82_EF95) >> 40) as f32 / (1 << 24) as f32 - 0.5;
            }
            Ok(())
        }
    }

    const RATES: Rates = Rates { out: 48_000.0, own: 48_000.0 };

    fn found(gain: f32, off: f64, drift: f64) -> Option<(Leg, f64, f64)> {
        let samples = 12 * 48_000;
        let step = 1.0 + 50e-6;
        // The recorder counts faster; where the clocks are thought to lie is a little off.
        let mut recorder = Tones { at: 0.0, step: 1.0 / step, gain, other: 1 };
        let mut camera = Tones { at: 4_800.25 / step, step: 1.0, gain: 1.0, other: 2 };
        let leg = Leg { from: 0, to: samples, at: 4_800.25 + off, step: step * (1.0 + drift) };
        let own = Leg { from: 0, to: samples, at: 0.0, step: 1.0 };
        let Ok(legs) = by_cable(&[leg], RATES, &mut recorder, (own, RATES), &mut camera);
        let leg = legs?[0];
        let true_at = |n: i64| 4_800.25 + n as f64 * step;
        Some((leg, leg.position(0) - true_at(0), leg.position(samples) - true_at(samples)))
    }

    #[test]
    fn one_signal_in_two_files_is_laid_to_thousandths_of_a_sample() {
        for (gain, off, drift) in [(1.0, 0.09, 0.0), (0.3, -0.8, 4e-8), (-1.0, 1.4, -5e-8)] {
            let (_, head, tail) = found(gain, off, drift).expect("one signal");
            assert!(head.abs() < 1e-3 && tail.abs() < 1e-3, "{off}: {head} {tail}");
        }
    }

    #[test]
    fn what_only_sounds_alike_is_left_where_it_is() {
        struct Apart(Tones, f32);
        impl Samples for Apart {
            type Error = Infallible;
            fn channels(&self) -> usize {
                2
            }
            fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
                self.0.read(from, out)?;
                // What else a room is full of.
                let [tones, noise] = out else { return Ok(()) };
                tones.iter_mut().zip(noise).for_each(|(tone, noise)| *tone += self.1 * *noise);
                Ok(())
            }
        }
        let leg = Leg { from: 0, to: 480_000, at: 0.1, step: 1.0 };
        let mut recorder = Tones { at: 0.0, step: 1.0, gain: 1.0, other: 1 };
        let own = Leg { at: 0.0, ..leg };
        // A room as loud as the tones, and one that is all but silent beside them.
        for room in [0.6, 0.02] {
            let mut camera = Apart(Tones { at: 0.0, step: 1.0, gain: 1.0, other: 2 }, room);
            let found = by_cable(&[leg], RATES, &mut recorder, (own, RATES), &mut camera);
            assert!(matches!(found, Ok(None)), "{room}");
        }
    }
}
