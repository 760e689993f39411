//! Edits of a line, and that each can be taken back.

use metaxis_core::{
    clip::ClipId,
    group::AngleId,
    line::{Layer, Line, LineEdit, LineError, Marker, MarkerColour, Speed, Switch},
    time::FrameRate,
};
use proptest::prelude::*;

const A: AngleId = AngleId(1);
const B: AngleId = AngleId(2);
const C: AngleId = AngleId(3);

fn cut(frames: i64, takes: &[(i64, AngleId)]) -> Line {
    let mut line = Line::new(frames, A);
    for &(at, angle) in takes {
        line.apply(&LineEdit::take(at, angle)).expect("a take");
    }
    line
}

fn shape(line: &Line) -> Vec<(i64, i64, i64)> {
    line.stretches().map(|(from, to, angle)| (from, to, angle.0)).collect()
}

#[test]
fn a_take_runs_to_the_next_switch() {
    let mut line = cut(100, &[(20, B), (60, C)]);
    line.apply(&LineEdit::take(40, A)).expect("a take");
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
        LineEdit::take(100, B),
        LineEdit::take(-1, B),
        LineEdit::take(30, B),
        LineEdit::restore(vec![]),
        LineEdit::Roll { index: 1, by: i64::MIN },
    ] {
        assert!(line.apply(&edit).is_err(), "{edit:?}");
        assert_eq!(line, before);
    }
}

fn marker(at: i64, note: &str) -> Marker {
    Marker { at, colour: MarkerColour::Moss, note: note.into() }
}

#[test]
fn a_live_run_replaces_what_was_there_and_what_follows_goes_on() {
    // Run from 15 on over cuts at 20 and 60, and standing still at 70. What was there before goes on, also where a take made two
    // of it one.
    let mut line = cut(100, &[(20, B), (60, C), (80, B)]);
    let before = line.switches().to_vec();
    let run = |at, angle, since| LineEdit::Take { at, angle, since, run: Some(5) };
    let hold = |from, to| LineEdit::Hold { from, to, run: 5, before: before.clone() };
    line.apply(&run(15, C, None)).expect("the first key");
    assert_eq!(shape(&line), [(0, 15, 1), (15, 20, 3), (20, 60, 2), (60, 80, 3), (80, 100, 2)]);
    line.apply(&run(50, C, Some(15))).expect("the same again: the cut in between goes");
    assert_eq!(shape(&line), [(0, 15, 1), (15, 80, 3), (80, 100, 2)]);
    line.apply(&run(50, B, Some(15))).expect("the second");
    line.apply(&run(65, B, Some(50))).expect_err("it is on");
    line.apply(&hold(50, 70)).expect("it stands still");
    assert_eq!(shape(&line), [(0, 15, 1), (15, 50, 3), (50, 70, 2), (70, 80, 3), (80, 100, 2)]);
    assert_eq!(hold(50, 70).run(), Some(5));
    // Held to the end there is nothing that could go on.
    line.apply(&hold(50, 100)).expect("to the end");
    assert_eq!(shape(&line), [(0, 15, 1), (15, 50, 3), (50, 100, 2)]);
    // On a line that nobody cut yet, what was taken last goes on: nothing is changed by the end of the run.
    let mut fresh = Line::new(100, A);
    let uncut = fresh.switches().to_vec();
    fresh.apply(&run(30, B, None)).expect("the first key");
    let end = LineEdit::Hold { from: 30, to: 40, run: 5, before: uncut };
    assert_eq!((fresh.apply(&end), end.is_hold()), (Err(LineError::NoChange), true));
    assert_eq!(shape(&fresh), [(0, 30, 1), (30, 100, 2)]);
    let wrong = LineEdit::Hold { from: 5, to: 9, run: 5, before: vec![] };
    assert_eq!(line.apply(&wrong), Err(LineError::NotALine));
}

#[test]
fn a_fade_is_black_that_is_come_out_of_or_gone_into() {
    let mut line = cut(100, &[(20, B)]);
    line.apply(&LineEdit::Fade { head: true, frames: 12 }).expect("a fade in");
    line.apply(&LineEdit::Fade { head: false, frames: 25 }).expect("a fade out");
    assert_eq!(shape(&line), [(0, 1, 0), (1, 20, 1), (20, 75, 2), (75, 100, 0)]);
    assert_eq!(line.switches().iter().map(|own| own.dissolve).collect::<Vec<_>>(), [0, 12, 0, 25]);
    assert_eq!(line.on_air(87).coming.map(|(out, share)| (out, share > 0.45)), Some((B, true)));
    // Another length is in its place, and nought takes it out.
    line.apply(&LineEdit::Fade { head: false, frames: 10 }).expect("a shorter one");
    assert_eq!(line.switches()[3].at, 90);
    for head in [true, false] {
        line.apply(&LineEdit::Fade { head, frames: 0 }).expect("taken out");
    }
    assert_eq!(line, cut(100, &[(20, B)]));
    assert_eq!(
        line.apply(&LineEdit::Fade { head: true, frames: 20 }),
        Err(LineError::FadeTooLong { most: 19 })
    );
    assert_eq!(
        line.apply(&LineEdit::Fade { head: false, frames: 80 }),
        Err(LineError::FadeTooLong { most: 79 })
    );
}

#[test]
fn a_dissolve_is_no_longer_than_its_stretch_and_shrinks_with_it() {
    let mut line = cut(100, &[(20, B), (60, C)]);
    assert_eq!(line.apply(&LineEdit::Dissolve { index: 0, frames: 5 }), Err(LineError::Head));
    let most = LineError::DissolveTooLong { most: 40 };
    assert_eq!(line.apply(&LineEdit::Dissolve { index: 1, frames: 41 }), Err(most));
    line.apply(&LineEdit::Dissolve { index: 1, frames: 30 }).expect("a dissolve");
    line.apply(&LineEdit::Roll { index: 2, by: -25 }).expect("a roll");
    assert_eq!((line.switches()[1].dissolve, line.switches()[2].at), (15, 35));
}

#[test]
fn markers_are_one_at_a_frame_and_go_with_the_line() {
    let mut line = cut(100, &[(20, B)]);
    for own in [marker(30, "later"), marker(5, "first"), marker(30, "bell")] {
        line.apply(&LineEdit::PutMarker { marker: own }).expect("a marker");
    }
    assert_eq!(line.markers(), [marker(5, "first"), marker(30, "bell")]);
    assert_eq!(line.of(&[(25, 40), (50, 60)]).markers(), [marker(5, "bell")]);
    assert_eq!(line.carried(10, 38, &[A, B]).expect("a line").markers(), [marker(15, "first")]);
    assert_eq!(line.apply(&LineEdit::TakeMarker { at: 31 }), Err(LineError::NoMarker));
    let long = LineEdit::PutMarker { marker: marker(1, &"a".repeat(501)) };
    assert_eq!(line.apply(&long), Err(LineError::Note));
    // What was kept before there were any reads on.
    let old: Line =
        serde_json::from_str(r#"{ "frames": 9, "switches": [{ "at": 0, "angle": 1 }] }"#).expect("a line");
    assert_eq!(old, Line::new(9, A));
}

fn sound(edit: LineEdit) -> LineEdit {
    LineEdit::Sound { edit: Box::new(edit) }
}

#[test]
fn what_is_heard_is_a_line_of_its_own() {
    let mut line = cut(100, &[(20, B)]);
    let grid = Line::new(100, AngleId::BLACK);
    assert_eq!(line.heard(), grid);
    let back = line.apply(&sound(LineEdit::take(30, C))).expect("other sound");
    line.apply(&sound(LineEdit::Dissolve { index: 1, frames: 8 })).expect("a dissolve");
    line.apply(&sound(LineEdit::take(60, AngleId::BLACK))).expect("the grid again");
    assert_eq!(shape(&line.heard()), [(0, 30, 0), (30, 60, 3), (60, 100, 0)]);
    // The picture is as it was, and neither moves the other.
    assert_eq!(shape(&line), [(0, 20, 1), (20, 100, 2)]);
    line.apply(&LineEdit::Roll { index: 1, by: 15 }).expect("a roll");
    assert_eq!(shape(&line.heard()), [(0, 30, 0), (30, 60, 3), (60, 100, 0)]);
    // It goes along: in a part of the line, in another group, at another rate.
    let part = line.of(&[(10, 40), (50, 90)]);
    assert_eq!(shape(&part.heard()), [(0, 20, 0), (20, 40, 3), (40, 70, 0)]);
    assert_eq!(
        shape(&line.carried(10, 110, &[A, B, C]).expect("a line").heard()),
        [(0, 40, 0), (40, 70, 3), (70, 110, 0)]
    );
    // An angle that is gone leaves the grid's sound.
    assert_eq!(line.carried(0, 100, &[A, B]).expect("a line").heard(), grid);
    let double = line.retimed(200, |frame| 2 * frame).expect("a line");
    assert_eq!((shape(&double.heard())[1], double.heard().switches()[1].dissolve), ((60, 120, 3), 16));
    // An edit of what is shown is one of what is heard there, too.
    let left = vec![(10, 40), (50, 90)];
    let mut shown = line.clone();
    shown.apply(&line.within(left.clone(), sound(LineEdit::take(0, B)))).expect("an edit");
    assert_eq!(shape(&shown.of(&left).heard()), [(0, 20, 2), (20, 40, 3), (40, 70, 0)]);
    line.apply(&back).expect("taken back");
    assert_eq!(line.heard(), grid);
    for wrong in [sound(LineEdit::PutMarker { marker: marker(1, "") }), sound(sound(LineEdit::take(1, B)))] {
        assert_eq!(line.apply(&wrong), Err(LineError::NotALine));
    }
}

fn layer(at: i64, frames: i64, clip: i64) -> Layer {
    Layer {
        at,
        frames,
        clip: ClipId(clip),
        from: 10,
        skip: 0,
        speed: Speed::OWN,
        blended: false,
        own_sound: false,
    }
}

fn over(line: &Line) -> Vec<(i64, i64, i64, i64)> {
    line.layers().iter().map(|own| (own.at, own.end(), own.clip.0, own.skip)).collect()
}

#[test]
fn a_layer_takes_the_place_of_what_it_covers_and_moves_nothing() {
    let mut line = cut(100, &[(20, B)]);
    let bare = line.clone();
    line.apply(&LineEdit::Lay { layer: layer(10, 60, 7) }).expect("a layer");
    let back = line.apply(&LineEdit::Lay { layer: layer(30, 10, 8) }).expect("one over it");
    assert_eq!(over(&line), [(10, 30, 7, 0), (30, 40, 8, 0), (40, 70, 7, 30)]);
    assert_eq!((shape(&line), line.bare()), (shape(&bare), bare.clone()));
    // What was covered is as it was once that is lifted and undone.
    line.apply(&back).expect("taken back");
    assert_eq!(over(&line), [(10, 70, 7, 0)]);
    line.apply(&LineEdit::Relay { index: 0, layer: layer(90, 60, 7) }).expect("another place");
    assert_eq!(over(&line), [(90, 100, 7, 0)]);
    assert_eq!(line.apply(&LineEdit::Lift { index: 1 }), Err(LineError::NoLayer { index: 1, count: 1 }));
    line.apply(&LineEdit::Lift { index: 0 }).expect("lifted");
    assert_eq!(line, bare);
    for wrong in
        [layer(100, 5, 7), layer(-1, 5, 7), layer(5, 0, 7), Layer { from: i64::MAX, ..layer(5, 5, 7) }]
    {
        assert!(line.apply(&LineEdit::Lay { layer: wrong }).is_err());
    }
    assert_eq!(line.apply(&sound(LineEdit::Lay { layer: layer(5, 5, 7) })), Err(LineError::NotALine));
}

#[test]
fn a_layer_goes_with_the_line() {
    let mut line = cut(100, &[(20, B)]);
    line.apply(&LineEdit::Lay { layer: layer(10, 60, 7) }).expect("a layer");
    // A piece that is taken out is taken out of it, too.
    let left = [(0, 20), (30, 100)];
    assert_eq!(over(&line.of(&left)), [(10, 20, 7, 0), (20, 60, 7, 20)]);
    // One that is laid there goes on behind the seam, and what is not seen stays.
    let mut shown = line.clone();
    let edit = line.within(left.to_vec(), LineEdit::Lay { layer: layer(15, 10, 8) });
    let back = shown.apply(&edit).expect("a layer");
    assert_eq!(over(&shown.of(&left)), [(10, 15, 7, 0), (15, 25, 8, 0), (25, 60, 7, 25)]);
    assert_eq!(
        over(&shown),
        [(10, 15, 7, 0), (15, 20, 8, 0), (20, 30, 7, 10), (30, 35, 8, 5), (35, 70, 7, 25)]
    );
    shown.apply(&back).expect("taken back");
    assert_eq!(shown, line);
    assert_eq!(over(&line.carried(-30, 60, &[A, B]).expect("a line")), [(0, 40, 7, 20)]);
    assert_eq!(over(&line.retimed(200, |frame| 2 * frame).expect("a line")), [(20, 140, 7, 0)]);
    let both = Line::joined(150, &[(&line, 0, (0, 50)), (&line, 60, (60, 150))]).expect("a line");
    assert_eq!(over(&both), [(10, 50, 7, 0), (70, 130, 7, 0)]);
}

#[test]
fn all_of_a_line_is_put_in_place_of_another_in_one_step() {
    let mut own = cut(100, &[(20, B)]);
    own.apply(&LineEdit::Lay { layer: layer(10, 60, 7) }).expect("a layer");
    own.apply(&sound(LineEdit::take(30, C))).expect("other sound");
    own.apply(&LineEdit::PutMarker { marker: marker(5, "stays") }).expect("a marker");
    let other = cut(100, &[(50, C)]);
    let all = |of: &Line| LineEdit::Restore {
        switches: of.switches().to_vec(),
        markers: None,
        layers: Some(of.layers().to_vec()),
        sound: Some(of.heard().switches().to_vec()),
    };
    let was = own.clone();
    let back = own.apply(&all(&other)).expect("another line");
    assert_eq!((shape(&own), own.layers(), own.heard()), (shape(&other), other.layers(), other.heard()));
    assert_eq!(own.markers(), was.markers());
    own.apply(&back).expect("taken back");
    assert_eq!(own, was);
    // What is heard has to be a line, of angles that the edit names.
    let wrong = LineEdit::Restore {
        switches: was.switches().to_vec(),
        markers: None,
        layers: None,
        sound: Some(vec![Switch::cut(5, C)]),
    };
    assert_eq!(own.apply(&wrong), Err(LineError::NotALine));
    assert!(wrong.angles().contains(&C));
    // Nor does it get layers or markers of its own.
    let hidden = LineEdit::Restore {
        switches: vec![Switch::cut(0, B)],
        markers: None,
        layers: Some(vec![layer(1, 5, 7)]),
        sound: None,
    };
    own.apply(&sound(hidden)).expect("other sound");
    assert!(own.heard().layers().is_empty());
}

#[test]
fn a_stretch_slips_between_its_neighbours_and_is_as_long_as_before() {
    let mut line = cut(100, &[(20, B), (60, C)]);
    line.apply(&LineEdit::Slip { index: 1, by: -19 }).expect("a slip");
    assert_eq!(shape(&line), [(0, 1, 1), (1, 41, 2), (41, 100, 3)]);
    assert_eq!(
        line.apply(&LineEdit::Slip { index: 1, by: 59 }),
        Err(LineError::SlipTooFar { least: 0, most: 58 })
    );
    assert_eq!(line.apply(&LineEdit::Slip { index: 0, by: 1 }), Err(LineError::NoSlip));
    assert_eq!(line.apply(&LineEdit::Slip { index: 2, by: 1 }), Err(LineError::NoSlip));
}

#[test]
fn speeds_are_checked_when_they_are_read() {
    let read = |text: &str| serde_json::from_str::<Speed>(text);
    assert_eq!(read(r#"{ "num": 50, "den": 240 }"#).expect("a speed"), Speed::new(5, 24).expect("a speed"));
    for wrong in [r#"{ "num": 0, "den": 1 }"#, r#"{ "num": 1, "den": 0 }"#, r#"{ "num": -1, "den": -1 }"#] {
        assert!(read(wrong).is_err(), "{wrong}");
    }
    assert!(read(r#"{ "num": 1, "den": 101 }"#).expect_err("too slow").to_string().contains("1/101"));
}

fn any_edit() -> impl Strategy<Value = LineEdit> {
    let angle = (1_i64..5).prop_map(AngleId);
    prop_oneof![
        (0_i64..210, angle.clone()).prop_map(|(at, angle)| LineEdit::take(at, angle)),
        (0_usize..8, angle).prop_map(|(index, angle)| LineEdit::ChangeAngle { index, angle }),
        (0_usize..8, -30_i64..30).prop_map(|(index, by)| LineEdit::Roll { index, by }),
        (0_usize..8).prop_map(|index| LineEdit::Remove { index }),
        (0_i64..210).prop_map(|at| LineEdit::ClearAfter { at }),
        (0_usize..8, -2_i64..40).prop_map(|(index, frames)| LineEdit::Dissolve { index, frames }),
        (any::<bool>(), -2_i64..60).prop_map(|(head, frames)| LineEdit::Fade { head, frames }),
        (0_i64..210, 0_i64..210, 1_i64..5).prop_map(|(since, at, angle)| LineEdit::Take {
            at,
            angle: AngleId(angle),
            since: Some(since),
            run: Some(7)
        }),
        (0_i64..210, 0_i64..260, 1_i64..150).prop_map(|(from, to, at)| LineEdit::Hold {
            from,
            to,
            run: 7,
            before: vec![Switch::cut(0, A), Switch::cut(at, B)]
        }),
        (-3_i64..210).prop_map(|at| LineEdit::PutMarker { marker: marker(at, "bell") }),
        (0_i64..210).prop_map(|at| LineEdit::TakeMarker { at }),
        (0_usize..8, -30_i64..30).prop_map(|(index, by)| LineEdit::Slip { index, by }),
        (-3_i64..210, -1_i64..90, 1_i64..4)
            .prop_map(|(at, frames, clip)| LineEdit::Lay { layer: layer(at, frames, clip) }),
        (0_usize..4, -3_i64..210, 1_i64..90)
            .prop_map(|(index, at, frames)| LineEdit::Relay { index, layer: layer(at, frames, 9) }),
        (0_usize..4).prop_map(|index| LineEdit::Lift { index }),
        (0_i64..210, 0_i64..5).prop_map(|(at, angle)| sound(LineEdit::take(at, AngleId(angle)))),
        (0_usize..5, -2_i64..40).prop_map(|(index, frames)| sound(LineEdit::Dissolve { index, frames })),
        (0_usize..5, -30_i64..30).prop_map(|(index, by)| sound(LineEdit::Roll { index, by })),
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
            let shown = line.stretches().zip(line.switches());
            prop_assert!(shown.into_iter().all(|((from, to, _), own)| (0..=to - from).contains(&own.dissolve)));
            prop_assert_eq!(line.switches()[0].dissolve, 0);
            prop_assert!(line.markers().windows(2).all(|p| p[0].at < p[1].at));
            prop_assert!(line.layers().windows(2).all(|p| p[0].end() <= p[1].at));
            prop_assert!(line.layers().iter().all(|own| own.at >= 0 && own.frames > 0 && own.end() <= 200));
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
            line.apply(&LineEdit::take(at, AngleId(angle))).ok();
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

proptest! {
    /// At whatever rates and speed: the frames of a layer follow each other by the clip's time, and one that was cut shows what
    /// all of it would show there.
    #[test]
    fn a_layer_shows_the_frames_that_its_clip_has_then(
        (num, den) in (1_i64..400, 1_i64..400), from in 0_i64..1000, cut in 0_i64..300,
        rates in (prop::sample::select(vec![(24_000, 1001), (25, 1), (50, 1), (120, 1)]),
            prop::sample::select(vec![(24_000, 1001), (25, 1), (30_000, 1001), (50, 1)]))
    ) {
        let Ok(speed) = Speed::new(num, den) else { return Ok(()) };
        let rate = |(num, den): (i64, i64)| FrameRate::new(num, den).expect("a rate");
        let (clip, line) = (rate(rates.0), rate(rates.1));
        let own = Layer { from, speed, ..layer(40, 400, 1) };
        let step = speed.as_f64() * clip.as_f64() / line.as_f64();
        prop_assert_eq!(own.clip_frame(40, clip, line), from);
        let rest = Layer { at: 40 + cut, frames: 400 - cut, skip: cut, ..own.clone() };
        for frame in 40 + cut..440 {
            let shown = own.clip_frame(frame, clip, line);
            prop_assert_eq!(rest.clip_frame(frame, clip, line), shown);
            let exact = from as f64 + (frame - 40) as f64 * step;
            prop_assert!((shown as f64 - exact).abs() <= 1.0 + 1e-6, "frame {}: {} for {}", frame, shown, exact);
        }
    }
}
