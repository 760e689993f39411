//! Places on the axis: own time and axis time are each other's inverse, and passes compared either way say the same.

use metaxis_core::{
    clip::ClipId,
    sync::{Changed, GivenDistance, Placement, SOUND_M_PER_S, Stretch, Verdict, compare},
};
use proptest::prelude::*;

/// A clip in pieces: its start, and for each piece its length, its rate, and what is lost after it.
fn any_placement() -> impl Strategy<Value = Placement> {
    let piece = (0.5..900.0_f64, -1100.0..1100.0_f64, 0.0..2.0_f64);
    (-5000.0..50_000.0_f64, prop::collection::vec(piece, 0..5), 0..4_u8).prop_map(
        |(start_s, pieces, verdict)| {
            let (mut own_s, mut axis_s) = (0.0, start_s);
            let mut stretches = vec![];
            for (length_s, rate_ppm, lost_s) in pieces {
                let stretch = Stretch {
                    clip_start_s: own_s,
                    clip_end_s: own_s + length_s,
                    start_s: axis_s,
                    rate_ppm,
                    start_sigma_s: 1e-5,
                    rate_sigma_ppm: 0.1,
                };
                own_s += length_s;
                axis_s = stretch.end_s() + lost_s;
                stretches.push(stretch);
            }
            let verdict =
                [Verdict::Solid, Verdict::Check, Verdict::Unplaced, Verdict::ByHand][usize::from(verdict)];
            Placement { verdict, stretches, ..Placement::unplaced("") }
        },
    )
}

fn any_pass() -> impl Strategy<Value = Vec<(ClipId, Placement)>> {
    prop::collection::btree_map(0..12_i64, any_placement(), 0..8)
        .prop_map(|pass| pass.into_iter().map(|(clip, placement)| (ClipId(clip), placement)).collect())
}

/// What changed, seen from the other side.
fn turned(changes: &[Changed]) -> Vec<Changed> {
    let turn =
        |c: &Changed| Changed { before: c.after, after: c.before, moved_s: c.moved_s.map(|by| -by), ..*c };
    changes.iter().map(turn).collect()
}

proptest! {
    #[test]
    fn own_time_and_axis_time_are_inverse(placement in any_placement(), share in 0.0..1.0_f64) {
        let Some((from_s, to_s)) = placement.extent_s() else {
            prop_assert_eq!((placement.axis_s(0.0), placement.clip_s(0.0)), (None, None));
            return Ok(());
        };
        prop_assert!(from_s < to_s);
        let end_s = placement.stretches[placement.stretches.len() - 1].clip_end_s;
        let own_s = share * end_s;
        let axis_s = placement.axis_s(own_s).expect("within the clip");
        prop_assert!((from_s - 1e-9..=to_s + 1e-9).contains(&axis_s));
        let back_s = placement.clip_s(axis_s).expect("it ran then");
        prop_assert!((back_s - own_s).abs() < 1e-6, "{own_s} became {back_s}");
        prop_assert_eq!(placement.axis_s(end_s + 1.0), None);
        prop_assert_eq!((placement.clip_s(from_s - 1.0), placement.clip_s(to_s + 1.0)), (None, None));
    }

    #[test]
    fn passes_compared_either_way_say_the_same(
        one in any_pass(),
        other in any_pass(),
        zeros in (0.0..86_400.0_f64, 0.0..86_400.0_f64),
    ) {
        prop_assert_eq!(compare((&one, zeros.0), (&one, zeros.0)), vec![]);
        let there = compare((&one, zeros.0), (&other, zeros.1));
        let back = compare((&other, zeros.1), (&one, zeros.0));
        prop_assert_eq!(turned(&there), back);
        // Nothing is told twice, the farthest first, what has no place in one of them before all.
        let mut clips: Vec<ClipId> = there.iter().map(|change| change.clip).collect();
        clips.sort_unstable();
        clips.dedup();
        prop_assert_eq!(clips.len(), there.len());
        let far = |change: &Changed| change.moved_s.map_or(f64::INFINITY, f64::abs);
        prop_assert!(there.windows(2).all(|pair| far(&pair[0]) >= far(&pair[1])));
    }

    #[test]
    fn a_clips_own_distance_goes_before_that_of_its_device(
        own in prop::option::of(0.0..200.0_f64),
        device in 0.0..200.0_f64,
    ) {
        let given = GivenDistance::of(own, device);
        prop_assert_eq!(given.metres(), own.unwrap_or(device));
        prop_assert!((given.travel_s() * SOUND_M_PER_S - given.metres()).abs() < 1e-9);
        prop_assert_eq!(matches!(given, GivenDistance::Clip(_)), own.is_some());
    }
}
