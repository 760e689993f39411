//! What is done about a sound whose clock runs otherwise: its course made anew by the correction chosen.

use super::{
    Fill, Samples,
    course::{Leg, Rates, runs_of},
    quiet::Quiet,
    ratio::label_ratio,
};

/// Every run of a course at its own pace from where it begins: every sample is kept. A wrong label is corrected by its ratio.
pub fn left(legs: &[Leg], rates: Rates) -> Vec<Leg> {
    runs_of(legs).map(|run| paced(run, run[0].at, run[0].from, rates)).collect()
}

/// A leg at a run's own pace from one of its moments to its end.
fn paced(run: &[Leg], at: f64, from: i64, rates: Rates) -> Leg {
    let step = own_step(run, rates);
    // On whole samples where the rates are the same: nothing is worked out, all is kept.
    Leg { from, to: run[run.len() - 1].to, at: if step == 1.0 { at.round() } else { at }, step }
}

/// Samples of the sound from one output sample to the next where its clock is taken at its word, but for a wrong label.
pub(super) fn own_step(run: &[Leg], rates: Rates) -> f64 {
    let nominal = rates.own / rates.out;
    let (first, last) = (&run[0], &run[run.len() - 1]);
    let pace = (last.position(last.to) - first.at) / (last.to - first.from) as f64;
    nominal * label_ratio(pace / nominal)
}

/// Every sample kept, and the sound slipped by samples before it is `limit_s` off: at the quietest moment on the way there, as
/// `source` is heard on the channels that are `listened` to. From there on it is nearly as far off on the other side.
///
/// # Errors
/// Those of the source.
pub fn recut<S: Samples>(
    legs: &[Leg],
    rates: Rates,
    limit_s: f64,
    listened: &[bool],
    source: &mut S,
) -> Result<Vec<Leg>, S::Error> {
    let limit = limit_s * rates.own;
    let mut out = vec![];
    for run in runs_of(legs) {
        let mut own = paced(run, run[0].at, run[0].from, rates);
        while let Some(late) = first_beyond(run, &own, limit) {
            let early = first_beyond(run, &own, limit / 2.0).unwrap_or(late);
            let early = early.min(late).max(late - (REACH_S * rates.out) as i64).max(own.from);
            let quiet = Quiet::between(position(run, early), position(run, late), rates.own);
            let share = quiet.find(listened, source)?;
            let cut = early + ((late - early) as f64 * share) as i64;
            let off = position(run, cut) - own.position(cut);
            out.push(Leg { to: cut, ..own });
            own = paced(run, position(run, cut) + BACK * limit.copysign(off), cut, rates);
        }
        out.push(own);
    }
    Ok(out)
}

/// A slip goes so far to the other side of the limit: where the clock bends back there is room yet.
const BACK: f64 = 0.9;
/// A pause is looked for so far before the limit is reached, seconds.
const REACH_S: f64 = 60.0;

/// Where an output sample of a run lies in the sound.
fn position(run: &[Leg], sample: i64) -> f64 {
    let leg = run.iter().find(|leg| sample < leg.to).unwrap_or(&run[run.len() - 1]);
    leg.position(sample)
}

/// The first output sample at which `own` is `limit` samples of the sound from where the run has it, on the side to which it
/// drifts; `None` where it never is.
fn first_beyond(run: &[Leg], own: &Leg, limit: f64) -> Option<i64> {
    run.iter().filter(|leg| leg.to > own.from).find_map(|leg| {
        let begin = leg.from.max(own.from);
        let (off, drift) = (leg.position(begin) - own.position(begin), leg.step - own.step);
        if drift == 0.0 {
            return None;
        }
        let steps = (limit.copysign(drift) - off) / drift;
        let at = begin + steps.ceil() as i64;
        (steps > 0.0 && at < leg.to).then_some(at)
    })
}

/// A course whose holes are treated as was chosen.
pub fn filled(legs: &[Leg], fill: Fill) -> Vec<Leg> {
    if fill == Fill::Silence {
        return legs.to_vec();
    }
    // What follows a loss follows at once.
    let mut earlier = 0;
    let mut out: Vec<Leg> = vec![];
    for leg in legs {
        earlier = match out.last() {
            Some(last) if leg.from - earlier > last.to => leg.from - last.to,
            _ => earlier,
        };
        out.push(Leg { from: leg.from - earlier, to: leg.to - earlier, ..*leg });
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        sound::{Samples, course},
        sync::Stretch,
    };
    use std::convert::Infallible;

    const RATES: Rates = Rates { out: 48_000.0, own: 48_000.0 };

    fn clip(duration_s: f64, start_s: f64, rate_ppm: f64) -> Stretch {
        Stretch { rate_ppm, ..Stretch::whole(duration_s, start_s) }
    }

    fn legs(minutes: f64, ppm: f64) -> Vec<Leg> {
        let s = minutes * 60.0;
        course(&[clip(s, 0.0, ppm)], &[clip(s, 0.0, 0.0)], 0.0, (s * 48_000.0) as i64, RATES)
    }

    #[test]
    fn left_alone_a_run_begins_where_it_belongs_and_keeps_every_sample() {
        let recorder = [clip(3600.0, 0.3, 38.8)];
        let camera = [clip(3600.0, 0.0, 0.0)];
        let true_legs = course(&recorder, &camera, 0.0, 3600 * 48_000, RATES);
        let left = left(&true_legs, RATES);
        assert_eq!((left.len(), left[0].step), (1, 1.0));
        assert!(left[0].at.fract() == 0.0 && (left[0].at - true_legs[0].at).abs() <= 0.5);
        let last = left[0].to - 1;
        let off_s = (true_legs[0].position(last) - left[0].position(last)) / 48_000.0;
        assert!((off_s - 3599.7 * 38.8e-6).abs() < 1e-4, "{off_s}");
    }

    #[test]
    fn a_wrong_label_is_corrected_by_its_ratio_and_no_more() {
        // 48 kHz labelled 44.1, by a clock 20 ppm fast; and 0.1 % pulled down.
        for (ratio, ppm) in [(160.0 / 147.0, 20.0), (1.001, -35.0), (1.0 / 1.001, 0.0)] {
            let all_ppm = (ratio * (1.0 + ppm * 1e-6) - 1.0) * 1e6;
            let left = left(&legs(10.0, all_ppm), RATES);
            assert!((left[0].step / ratio - 1.0).abs() < 1e-12, "{} for {ratio}", left[0].step);
        }
    }

    /// A talker who pauses for a tenth of a second every seven.
    struct Talk;

    impl Samples for Talk {
        type Error = Infallible;

        fn channels(&self) -> usize {
            2
        }

        fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
            for (i, value) in out[0].iter_mut().enumerate() {
                let at = (from + i as i64).rem_euclid(7 * 48_000);
                *value = if at < 4_800 { 0.0 } else { (at as f32 * 0.05).sin() };
            }
            out[1].fill(1.0); // what nobody listens to
            Ok(())
        }
    }

    #[test]
    fn a_recut_keeps_within_the_limit_and_cuts_where_it_is_quiet() {
        for ppm in [38.8, -120.0, 1_020.0, -900.0] {
            let legs = legs(20.0, ppm);
            let cut = match recut(&legs, RATES, 0.01, &[true, false], &mut Talk) {
                Ok(cut) => cut,
                Err(never) => match never {},
            };
            assert!(cut.len() > 1, "{ppm}: {}", cut.len());
            let nominal = cut[0].step;
            assert!(cut.iter().all(|leg| leg.step == nominal));
            for (leg, next) in cut.iter().zip(cut.iter().skip(1)) {
                assert_eq!(leg.to, next.from);
                let in_talk = (leg.position(leg.to) as i64).rem_euclid(7 * 48_000);
                // Within the pause; by more than half the fade from its ends.
                assert!((100..4_700).contains(&in_talk) || ppm.abs() > 800.0, "{ppm}: {in_talk}");
            }
            for leg in &cut {
                for at in [leg.from, leg.to - 1] {
                    let off_s = (position(&legs, at) - leg.position(at)) / 48_000.0;
                    assert!(off_s.abs() <= 0.010_02, "{ppm}: {off_s} at {at}");
                }
            }
        }
    }

    #[test]
    fn a_clock_that_is_right_is_not_cut() {
        let legs = legs(60.0, 0.5);
        let cut = recut(&legs, RATES, 0.01, &[true, true], &mut Talk).unwrap_or_default();
        assert_eq!(cut.len(), 1);
    }

    #[test]
    fn what_was_lost_is_silent_or_closed() {
        let one = Leg { from: 0, to: 1_000, at: 0.0, step: 1.0 };
        let two = Leg { from: 1_500, to: 2_000, at: 1_000.0, step: 1.0 };
        let three = Leg { from: 2_600, to: 3_000, at: 1_500.0, step: 1.0 };
        let legs = [one, two, three];
        assert_eq!(filled(&legs, Fill::Silence), legs);
        let closed: Vec<(i64, i64)> =
            filled(&legs, Fill::Close).iter().map(|leg| (leg.from, leg.to)).collect();
        assert_eq!(closed, [(0, 1_000), (1_000, 1_500), (1_500, 1_900)]);
    }
}
