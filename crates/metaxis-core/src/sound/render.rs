//! The samples of a corrected sound, piece by piece.

use super::{
    course::{JOINED, Leg, Rates},
    kernel::Kernel,
};
use std::sync::Arc;

/// Where a sound's samples come from: all of its channels from a sample on, silence beyond its ends.
pub trait Samples {
    /// What reading can fail with.
    type Error;

    /// Channels.
    fn channels(&self) -> usize;

    /// Fills one buffer a channel, all of one length, from sample `from` on.
    ///
    /// # Errors
    /// Where it cannot be read.
    fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Self::Error>;
}

/// Where a sound jumps, one side goes over into the other within this, seconds.
const FADE_S: f64 = 0.005;

/// Makes the samples of a sound along a course.
///
/// ```
/// use metaxis_core::{sound::{Rates, Render, Samples, course}, sync::Stretch};
/// use std::convert::Infallible;
///
/// struct Tone;
/// impl Samples for Tone {
///     type Error = Infallible;
///     fn channels(&self) -> usize {
///         1
///     }
///     fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
///         for (i, value) in out[0].iter_mut().enumerate() {
///             *value = (0.1 * (from + i as i64) as f32).sin();
///         }
///         Ok(())
///     }
/// }
///
/// // A recorder that runs 40 ppm fast, on the clock of a camera that began a second later.
/// let rates = Rates { out: 48_000.0, own: 48_000.0 };
/// let recorder = [Stretch { rate_ppm: 40.0, ..Stretch::whole(60.0, 0.0) }];
/// let camera = [Stretch::whole(10.0, 1.0)];
/// let legs = course(&recorder, &camera, 0.0, 480_000, rates);
/// let mut out = vec![vec![0.0; 16]];
/// Render::new(legs, rates).read(&mut Tone, 0, &mut out)?;
/// assert!((out[0][0] - (0.1_f32 * 48_001.92).sin()).abs() < 1e-3);
/// # Ok::<(), Infallible>(())
/// ```
pub struct Render {
    legs: Vec<Leg>,
    kernel: Arc<Kernel>,
    fade: i64,
}

impl Render {
    /// Of a sound whose way is known.
    pub fn new(legs: Vec<Leg>, rates: Rates) -> Self {
        Self { legs, kernel: Kernel::shared(rates.own, rates.out), fade: (FADE_S * rates.out) as i64 }
    }

    /// Fills one buffer a channel, all of one length, with what is heard from output sample `from` on; silence where no leg is.
    ///
    /// # Errors
    /// Those of the source.
    pub fn read<S: Samples>(&self, source: &mut S, from: i64, out: &mut [Vec<f32>]) -> Result<(), S::Error> {
        let length = out.first().map_or(0, Vec::len) as i64;
        let first = self.legs.partition_point(|leg| leg.to <= from);
        if let Some(leg) = self.legs.get(first).filter(|leg| leg.from + self.fade <= from && leg.is_plain())
            && leg.to >= from + length
        {
            return source.read(leg.position(from) as i64, out);
        }
        out.iter_mut().for_each(|channel| channel.fill(0.0));
        for (number, leg) in self.legs.iter().enumerate().skip(first) {
            let (begin, end) = (leg.from.max(from), leg.to.min(from + length));
            if begin >= end {
                break;
            }
            let whole = self.piece(source, leg, begin, end)?;
            for (out, piece) in out.iter_mut().zip(&whole) {
                out[(begin - from) as usize..(end - from) as usize].copy_from_slice(piece);
            }
            // Behind a jump the leg before goes on a little, and fades.
            let jumps =
                |last: &&Leg| last.to == leg.from && (last.position(leg.from) - leg.at).abs() > JOINED;
            let Some(last) = number.checked_sub(1).map(|last| &self.legs[last]).filter(jumps) else {
                continue;
            };
            let faded = end.min(leg.from + self.fade);
            if faded <= begin {
                continue;
            }
            let tail = self.piece(source, last, begin, faded)?;
            for (out, tail) in out.iter_mut().zip(&tail) {
                for (i, old) in tail.iter().enumerate() {
                    let share = (begin + i as i64 - leg.from) as f32 / self.fade as f32;
                    let new = &mut out[(begin - from) as usize + i];
                    *new = share * *new + (1.0 - share) * old;
                }
            }
        }
        Ok(())
    }

    /// What a leg has from output sample `begin` to `end`, also beyond its ends.
    fn piece<S: Samples>(
        &self,
        source: &mut S,
        leg: &Leg,
        begin: i64,
        end: i64,
    ) -> Result<Vec<Vec<f32>>, S::Error> {
        let count = (end - begin) as usize;
        let channels = source.channels();
        if leg.is_plain() {
            let mut whole = vec![vec![0.0; count]; channels];
            source.read(leg.position(begin) as i64, &mut whole)?;
            return Ok(whole);
        }
        let (before, taps) = self.kernel.taps();
        let start = leg.position(begin).floor() as i64 - before as i64;
        let needed = (leg.position(end - 1).floor() as i64 - before as i64 + taps as i64 - start) as usize;
        let mut read = vec![vec![0.0; needed]; channels];
        source.read(start, &mut read)?;
        let mut out = vec![vec![0.0; count]; channels];
        let mut weights = vec![0.0; taps];
        for i in 0..count {
            let position = leg.position(begin + i as i64);
            let own = position.floor();
            self.kernel.weights(position - own, &mut weights);
            let first = (own as i64 - before as i64 - start) as usize;
            for (out, read) in out.iter_mut().zip(&read) {
                out[i] = dot(&weights, &read[first..first + taps]);
            }
        }
        Ok(out)
    }
}

/// The sum of products, in eight parts that are added at the end: as fast as the machine has it.
fn dot(weights: &[f32], samples: &[f32]) -> f32 {
    let mut sums = [0.0_f32; 8];
    for (weights, samples) in weights.as_chunks::<8>().0.iter().zip(samples.as_chunks::<8>().0) {
        for i in 0..8 {
            sums[i] += weights[i] * samples[i];
        }
    }
    sums.iter().sum()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::{convert::Infallible, f64::consts::TAU};

    const RATES: Rates = Rates { out: 48_000.0, own: 48_000.0 };

    /// Every sample by a function of its number.
    struct Made<F>(F);

    impl<F: Fn(i64) -> f64> Samples for Made<F> {
        type Error = Infallible;

        fn channels(&self) -> usize {
            1
        }

        fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
            let value = |i: usize| (self.0)(from + i as i64) as f32;
            out[0].iter_mut().enumerate().for_each(|(i, sample)| *sample = value(i));
            Ok(())
        }
    }

    fn read<F: Fn(i64) -> f64>(render: &Render, source: F, from: i64, count: usize) -> Vec<f32> {
        let mut out = vec![vec![0.0; count]];
        render.read(&mut Made(source), from, &mut out).unwrap_or_else(|never| match never {});
        out.swap_remove(0)
    }

    fn leg(at: f64, step: f64) -> Leg {
        Leg { from: 0, to: 2_000_000_000, at, step }
    }

    /// The largest difference of a tone from itself at the positions it was asked for, in dB under it.
    fn off_db(hz: f64, rates: Rates, ppm: f64, from: i64) -> f64 {
        let step = rates.own / rates.out * (1.0 + ppm * 1e-6);
        let own = leg(1000.25, step);
        let tone = |position: f64| (TAU * (hz / rates.own * position).fract()).sin();
        let found = read(&Render::new(vec![own], rates), |i| tone(i as f64), from, 4000);
        let off = |(i, value): (usize, &f32)| (f64::from(*value) - tone(own.position(from + i as i64))).abs();
        20.0 * found.iter().enumerate().map(off).fold(1e-12, f64::max).log10()
    }

    #[test]
    fn tones_of_the_pass_band_are_themselves_also_after_hours() {
        for hz in [30.0, 997.0, 7_000.0, 15_000.0, 19_000.0] {
            for (ppm, from) in [(38.8, 0), (-120.0, 0), (120.0, 10 * 3600 * 48_000)] {
                let off = off_db(hz, RATES, ppm, from);
                // The tone itself is rounded to 24 bits, and its place hours on to billionths of a sample.
                assert!(off < -116.0, "{hz} Hz at {ppm} ppm from {from}: {off:.1} dB");
            }
        }
        for own in [44_100.0, 96_000.0, 32_000.0] {
            let rates = Rates { out: 48_000.0, own };
            for hz in [997.0, 12_000.0] {
                let off = off_db(hz, rates, 0.0, 0);
                assert!(off < -110.0, "{hz} Hz of {own}: {off:.1} dB");
            }
        }
    }

    #[test]
    fn the_pass_band_is_flat_and_what_cannot_be_is_gone() {
        let gain_db = |hz: f64, rates: Rates| {
            let own = leg(500.0, rates.own / rates.out * (1.0 + 40e-6));
            let found =
                read(&Render::new(vec![own], rates), |i| (TAU * hz / rates.own * i as f64).sin(), 0, 48_000);
            let power = found.iter().map(|value| f64::from(*value).powi(2)).sum::<f64>() / found.len() as f64;
            10.0 * (2.0 * power).max(1e-18).log10()
        };
        for hz in [20.0, 1_000.0, 10_000.0, 18_000.0, 20_000.0] {
            let gain = gain_db(hz, RATES);
            assert!(gain.abs() < 0.1, "{hz}: {gain:.3} dB");
        }
        // From 96 kHz: what 48 kHz cannot hold must not come back as something else.
        let down = Rates { out: 48_000.0, own: 96_000.0 };
        assert!(gain_db(20_000.0, down).abs() < 0.1);
        for hz in [28_500.0, 35_000.0, 47_000.0] {
            let gain = gain_db(hz, down);
            assert!(gain < -120.0, "{hz}: {gain:.1} dB");
        }
    }

    #[test]
    fn pieces_are_the_whole_and_what_is_left_alone_is_kept_to_the_bit() {
        let noise = |i: i64| ((i.wrapping_mul(2_654_435_761) & 0xffff) as f64 / 32_768.0) - 1.0;
        let render = Render::new(vec![leg(1_000.3, 1.000_04)], RATES);
        let whole = read(&render, noise, 0, 3_000);
        for from in [0, 1, 777, 2_500] {
            let part = read(&render, noise, from, 500);
            assert_eq!(part, whole[from as usize..from as usize + 500], "from {from}");
        }
        let kept = read(&Render::new(vec![leg(70.0, 1.0)], RATES), noise, 5, 100);
        assert!(kept.iter().enumerate().all(|(i, value)| *value == noise(75 + i as i64) as f32));
    }

    #[test]
    fn a_jump_has_no_click_and_a_hole_is_silent() {
        let tone = |i: i64| 0.5 * (TAU * 220.0 / 48_000.0 * i as f64).sin();
        let first = Leg { from: 0, to: 10_000, at: 0.0, step: 1.000_02 };
        // 0.4 s are missing behind it, and after it comes a hole.
        let second = Leg { from: 10_000, to: 20_000, at: 29_200.0, step: 1.000_02 };
        let third = Leg { from: 30_000, to: 31_000, at: 0.5, step: 1.0 };
        let found = read(&Render::new(vec![first, second, third], RATES), tone, 0, 32_000);
        let steepest = found[..20_000].windows(2).map(|pair| (pair[1] - pair[0]).abs()).fold(0.0, f32::max);
        let own = (0.5 * TAU * 220.0 / 48_000.0) as f32;
        assert!(steepest < 1.5 * own, "{steepest} against {own}");
        assert!(found[20_000..30_000].iter().chain(&found[31_000..]).all(|value| *value == 0.0));
        // The same piece by piece, wherever one begins.
        let render = Render::new(vec![first, second, third], RATES);
        let part = read(&render, tone, 10_100, 300);
        assert_eq!(part, found[10_100..10_400]);
    }

    #[test]
    fn a_bend_of_the_clock_is_smooth() {
        let tone = |i: i64| (TAU * 9_000.0 / 48_000.0 * i as f64).sin();
        let first = Leg { from: 0, to: 5_000, at: 0.25, step: 1.000_04 };
        let second = Leg { from: 5_000, to: 10_000, at: first.position(5_000), step: 1.000_05 };
        let found = read(&Render::new(vec![first, second], RATES), tone, 0, 10_000);
        let at = |i: i64| if i < 5_000 { first.position(i) } else { second.position(i) };
        let off = |i: usize| (f64::from(found[i]) - (TAU * 9_000.0 / 48_000.0 * at(i as i64)).sin()).abs();
        let most = (4_900..5_100).map(off).fold(0.0, f64::max);
        assert!(most < 2e-6, "{most}");
    }
}
