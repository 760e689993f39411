//! Islands: what a verdict is about, what joins two components, and where clocks lay the others on the day.

use crate::hearing::{Clip, clip, day, heard, place, scene, start};
use metaxis_core::sync::{
    DayPlan, DayResult, Effort, EvidenceKind, Island, Label, Mode, Placement, SlateMark, Stretch, Verdict,
    component_at, keep_beside, place_day,
};
use proptest::prelude::*;
use std::ops::ControlFlow;

const FRAME: f64 = 0.04;
/// Time of day at which the first take begins.
const DAY_S: f64 = 33_240.0;

fn clock(time_s: f64) -> Vec<Label> {
    vec![Label { kind: EvidenceKind::DeviceClock, time_s: time_s.floor(), sigma_s: 1.0, unit_s: 1.0 }]
}

fn signal(time_s: f64) -> Label {
    Label { kind: EvidenceKind::AudioTimecode, time_s, sigma_s: 1e-4, unit_s: FRAME }
}

/// A device's clip of a take, `late_s` after the take began.
fn ran(take: &[f32], device: usize, late_s: f64, seconds: f64, ppm: f64, labels: Vec<Label>) -> Clip {
    let seed = 7 + device as u64 + (late_s * 10.0) as u64;
    Clip { labels, ..clip(device, heard(take, late_s, seconds, ppm, 1.0, 0.001, seed)) }
}

/// Three takes of a recorder without time references, 600 s apart; two cameras, one of which misses the first, their
/// clocks an hour fast and 20 s slow.
fn takes_apart() -> Vec<Clip> {
    let takes = [scene(62.0, 70), scene(40.0, 71), scene(45.0, 72)];
    let began = |take: usize| DAY_S + 600.0 * take as f64;
    let mut clips = vec![];
    for (take, sound) in takes.iter().enumerate() {
        let seconds = sound.len() as f64 / 16_000.0 - 2.0;
        clips.push(ran(sound, 0, 0.0, seconds, 0.0, clock(began(take))));
        clips.push(ran(sound, 1, 3.0, seconds - 5.0, 25.0, clock(began(take) + 3.0 + 3_600.0)));
        if take > 0 {
            clips.push(ran(sound, 2, 6.5, seconds - 8.0, -40.0, clock(began(take) + 6.5 - 20.0)));
        }
    }
    clips
}

fn island(result: &DayResult, clip: usize) -> &Island {
    let own = result.placements[clip].component;
    result.islands.iter().find(|island| island.component == own).expect("a row")
}

#[test]
fn a_verdict_is_about_the_take_and_the_take_lies_on_the_day_by_clocks() {
    let result = place(&takes_apart());
    for (number, placement) in result.placements.iter().enumerate() {
        assert_eq!(placement.verdict, Verdict::Solid, "clip {number}: {:?}", placement.reasons);
        assert!(placement.confidence > 0.985, "clip {number}: {}", placement.confidence);
    }
    let components: Vec<u32> = result.placements.iter().map(|placement| placement.component).collect();
    assert_eq!(components, [0, 0, 1, 1, 1, 2, 2, 2], "in the order of time");
    for (reference, camera, late_s) in [(0, 1, 3.0), (2, 3, 3.0), (2, 4, 6.5), (5, 6, 3.0), (5, 7, 6.5)] {
        let apart = start(&result, camera) - start(&result, reference);
        assert!((apart - late_s).abs() < 1e-4, "{camera} lies {apart} after {reference}");
    }
    for (reference, at_s) in [(2, 600.0), (5, 1_200.0)] {
        let lies = island(&result, reference);
        assert_eq!((lies.reference, lies.by), (reference, Some(EvidenceKind::DeviceClock)));
        let sigma_s = lies.sigma_s.expect("a sigma");
        assert!((lies.zero_s - at_s).abs() < 3.0 * sigma_s && sigma_s < 2.5, "{lies:?}");
        assert_eq!(lies.zero_s, start(&result, reference), "its reference clip begins at its zero");
        let day_s = lies.day_start_s.expect("a time of day");
        assert!((day_s - DAY_S - at_s).abs() < 5.0, "{day_s}");
    }
    // The recorder's clock is the axis of every island, whatever else ran there.
    let rate = |clip: usize| result.placements[clip].stretches[0].rate_ppm;
    assert_eq!([rate(0), rate(2), rate(5)], [0.0; 3]);
    assert!((rate(6) - 25.0).abs() < 1.0 && (rate(7) + 40.0).abs() < 1.0, "{} {}", rate(6), rate(7));
}

#[test]
fn islands_without_any_clock_lie_behind_the_others() {
    let mut clips = takes_apart();
    for clip in &mut clips[5..] {
        clip.labels.clear();
    }
    let result = place(&clips);
    let last = island(&result, 5);
    assert_eq!((last.component, last.by, last.sigma_s, last.day_start_s), (2, None, None, None));
    let end_s =
        result.placements[..5].iter().filter_map(Placement::extent_s).map(|own| own.1).fold(0.0, f64::max);
    assert!(last.zero_s > end_s, "{last:?}");
    assert_eq!(result.placements[6].verdict, Verdict::Solid);
}

#[test]
fn exact_timecode_joins_islands_and_clocks_do_not() {
    let mut clips = takes_apart();
    // Camera 1 carries the timecode of one box on its sound in all takes.
    for (clip, take) in [(1, 0.0), (3, 1.0), (6, 2.0)] {
        clips[clip].labels.push(signal(DAY_S + 600.0 * take + 3.0));
    }
    // A second clip in the first take confirms the box.
    let first = scene(62.0, 70);
    let again = ran(&first, 3, 20.0, 20.0, 5.0, vec![signal(DAY_S + 20.0)]);
    clips.push(again);
    let result = place(&clips);
    let components: Vec<u32> = result.placements.iter().map(|placement| placement.component).collect();
    // One clip of the device shows how its timecode lies: that is not enough to join a take.
    assert_eq!(components[..5], [0, 0, 1, 1, 1]);
    assert_eq!(island(&result, 2).by, Some(EvidenceKind::AudioTimecode));
    assert!((start(&result, 2) - 600.0).abs() < 2e-3, "{}", start(&result, 2));
    // With both devices there, their agreement is.
    let second = scene(40.0, 71);
    clips.push(ran(&second, 3, 12.0, 20.0, 5.0, vec![signal(DAY_S + 612.0)]));
    let result = place(&clips);
    assert_eq!(result.placements[2].component, 0, "{:?}", result.islands);
    assert!((start(&result, 2) - 600.0).abs() < 2e-3, "{}", start(&result, 2));
    assert!(result.placements.iter().all(|placement| placement.verdict == Verdict::Solid));
}

#[test]
fn a_slate_that_is_seen_on_one_island_and_heard_on_another_joins_them() {
    let mut clips = takes_apart();
    // The camera of the first take began before and heard nothing of it: it sees the clap that the recorder hears.
    let wall = scene(50.0, 73);
    clips.push(ran(&wall, 3, 0.0, 30.0, 0.0, vec![]));
    clips.push(ran(&wall, 4, 5.0, 30.0, 0.0, vec![]));
    let mark = |picture_s, sound_s| SlateMark { picture_s, sound_s, take: "1".into() };
    clips[0].marks = vec![mark(None, Some(10.0))];
    clips[8].marks = vec![mark(Some(4.0), None)];
    let result = place(&clips);
    assert_eq!((result.placements[8].component, result.placements[9].component), (0, 0));
    assert!((start(&result, 8) - 6.0).abs() < 1e-6, "{}", start(&result, 8));
    assert!((start(&result, 9) - 11.0).abs() < 1e-3, "{}", start(&result, 9));
}

#[test]
fn takes_to_several_tracks_lie_on_the_track_they_were_performed_to() {
    let (one, other) = (scene(70.0, 74), scene(50.0, 75));
    let take =
        |track: &[f32], start_s: f64, seed| clip(1, heard(track, start_s, 30.0, 12.0, 0.4, 0.002, seed));
    let clips = [
        clip(0, one.clone()),
        clip(0, other.clone()),
        take(&one, 20.0, 1),
        take(&other, 5.0, 2),
        take(&other, 8.0, 3),
    ];
    let plan = DayPlan { reference: 0, origin: None, effort: Effort::Normal, mode: Mode::Playback };
    let result = place_day(&day(&clips), plan, &|_| ControlFlow::Continue(())).expect("a result");
    let components: Vec<u32> = result.placements.iter().map(|placement| placement.component).collect();
    assert_eq!(components, [0, 1, 0, 1, 1]);
    assert!(result.placements.iter().all(|own| own.verdict == Verdict::Solid), "{:?}", result.placements);
    for (clip, track, at_s) in [(2, 0, 20.0), (3, 1, 5.0), (4, 1, 8.0)] {
        let apart = start(&result, clip) - start(&result, track);
        assert!((apart - at_s).abs() < 1e-4, "{clip}: {apart}");
    }
}

/// A placement of a minute at a place.
fn at(component: u32, start_s: f64) -> Placement {
    let stretch = Stretch {
        clip_start_s: 0.0,
        clip_end_s: 60.0,
        start_s,
        rate_ppm: 0.0,
        start_sigma_s: 0.0,
        rate_sigma_ppm: 0.0,
    };
    Placement { component, stretches: vec![stretch], ..Placement::unplaced("") }
}

fn row(component: u32, zero_s: f64) -> Island {
    Island { component, reference: 0, zero_s, sigma_s: None, by: None, day_start_s: None }
}

proptest! {
    /// What is new of an island moves with what stays of it, and no two islands ever share a number.
    #[test]
    fn what_stays_keeps_its_place_and_what_is_new_keeps_its_distance(
        starts in prop::collection::vec((0_u32..4, 0.0..500.0_f64, any::<bool>()), 1..12),
        moved_s in -50.0..50.0_f64,
    ) {
        let fresh: Vec<Placement> = starts.iter().map(|(own, s, _)| at(*own, 1_000.0 * f64::from(*own) + s)).collect();
        // The pass before numbered its islands the other way round and had them elsewhere.
        let old = |own: u32| if own == 0 { 0 } else { 4 - own };
        let by_s = |own: u32| if own == 0 { 0.0 } else { moved_s };
        let kept: Vec<Option<Placement>> = starts
            .iter()
            .zip(&fresh)
            .map(|((own, _, stays), new)| stays.then(|| at(old(*own), new.stretches[0].start_s + by_s(*own))))
            .collect();
        let before: Vec<Island> = (0..4).map(|own| row(own, 0.0)).collect();
        let mut result = DayResult {
            reference: 0,
            placements: fresh.clone(),
            rates: vec![],
            clocks: vec![],
            distances: vec![],
            islands: before.clone(),
        };
        keep_beside(&mut result, kept.clone(), &before);
        for (clip, own) in result.placements.iter().enumerate() {
            if let Some(kept) = &kept[clip] {
                prop_assert_eq!(own, kept);
            }
            for (other, its) in result.placements.iter().enumerate() {
                let together = starts[clip].0 == starts[other].0;
                prop_assert_eq!(own.component == its.component, together, "{} and {}", clip, other);
                if together {
                    let apart = own.stretches[0].start_s - its.stretches[0].start_s;
                    let meant = fresh[clip].stretches[0].start_s - fresh[other].stretches[0].start_s;
                    prop_assert!((apart - meant).abs() < 1e-9);
                }
            }
            prop_assert!(result.islands.iter().any(|island| island.component == own.component));
        }
    }
}

#[test]
fn a_place_belongs_to_the_component_it_shares_most_time_with() {
    let placed = [at(2, 0.0), at(3, 50.0), at(3, 52.0)];
    assert_eq!(component_at(&placed, (10.0, 70.0)), 2);
    assert_eq!(component_at(&placed, (45.0, 105.0)), 3);
    assert_eq!(component_at(&placed, (500.0, 510.0)), 0, "where nothing is, the axis");
}
