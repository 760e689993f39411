//! Assemblies: their edits, that each can be taken back, and what is refused.

use metaxis_core::{
    assembly::{Assembly, AssemblyEdit, AssemblyError, AssemblyPart, MOST_PARTS, one_rate},
    clip::ClipId,
    line::{Layer, Speed},
    time::FrameRate,
};
use proptest::prelude::*;

fn line(group: i64) -> AssemblyPart {
    AssemblyPart::Line { group, range: None }
}

fn clip(frames: i64, from: i64) -> AssemblyPart {
    let layer = Layer {
        at: 0,
        frames,
        clip: ClipId(3),
        from,
        skip: 0,
        speed: Speed::OWN,
        blended: false,
        own_sound: false,
    };
    AssemblyPart::Clip { layer }
}

fn of(groups: &[i64]) -> Assembly {
    let parts = groups.iter().copied().map(line).collect();
    Assembly { parts, ..Assembly::new("Day 1").expect("a name") }
}

#[test]
fn parts_that_are_none_are_refused_and_change_nothing() {
    let mut own = of(&[1, 2]);
    let before = own.clone();
    let put = |part: AssemblyPart| AssemblyEdit::Put { at: 0, parts: vec![line(7), part] };
    for part in [
        AssemblyPart::Gap { frames: 0 },
        AssemblyPart::Gap { frames: i64::MAX },
        AssemblyPart::Line { group: 1, range: Some((5, 5)) },
        AssemblyPart::Line { group: 1, range: Some((-1, 5)) },
        clip(0, 5),
        clip(5, -1),
        clip(5, i64::MAX),
    ] {
        assert_eq!(own.apply(&put(part.clone())), Err(AssemblyError::NoFrames), "{part:?}");
        let change = AssemblyEdit::Change { at: 0, part };
        assert_eq!(own.apply(&change), Err(AssemblyError::NoFrames));
    }
    assert_eq!(own.apply(&AssemblyEdit::Take { at: 2 }), Err(AssemblyError::NoPart { at: 3, count: 2 }));
    assert_eq!(
        own.apply(&AssemblyEdit::Move { from: 0, to: 2 }),
        Err(AssemblyError::NoPart { at: 3, count: 2 })
    );
    for name in ["", " ", &"x".repeat(81), "two\nlines"] {
        assert_eq!(own.apply(&AssemblyEdit::Name { name: name.into() }), Err(AssemblyError::Name));
        assert_eq!(Assembly::new(name), Err(AssemblyError::Name));
    }
    let many = AssemblyEdit::Put { at: 0, parts: vec![line(1); MOST_PARTS] };
    assert_eq!(own.apply(&many), Err(AssemblyError::TooMany));
    assert_eq!(own.apply(&AssemblyEdit::Move { from: 1, to: 1 }), Err(AssemblyError::NoChange));
    assert_eq!(own, before);
}

#[test]
fn a_name_in_any_script_is_kept_without_its_edges() {
    let mut own = of(&[1]);
    own.apply(&AssemblyEdit::Name {
        name: " \u{5d4}\u{5d9}\u{5d5}\u{5dd} \u{5d4}\u{5e8}\u{5d0}\u{5e9}\u{5d5}\u{5df} ".into(),
    })
    .expect("a name");
    assert_eq!(own.name, "\u{5d4}\u{5d9}\u{5d5}\u{5dd} \u{5d4}\u{5e8}\u{5d0}\u{5e9}\u{5d5}\u{5df}");
}

#[test]
fn lines_of_one_rate_only_follow_each_other() {
    let film = FrameRate::new(24_000, 1001).expect("a rate");
    assert_eq!(one_rate([]), Ok(None));
    assert_eq!(one_rate([("1 / 1", film), ("1 / 2", film)]), Ok(Some(film)));
    let why =
        one_rate([("1 / 1", film), ("1 / 2", film), ("2 / 1", FrameRate::FPS_25)]).expect_err("two rates");
    assert!(why.to_string().starts_with("1 / 1 counts 23.976"), "{why}");
    assert!(why.to_string().contains("2 / 1 25: give both"), "{why}");
}

fn any_edit() -> impl Strategy<Value = AssemblyEdit> {
    let part = prop_oneof![
        (1_i64..6).prop_map(line),
        (1_i64..6, -1_i64..50, 1_i64..90)
            .prop_map(|(group, from, to)| AssemblyPart::Line { group, range: Some((from, to)) }),
        (-1_i64..50).prop_map(|frames| AssemblyPart::Gap { frames }),
        (-1_i64..50, -1_i64..50).prop_map(|(frames, from)| clip(frames, from)),
    ];
    prop_oneof![
        (0_usize..9, prop::collection::vec(part.clone(), 0..4))
            .prop_map(|(at, parts)| AssemblyEdit::Put { at, parts }),
        (0_usize..9, 0_usize..9).prop_map(|(from, to)| AssemblyEdit::Move { from, to }),
        (0_usize..9, part).prop_map(|(at, part)| AssemblyEdit::Change { at, part }),
        (0_usize..9).prop_map(|at| AssemblyEdit::Take { at }),
        "[a-c ]{0,3}".prop_map(|name| AssemblyEdit::Name { name }),
    ]
}

proptest! {
    #[test]
    fn undoing_everything_leads_back(edits in prop::collection::vec(any_edit(), 0..30)) {
        let mut own = of(&[1, 2, 3]);
        let mut past = vec![];
        for edit in &edits {
            let before = own.clone();
            match own.apply(edit) {
                Ok(inverse) => past.push((before, inverse)),
                Err(_) => prop_assert_eq!(&own, &before),
            }
        }
        // As it is kept and read again.
        let text = serde_json::to_string(&own).expect("text");
        prop_assert_eq!(&serde_json::from_str::<Assembly>(&text).expect("an assembly"), &own);
        for (before, inverse) in past.into_iter().rev() {
            own.apply(&inverse).expect("an inverse always applies");
            prop_assert_eq!(&own, &before);
        }
    }
}
