//! Which samples of a sound belong to which moments of another clip's clock.

use crate::sync::Stretch;

/// Output samples that come from one stretch of a sound at a steady pace.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Leg {
    /// The first output sample, and the one after the last.
    pub from: i64,
    /// The output sample after the last.
    pub to: i64,
    /// Where the first output sample lies in the sound, in samples of it.
    pub at: f64,
    /// Samples of the sound from one output sample to the next.
    pub step: f64,
}

impl Leg {
    /// Where an output sample lies in the sound, in samples of it; also beyond the leg's ends.
    pub fn position(&self, sample: i64) -> f64 {
        self.at + (sample - self.from) as f64 * self.step
    }

    /// Whether it is the sound sample for sample.
    pub fn is_plain(&self) -> bool {
        self.step == 1.0 && self.at.fract() == 0.0
    }
}

/// Rates of the samples that come out and of the sound's, samples a second.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rates {
    /// Out.
    pub out: f64,
    /// The sound's own.
    pub own: f64,
}

/// The way of a sound along the clock of a leading clip, from `from_s` of that clip's own time on for `samples` samples. Both lie on
/// one axis. Where no leg is, the sound was not running: silence.
///
/// Of two stretches that lie over each other (samples were repeated there) the later one counts.
pub fn course(sound: &[Stretch], leading: &[Stretch], from_s: f64, samples: i64, rates: Rates) -> Vec<Leg> {
    let mut legs: Vec<Leg> = vec![];
    for (i, lead) in leading.iter().enumerate() {
        let lead_to_s =
            leading.get(i + 1).map_or(lead.clip_end_s, |next| next.clip_start_s.min(lead.clip_end_s));
        for (j, own) in sound.iter().enumerate() {
            let own_end_s = sound.get(j + 1).map_or(own.end_s(), |next| own.end_s().min(next.start_s));
            // In the leading clip's own time.
            let begin_s = lead.clip_s(own.start_s).max(lead.clip_start_s);
            let end_s = lead.clip_s(own_end_s).min(lead_to_s);
            let sample = |at_s: f64| ((at_s - from_s) * rates.out - NEARLY).ceil() as i64;
            let (from, to) = (sample(begin_s).max(0), sample(end_s).min(samples));
            if to <= from {
                continue;
            }
            let pace = (1.0 + own.rate_ppm * 1e-6) / (1.0 + lead.rate_ppm * 1e-6);
            let first_s = from_s + from as f64 / rates.out;
            let at = own.clip_s(lead.axis_s(first_s)) * rates.own;
            legs.push(Leg { from, to, at, step: pace * rates.own / rates.out });
        }
    }
    legs.sort_by_key(|leg| leg.from);
    legs
}

/// A moment this near to a sample, in samples, is that sample.
const NEARLY: f64 = 1e-6;
/// Legs that meet this closely, in samples of the sound, are one clock that bends.
pub(super) const JOINED: f64 = 0.5;

/// Whether `next` goes on where `last` ends: one clock, which may bend there.
pub(super) fn goes_on(last: &Leg, next: &Leg) -> bool {
    last.to == next.from && (last.position(next.from) - next.at).abs() < JOINED
}

/// The runs of a course without a jump or a hole.
pub(super) fn runs_of(legs: &[Leg]) -> impl Iterator<Item = &[Leg]> {
    legs.chunk_by(goes_on)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const RATES: Rates = Rates { out: 48_000.0, own: 48_000.0 };

    fn clip(duration_s: f64, start_s: f64, rate_ppm: f64) -> Stretch {
        Stretch { rate_ppm, ..Stretch::whole(duration_s, start_s) }
    }

    #[test]
    fn a_sound_lies_where_both_ran() {
        let recorder = [clip(600.0, 0.0, 0.0)];
        let camera = [clip(60.0, 100.0, 40.0)];
        let legs = course(&recorder, &camera, 0.0, 60 * 48_000, RATES);
        assert_eq!((legs.len(), legs[0].from, legs[0].to), (1, 0, 60 * 48_000));
        assert!((legs[0].at - 100.0 * 48_000.0).abs() < 1e-6);
        // The camera counts faster: fewer of the recorder's samples to each of its own.
        assert!((legs[0].step - 1.0 / (1.0 + 40e-6)).abs() < 1e-15);
        // A recorder that began five seconds later is silent until then, and ends before.
        let late = [clip(20.0, 105.0, 0.0)];
        let legs = course(&late, &camera, 0.0, 60 * 48_000, RATES);
        assert_eq!(legs.len(), 1);
        assert!(
            (legs[0].from - 5 * 48_000).abs() <= 10 && (legs[0].to - 25 * 48_000).abs() <= 50,
            "{legs:?}"
        );
        assert!(legs[0].at >= 0.0 && legs[0].at < 1.0);
    }

    #[test]
    fn several_files_and_what_was_lost_make_several_legs() {
        let camera = [clip(60.0, 100.0, 0.0)];
        // A chain of two files with three missing frames between, and 0.4 s lost in the second.
        let first = clip(20.0, 95.0, 0.0);
        let legs = course(&[first], &camera, 0.0, 60 * 48_000, RATES);
        assert_eq!((legs[0].from, legs[0].to), (0, 15 * 48_000));
        let second = [
            Stretch { clip_end_s: 10.0, ..clip(40.0, 115.12, 0.0) },
            Stretch { clip_start_s: 10.0, ..clip(40.0, 125.52, 0.0) },
        ];
        let legs = course(&second, &camera, 0.0, 60 * 48_000, RATES);
        let ends: Vec<(i64, i64)> = legs.iter().map(|leg| (leg.from, leg.to)).collect();
        assert_eq!(ends, [(725_760, 1_205_760), (1_224_960, 2_664_960)]);
        assert!((legs[1].at - 480_000.0).abs() < 1e-3);
    }

    proptest! {
        /// Ten hours on, a position is where whole-number arithmetic has it.
        #[test]
        fn positions_are_exact_over_hours(own in -120_000_i64..120_000, lead in -120_000_i64..120_000, start in 0_i64..48_000) {
            // Rates in thousandths of a ppm, starts in samples.
            let hours = 10 * 3600;
            let sound = [clip(f64::from(hours), 0.0, own as f64 / 1e3)];
            let camera = [clip(f64::from(hours) - 2.0, start as f64 / 48_000.0, lead as f64 / 1e3)];
            let samples = i64::from(hours - 3) * 48_000;
            let legs = course(&sound, &camera, 0.0, samples, RATES);
            prop_assert_eq!(legs.len(), 1);
            for sample in [0, samples / 3, legs[0].to - 1] {
                // position = (start + sample / (1 + lead)) · (1 + own), in billionths of a sample.
                let (one, own, lead) = (1_000_000_000_i128, i128::from(own), i128::from(lead));
                let axis = i128::from(start) * one + i128::from(sample) * one * one / (one + lead);
                let exact = axis * (one + own) / one;
                let found = legs[0].position(sample);
                prop_assert!((found - exact as f64 / 1e9).abs() < 0.01, "{} {}", found, exact);
            }
        }
    }
}
