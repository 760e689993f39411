//! Breaks along a clip, changed by hand: where samples were lost, what follows lies later than the clip's own time says.

use super::{
    placement::Placement,
    stretch::{JOINED_S, Stretch, length_s, runs},
};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use ts_rs::TS;

/// A break as it is: between two runs of a clip.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Break {
    /// Where it lies in the clip's own time, seconds.
    pub clip_s: f64,
    /// How much later what follows lies than it would without it, seconds.
    pub step_s: f64,
}

/// A change to a clip's breaks. Breaks are counted from 0 along the clip.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum BreakEdit {
    /// What follows a moment lies so much later than before.
    Add {
        /// The moment, in the clip's own time, seconds.
        clip_s: f64,
        /// How much later, seconds.
        step_s: f64,
    },
    /// A break lies elsewhere; its step stays.
    Move {
        /// Which.
        number: usize,
        /// Where, in the clip's own time, seconds.
        clip_s: f64,
    },
    /// There was none: what follows goes on where what comes before ends.
    Remove {
        /// Which.
        number: usize,
    },
}

/// Why breaks cannot be changed so.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
#[non_exhaustive]
pub enum BreakError {
    /// There is no place whose breaks could be changed.
    #[error("it has no place yet; lay it first, then break it")]
    Unplaced,
    /// No such break.
    #[error("it has no break {}; reload the page", .0 + 1)]
    Missing(usize),
    /// A moment outside of what could break there.
    #[error("a break lies between {from_s:.2} s and {to_s:.2} s of the clip here")]
    Outside {
        /// From this moment of the clip on, seconds.
        from_s: f64,
        /// To this one, seconds.
        to_s: f64,
    },
    /// A step that is none, or would put what follows before what it follows.
    #[error("what follows can lie from {:.3} s earlier on, and elsewhere than it lies now", .0)]
    Step(f64),
}

/// A run is at least this long: shorter ones are neither seen nor heard, seconds.
const SHORTEST_S: f64 = 0.02;
/// What follows lies no farther off than a day.
const FARTHEST_S: f64 = 86_400.0;

/// The breaks along a clip.
pub fn breaks(stretches: &[Stretch]) -> Vec<Break> {
    let all: Vec<&[Stretch]> = runs(stretches).collect();
    all.windows(2).map(|pair| between(pair[0], pair[1])).collect()
}

fn between(before: &[Stretch], after: &[Stretch]) -> Break {
    let (last, next) = (before[before.len() - 1], after[0]);
    Break { clip_s: next.clip_start_s, step_s: next.start_s - last.axis_s(next.clip_start_s) }
}

impl Placement {
    /// Changes a break. What is left along the clip is told for where it lies then.
    ///
    /// # Errors
    /// [`BreakError`]; then nothing is changed.
    pub fn change_break(&mut self, edit: BreakEdit) -> Result<(), BreakError> {
        let now = changed(&self.stretches, edit)?;
        for residual in &mut self.residuals {
            let of =
                |stretches: &[Stretch]| super::stretch_at(stretches, residual.clip_s).axis_s(residual.clip_s);
            residual.error_ms += 1e3 * (of(&self.stretches) - of(&now));
        }
        self.stretches = now;
        Ok(())
    }
}

/// The stretches after a change.
fn changed(stretches: &[Stretch], edit: BreakEdit) -> Result<Vec<Stretch>, BreakError> {
    let mut all: Vec<Vec<Stretch>> = runs(stretches).map(<[Stretch]>::to_vec).collect();
    if all.is_empty() {
        return Err(BreakError::Unplaced);
    }
    match edit {
        BreakEdit::Add { clip_s, step_s } => {
            let holds = |run: &Vec<Stretch>| clip_s < run[run.len() - 1].clip_end_s;
            let number = all.iter().position(holds).unwrap_or(all.len() - 1);
            within(clip_s, extent(&all[number]))?;
            let earliest = SHORTEST_S - (clip_s - all[number][0].clip_start_s);
            if !(earliest..FARTHEST_S).contains(&step_s) || step_s.abs() < JOINED_S {
                return Err(BreakError::Step(-earliest));
            }
            let (before, mut after) = cut(&all[number], clip_s);
            later(&mut after, step_s);
            all[number + 1..].iter_mut().for_each(|run| later(run, step_s));
            all.splice(number..=number, [before, after]);
        }
        BreakEdit::Move { number, clip_s } => {
            let (before, after) = pair(&all, number)?;
            within(clip_s, (extent(before).0, extent(after).1))?;
            let moved = [cut(before, clip_s).0, cut(after, clip_s).1];
            all.splice(number..number + 2, moved);
        }
        BreakEdit::Remove { number } => {
            let (before, after) = pair(&all, number)?;
            let Break { clip_s, step_s } = between(before, after);
            let mut whole = before.to_vec();
            all[number + 1..].iter_mut().for_each(|run| later(run, -step_s));
            let mut after = &all[number + 1][..];
            if let (Some(last), Some(next)) = (whole.last_mut(), after.first()) {
                last.clip_end_s = clip_s;
                // One clock at one rate is one stretch.
                if last.rate_ppm.total_cmp(&next.rate_ppm).is_eq() {
                    last.clip_end_s = next.clip_end_s;
                    after = &after[1..];
                }
            }
            whole.extend_from_slice(after);
            all.splice(number..number + 2, [whole]);
        }
    }
    Ok(all.concat())
}

fn pair(all: &[Vec<Stretch>], number: usize) -> Result<(&[Stretch], &[Stretch]), BreakError> {
    let after = number.checked_add(1).and_then(|next| all.get(next)).ok_or(BreakError::Missing(number))?;
    Ok((&all[number], after))
}

/// From when to when a run goes, in the clip's own time.
fn extent(run: &[Stretch]) -> (f64, f64) {
    (run[0].clip_start_s, run[0].clip_start_s + length_s(run))
}

fn within(clip_s: f64, (from_s, to_s): (f64, f64)) -> Result<(), BreakError> {
    let (from_s, to_s) = (from_s + SHORTEST_S, to_s - SHORTEST_S);
    if (from_s..=to_s).contains(&clip_s) { Ok(()) } else { Err(BreakError::Outside { from_s, to_s }) }
}

fn later(run: &mut [Stretch], by_s: f64) {
    run.iter_mut().for_each(|stretch| stretch.start_s += by_s);
}

/// A run up to a moment and from it on. Beyond its ends it goes on as its ends do.
fn cut(run: &[Stretch], clip_s: f64) -> (Vec<Stretch>, Vec<Stretch>) {
    let (first, last) = (0, run.len() - 1);
    let mut before: Vec<Stretch> = run
        .iter()
        .enumerate()
        .filter(|(i, own)| *i == first || own.clip_start_s < clip_s)
        .map(|(_, own)| *own)
        .collect();
    if let Some(own) = before.last_mut() {
        own.clip_end_s = clip_s;
    }
    let mut after: Vec<Stretch> = run
        .iter()
        .enumerate()
        .filter(|(i, own)| *i == last || own.clip_end_s > clip_s)
        .map(|(_, own)| *own)
        .collect();
    if let Some(own) = after.first_mut() {
        own.start_s = own.axis_s(clip_s);
        own.clip_start_s = clip_s;
    }
    (before, after)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::answer::{Residual, stretch_at};
    use proptest::prelude::*;

    /// A clip of 100 s whose clock bends at 30 s, with a break at 60 s behind which all lies 0.4 s later.
    fn broken() -> Vec<Stretch> {
        let whole = Stretch::whole(100.0, 1000.0);
        let first = Stretch { clip_end_s: 30.0, rate_ppm: 40.0, ..whole };
        let second = Stretch {
            clip_start_s: 30.0,
            clip_end_s: 60.0,
            start_s: first.end_s(),
            rate_ppm: -20.0,
            ..whole
        };
        let third = Stretch { clip_start_s: 60.0, start_s: second.end_s() + 0.4, rate_ppm: -20.0, ..whole };
        vec![first, second, third]
    }

    fn at(stretches: &[Stretch], clip_s: f64) -> f64 {
        stretch_at(stretches, clip_s).axis_s(clip_s)
    }

    #[test]
    fn a_break_is_told_by_where_it_lies_and_how_far_it_steps() {
        let found = breaks(&broken());
        assert_eq!(found.len(), 1, "a bend is no break");
        assert!((found[0].clip_s - 60.0).abs() < 1e-9 && (found[0].step_s - 0.4).abs() < 1e-9, "{found:?}");
    }

    #[test]
    fn a_break_is_added_moved_and_taken_out() {
        let old = broken();
        let added = changed(&old, BreakEdit::Add { clip_s: 20.0, step_s: -0.1 }).expect("possible");
        assert_eq!(breaks(&added).len(), 2);
        assert!((at(&added, 10.0) - at(&old, 10.0)).abs() < 1e-9);
        for after in [20.5, 45.0, 80.0] {
            assert!((at(&added, after) - at(&old, after) + 0.1).abs() < 1e-9, "{after}");
        }
        for clip_s in [10.0, 29.0, 45.0, 70.0, 99.0] {
            let moved = changed(&old, BreakEdit::Move { number: 0, clip_s }).expect("possible");
            let found = breaks(&moved);
            assert!(found.len() == 1 && (found[0].clip_s - clip_s).abs() < 1e-9, "{found:?}");
            // Beyond both, nothing moved.
            for far in [5.0, 99.9] {
                assert!((at(&moved, far) - at(&old, far)).abs() < 1e-9, "{clip_s} {far}");
            }
        }
        let whole = changed(&old, BreakEdit::Remove { number: 0 }).expect("possible");
        assert_eq!((breaks(&whole), whole.len()), (vec![], 2));
        assert!((at(&whole, 80.0) - at(&old, 80.0) + 0.4).abs() < 1e-9);
    }

    #[test]
    fn what_is_left_is_told_for_where_it_lies_then() {
        let mut placement = Placement::unplaced("");
        assert_eq!(placement.change_break(BreakEdit::Remove { number: 0 }), Err(BreakError::Unplaced));
        placement.stretches = vec![Stretch::whole(100.0, 1000.0)];
        // Behind 60 s it was measured to lie 0.4 s later than it was laid.
        let left = |clip_s: f64, error_ms: f64| Residual { clip_s, error_ms };
        placement.residuals = vec![left(10.0, 0.2), left(80.0, 400.3)];
        placement.change_break(BreakEdit::Add { clip_s: 60.0, step_s: 0.4 }).expect("possible");
        let errors: Vec<f64> = placement.residuals.iter().map(|own| own.error_ms).collect();
        assert!((errors[0] - 0.2).abs() < 1e-6 && (errors[1] - 0.3).abs() < 1e-6, "{errors:?}");
    }

    #[test]
    fn what_cannot_be_is_refused_with_its_bounds() {
        let old = broken();
        let add = |clip_s: f64, step_s: f64| changed(&old, BreakEdit::Add { clip_s, step_s });
        for clip_s in [-1.0, 0.0, 100.0, 1e9, f64::NAN] {
            assert!(matches!(add(clip_s, 0.4), Err(BreakError::Outside { .. })), "{clip_s}");
        }
        for step_s in [0.0, 5e-5, -20.0, 1e6, f64::NAN, f64::INFINITY] {
            assert!(matches!(add(20.0, step_s), Err(BreakError::Step(_))), "{step_s}");
        }
        assert_eq!(changed(&old, BreakEdit::Remove { number: 1 }), Err(BreakError::Missing(1)));
        assert_eq!(
            changed(&old, BreakEdit::Remove { number: usize::MAX }),
            Err(BreakError::Missing(usize::MAX))
        );
    }

    proptest! {
        /// Taking out what was added leaves a clip where it was.
        #[test]
        fn what_is_added_and_taken_out_is_gone(clip_s in 0.1..99.9_f64, step_s in -0.05..5.0_f64) {
            prop_assume!(step_s.abs() > 2.0 * JOINED_S && (clip_s - 60.0).abs() > 0.1);
            let old = broken();
            let added = changed(&old, BreakEdit::Add { clip_s, step_s }).expect("possible");
            let number = breaks(&added).iter().position(|own| (own.clip_s - clip_s).abs() < 1e-9).expect("there");
            let back = changed(&added, BreakEdit::Remove { number }).expect("possible");
            for probe in [1.0, 29.0, 31.0, 59.0, 61.0, 99.0] {
                prop_assert!((at(&back, probe) - at(&old, probe)).abs() < 1e-9);
            }
        }
    }
}
