//! Edits of a line, and that each can be taken back.

use metaxis_core::{
    group::AngleId,
    line::{Line, LineEdit, LineError},
};
use proptest::prelude::*;

const A: AngleId = AngleId(1);
const B: AngleId = AngleId(2);
const C: AngleId = AngleId(3);

fn cut(frames: i64, takes: &[(i64, AngleId)]) -> Line {
    let mut line = Line::new(frames, A);
    for &(at, angle) in takes {
        line.apply(&LineEdit::Take { at, angle }).expect("a take");
    }
    line
}

fn shape(line: &Line) -> Vec<(i64, i64, i64)> {
    line.stretches().map(|(from, to, angle)| (from, to, angle.0)).collect()
}

#[test]
fn a_take_runs_to_the_next_switch() {
    let mut line = cut(100, &[(20, B), (60, C)]);
    line.apply(&LineEdit::Take { at: 40, angle: A }).expect("a take");
    assert_eq!(shape(&line), [(0, 20, 1), (20, 40, 2), (40, 60, 1), (60, 100, 3)]);
    assert_eq!(line.angle_at(39), B);
    assert_eq!(line.angle_at(40), A);
}

#[test]
fn neighbours_with_one_angle_become_one_stretch() {
    let mut line = cut(100, &[(20, B), (60, C)]);
    line.apply(&LineEdit::ChangeAngle { index: 1, angle: C }).expect("a change");
    assert_eq!(shape(&line), [(0, 20, 1), (20, 100, 3)]);
    line.apply(&LineEdit::Remove { index: 1 }).expect("a removal");
    assert_eq!(shape(&line), [(0, 100, 1)]);
}

#[test]
fn a_cut_rolls_only_between_its_neighbours() {
    let mut line = cut(100, &[(20, B), (60, C)]);
    line.apply(&LineEdit::Roll { index: 1, by: 39 }).expect("a roll");
    assert_eq!(shape(&line), [(0, 59, 1), (59, 60, 2), (60, 100, 3)]);
    assert_eq!(
        line.apply(&LineEdit::Roll { index: 1, by: 1 }),
        Err(LineError::RollTooFar { least: -58, most: 0 })
    );
    assert_eq!(line.apply(&LineEdit::Roll { index: 0, by: 1 }), Err(LineError::Head));
    assert_eq!(line.apply(&LineEdit::Remove { index: 9 }), Err(LineError::NoStretch { index: 9, count: 3 }));
}

#[test]
fn what_lies_outside_or_changes_nothing_is_refused() {
    let mut line = cut(100, &[(20, B)]);
    let before = line.clone();
    for edit in [
        LineEdit::Take { at: 100, angle: B },
        LineEdit::Take { at: -1, angle: B },
        LineEdit::Take { at: 30, angle: B },
        LineEdit::Restore { switches: vec![] },
        LineEdit::Roll { index: 1, by: i64::MIN },
    ] {
        assert!(line.apply(&edit).is_err(), "{edit:?}");
        assert_eq!(line, before);
    }
}

fn any_edit() -> impl Strategy<Value = LineEdit> {
    let angle = (1_i64..5).prop_map(AngleId);
    prop_oneof![
        (0_i64..210, angle.clone()).prop_map(|(at, angle)| LineEdit::Take { at, angle }),
        (0_usize..8, angle).prop_map(|(index, angle)| LineEdit::ChangeAngle { index, angle }),
        (0_usize..8, -30_i64..30).prop_map(|(index, by)| LineEdit::Roll { index, by }),
        (0_usize..8).prop_map(|index| LineEdit::Remove { index }),
        (0_i64..210).prop_map(|at| LineEdit::ClearAfter { at }),
    ]
}

proptest! {
    #[test]
    fn undoing_everything_leads_back(edits in prop::collection::vec(any_edit(), 0..40)) {
        let mut line = Line::new(200, A);
        let mut past = vec![];
        for edit in &edits {
            let before = line.clone();
            if let Ok(inverse) = line.apply(edit) {
                past.push((before, inverse));
            }
            prop_assert_eq!(line.switches()[0].at, 0);
            prop_assert!(line.switches().windows(2).all(|p| p[0].at < p[1].at && p[0].angle != p[1].angle));
            prop_assert!(line.switches().iter().all(|s| (0..200).contains(&s.at)));
        }
        for (before, inverse) in past.into_iter().rev() {
            line.apply(&inverse).expect("an inverse always applies");
            prop_assert_eq!(&line, &before);
        }
    }
}

proptest! {
    #[test]
    fn a_line_carried_there_and_back_is_what_fits_of_it(
        cuts in prop::collection::vec((0_i64..200, 1_i64..4), 0..12), by in -80_i64..80, frames in 100_i64..300
    ) {
        let angles = [AngleId(1), AngleId(2), AngleId(3)];
        let mut line = Line::new(200, AngleId(1));
        for (at, angle) in cuts {
            line.apply(&LineEdit::Take { at, angle: AngleId(angle) }).ok();
        }
        let carried = line.carried(by, frames, &angles).expect("a line");
        prop_assert_eq!(carried.frames(), frames);
        prop_assert_eq!(carried.switches()[0].at, 0);
        for at in (0..frames).filter(|at| (0..200).contains(&(at - by))) {
            prop_assert_eq!(carried.angle_at(at), line.angle_at(at - by), "frame {}", at);
        }
        // An angle that is gone: the one before runs on.
        let fewer = line.carried(0, 200, &angles[..2]).expect("a line");
        prop_assert!(fewer.switches().iter().all(|switch| switch.angle != AngleId(3)));
        prop_assert!(line.carried(0, 200, &[]).is_none());
    }
}
