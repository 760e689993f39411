//! Slates: claps found in sound, marks that place pictures, and what they show of distances.

use crate::hearing::{Clip, clip, day, heard, place, scene};
use metaxis_core::{
    clip::ClipId,
    picture::{GreyFrames, find_strikes},
    signal::{ClapFinder, LISTEN_RATE},
    sync::{
        EvidenceKind, GivenDistance, Placement, SOUND_M_PER_S, SeenClap, SlateMark, Stretch, Verdict,
        clock_notes, compare, look_around, place_near, seen_clap, seen_distances,
    },
};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

const RATE: f64 = LISTEN_RATE as f64;

fn noise(seconds: f64, level: f32, seed: u64) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    (0..(seconds * RATE) as usize).map(|_| level * (rng.random::<f32>() - 0.5)).collect()
}

fn add_clap(sound: &mut [f32], at_s: f64, level: f32, seed: u64) {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let from = (at_s * RATE) as usize;
    for (i, out) in sound[from..].iter_mut().take(2400).enumerate() {
        *out += level * (rng.random::<f32>() * 2.0 - 1.0) * (-(i as f32) / 240.0).exp();
    }
}

#[test]
fn claps_are_found_where_they_are_head_and_tail_first() {
    let mut sound = noise(90.0, 0.004, 1);
    let claps = [(6.2, 0.7), (84.9, 0.5), (40.0, 0.6)];
    for (i, (at_s, level)) in claps.into_iter().enumerate() {
        add_clap(&mut sound, at_s, level, i as u64);
    }
    // A voice swells; it does not strike.
    for (i, out) in sound[20 * 16_000..24 * 16_000].iter_mut().enumerate() {
        *out += 0.5 * (i as f32 / 64_000.0) * (i as f32 * 0.08).sin();
    }
    let mut finder = ClapFinder::default();
    // In pieces of any length.
    for piece in sound.chunks(7_001) {
        finder.push(piece);
    }
    let found = finder.finish(8);
    assert_eq!(found.len(), 3, "{found:?}");
    for (clap, (at_s, _)) in found.iter().zip(claps) {
        assert!((clap.at_s - at_s).abs() < 0.003, "{clap:?} should be at {at_s}");
        assert!(clap.why.contains("rises"), "{}", clap.why);
    }
    assert!(found[0].score > found[2].score && found[0].why.contains("near the head"));
    assert_eq!(finder.finish(1).len(), 1, "no more than are wanted");
}

/// A clap seen at second `seen_s` and heard so many milliseconds later.
fn seen(seen_s: f64, late_ms: f64, score: f64) -> SeenClap {
    SeenClap { seen_s, heard_s: seen_s + late_ms / 1e3, sigma_s: 0.005, score }
}

/// The claps of one clip.
fn of(clip: usize, claps: &[SeenClap]) -> Vec<(usize, SeenClap)> {
    claps.iter().map(|clap| (clip, *clap)).collect()
}

#[test]
fn claps_that_are_seen_show_a_distance_where_they_agree_or_one_is_beyond_doubt() {
    let far = of(7, &[seen(3.0, 58.2, 0.7), seen(40.0, 57.0, 0.8), seen(80.0, 300.0, 0.7)]);
    let shown = seen_distances(4, 0.0, &far);
    let [shown] = shown[..] else { panic!("two of three agree: {shown:?}") };
    assert_eq!((shown.device, shown.clip, shown.slates, shown.marked), (4, None, 2, false));
    assert!((shown.metres - 19.8).abs() < 0.1, "{shown:?}");
    let notes = clock_notes(&[], &[shown]);
    assert!(notes[0].text.starts_with("2 claps seem to strike in its picture 58 ms before"), "{notes:?}");
    assert_eq!(notes[0].metres, Some(shown.metres));
    assert_eq!(seen_distances(4, 0.0, &far[1..]), vec![], "they contradict each other");
    assert_eq!(seen_distances(4, 0.0, &far[..1]), vec![], "one that may be anything");
    assert_eq!(seen_distances(4, 0.0, &of(7, &[seen(3.0, 58.2, 0.95)])).len(), 1, "one beyond doubt");
    for near in [-40.0, 0.0, 9.0, 18.0] {
        let claps = of(7, &[seen(3.0, near, 0.95), seen(9.0, near, 0.95)]);
        assert_eq!(seen_distances(4, 0.0, &claps), vec![], "{near} ms");
    }
    assert_eq!(seen_distances(4, 0.0, &[]), vec![]);
    assert_eq!(seen_distances(4, 12.0, &far), vec![], "what is given is only questioned where it is far off");
    assert_eq!(seen_distances(4, 60.0, &far).len(), 1);
}

#[test]
fn a_clip_that_stands_elsewhere_than_its_device_is_named() {
    let (near, far) = (|at_s| seen(at_s, 0.0, 0.95), |at_s| seen(at_s, 58.2, 0.95));
    let at_20 = [of(0, &[far(3.0), far(9.0)]), of(1, &[far(2.0), far(7.0)])].concat();
    let with = |clip, claps: &[SeenClap]| [at_20.clone(), of(clip, claps)].concat();
    let named = |shown: &[metaxis_core::sync::ShownDistance]| -> Vec<(Option<usize>, i64)> {
        shown.iter().map(|one| (one.clip, one.metres.round() as i64)).collect()
    };
    // Most stand at 20 m, one beside the clap and one at 60 m.
    let all = [with(2, &[near(5.0)]), of(3, &[seen(4.0, 174.7, 0.7), seen(8.0, 174.7, 0.7)])].concat();
    let shown = seen_distances(4, 0.0, &all);
    assert_eq!(named(&shown), [(None, 20), (Some(2), 0), (Some(3), 60)]);
    // What is given to the device counts in place of what most of its claps say.
    assert_eq!(named(&seen_distances(4, 20.0, &all)), [(Some(2), 0), (Some(3), 60)]);
    // One doubtful clap names no clip; a picture that is late is at no distance.
    assert_eq!(named(&seen_distances(4, 0.0, &with(2, &[seen(5.0, 174.7, 0.8)]))), [(None, 20)]);
    let still = of(1, &[near(3.0), near(9.0), near(12.0)]);
    let late = [still, of(2, &[seen(5.0, -40.0, 0.95)])].concat();
    assert_eq!(seen_distances(4, 0.0, &late), vec![]);
    let notes = clock_notes(&[], &seen_distances(4, 20.0, &all));
    assert_eq!((notes[0].clip, notes[0].metres), (Some(2), Some(0.0)));
    assert!(notes[0].text.contains("as its own microphone hears it. 20.0 m is given."), "{}", notes[0].text);
    assert!(notes[1].text.contains("give this clip that distance"), "{}", notes[1].text);
}

/// A bar that sweeps over a grainy picture and stops at a part of a frame after frame 20.
fn bar(part: f64) -> GreyFrames {
    const SIZE: (usize, usize) = (120, 96);
    let mut rng = ChaCha8Rng::seed_from_u64(9);
    let mut pixels = vec![];
    for frame in 0..60 {
        let moved = (f64::from(frame).min(20.0 + part) - 14.0).max(0.0);
        let edge = 20.0 + 6.0 * moved;
        for _ in 0..SIZE.1 {
            pixels.extend((0..SIZE.0).map(|x| {
                let lit = (edge - x as f64).clamp(0.0, 1.0) * 120.0;
                60 + lit as u8 + rng.random_range(0..6)
            }));
        }
    }
    let times_s = (0..60).map(|frame| 5.0 + f64::from(frame) * 0.04).collect();
    GreyFrames { width: SIZE.0, height: SIZE.1, times_s, pixels }
}

#[test]
fn what_stops_between_two_frames_is_seen_between_them() {
    for part in [0.2, 0.5, 0.8, 1.0] {
        let strikes = find_strikes(&bar(part));
        let best = strikes.first().expect("a strike");
        let struck_s = 5.0 + (20.0 + part) * 0.04;
        assert!((best.at_s - struck_s).abs() < 0.35 * 0.04, "{part}: {best:?} should be at {struck_s}");
        assert!(best.score > 0.8, "{best:?}");
        // Only a look for a clap at that time takes it for one.
        assert!(seen_clap(&strikes, struck_s + 0.05).is_some());
        assert!(
            seen_clap(&strikes, struck_s + 0.9).is_none() && seen_clap(&strikes, struck_s - 0.3).is_none()
        );
    }
    let (from_s, to_s) = look_around(9.0);
    assert!(from_s < 8.0 && to_s > 9.5);
    // A flash is none, nor is a picture that ends, or that no size fits.
    let mut flash = bar(0.0);
    flash.pixels.truncate(20 * 120 * 96);
    assert!(find_strikes(&flash).is_empty());
    flash.height = 0;
    assert!(find_strikes(&flash).is_empty());
}

/// A patterned wall with a grain of its own in every frame, seen so far to the side, so bright.
fn wall(look: impl Fn(usize) -> (f64, f64)) -> GreyFrames {
    const SIZE: (usize, usize) = (120, 96);
    let mut rng = ChaCha8Rng::seed_from_u64(11);
    let mut pixels = vec![];
    for frame in 0..60 {
        let (aside, bright) = look(frame);
        for y in 0..SIZE.1 {
            pixels.extend((0..SIZE.0).map(|x| {
                let at = (x as f64 + aside, y as f64);
                let pattern = 40.0
                    * (at.0 * 0.31 + (at.1 * 0.17).sin() * 3.0).sin()
                    * (at.1 * 0.23 + at.0 * 0.05).cos();
                (bright * (110.0 + pattern)).clamp(0.0, 248.0) as u8 + rng.random_range(0..6)
            }));
        }
    }
    let times_s = (0..60).map(|frame| 5.0 + frame as f64 * 0.04).collect();
    GreyFrames { width: SIZE.0, height: SIZE.1, times_s, pixels }
}

/// What a camera does with its whole picture is no clap: a pan that ends, light that comes on, a hand that is not still.
#[test]
fn a_picture_that_moves_as_a_whole_has_no_strike() {
    let clear =
        |frames: &GreyFrames| find_strikes(frames).iter().filter(|strike| strike.score >= 0.6).count();
    let pan = wall(|frame| (8.0 * frame.min(30) as f64, 1.0));
    assert_eq!(clear(&pan), 0, "{:?}", find_strikes(&pan));
    let light = wall(|frame| (0.0, 0.4 + 0.1 * (frame.clamp(24, 30) - 24) as f64));
    assert_eq!(clear(&light), 0, "{:?}", find_strikes(&light));
    let hand = wall(|frame| (3.0 * (frame as f64 * 0.9).sin() + 2.0 * (frame as f64 * 0.37).cos(), 1.0));
    assert_eq!(clear(&hand), 0, "{:?}", find_strikes(&hand));
}

/// The sticks close in a picture that a hand holds, and under light that flickers.
#[test]
fn a_strike_is_seen_through_a_restless_picture() {
    let clap = bar(0.5);
    let struck_s = 5.0 + 20.5 * 0.04;
    let mixed = |around: GreyFrames| {
        // Half the picture is the wall, half the sticks.
        let rows = clap.width * clap.height / 2;
        let frames = clap.pixels.chunks_exact(2 * rows).zip(around.pixels.chunks_exact(2 * rows));
        let pixels = frames.flat_map(|(own, wall)| [&wall[..rows], &own[rows..]].concat()).collect();
        find_strikes(&GreyFrames { pixels, ..clap.clone() })
    };
    let hand = mixed(wall(|frame| (1.5 * (frame as f64 * 0.9).sin(), 1.0)));
    let flicker = mixed(wall(|frame| (0.0, 1.0 + 0.04 * (frame as f64 * 2.1).sin())));
    for strikes in [hand, flicker] {
        let best = seen_clap(&strikes, struck_s + 0.03).unwrap_or_else(|| panic!("{strikes:?}"));
        assert!((best.seen_s - struck_s).abs() < 0.35 * 0.04, "{best:?} should be at {struck_s}");
    }
}

#[test]
fn noise_and_nothing_have_no_claps() {
    let mut finder = ClapFinder::default();
    assert!(finder.finish(8).is_empty());
    finder.push(&noise(20.0, 0.3, 2));
    assert!(finder.finish(8).is_empty());
}

fn marked(mut clip: Clip, picture_s: Option<f64>, sound_s: Option<f64>, take: &str) -> Clip {
    clip.marks.push(SlateMark { picture_s, sound_s, take: take.into() });
    clip
}

fn silent(device: usize, seconds: f64) -> Clip {
    let mut made = clip(device, vec![0.0; (seconds * RATE) as usize]);
    made.silent = true;
    made
}

#[test]
fn a_silent_picture_is_placed_by_its_slate_of_the_same_take() {
    let scene = scene(60.0, 51);
    let recorder = clip(0, heard(&scene, 0.0, 58.0, 0.0, 1.0, 0.001, 1));
    let clips = [
        marked(recorder, None, Some(12.345), "2 / 3"),
        marked(silent(1, 20.0), Some(2.02), None, "2 / 3"),
        marked(silent(2, 20.0), Some(2.02), None, "2 / 4"),
    ];
    let result = place(&clips);
    let placed = &result.placements[1];
    assert_eq!(placed.verdict, Verdict::Solid);
    assert!((placed.stretches[0].start_s - 10.325).abs() < 1e-9, "{:?}", placed.stretches);
    assert!(placed.reasons[0].contains("Placed by its slate"), "{:?}", placed.reasons);
    assert!(placed.evidence.iter().any(|e| e.kind == EvidenceKind::Slate && e.used && e.against == Some(0)));
    assert_eq!(
        result.placements[2].verdict,
        Verdict::Unplaced,
        "another take's slate is none of its business"
    );
}

/// A silent camera, 80 ppm fast, slated at head and end and once in between by a false start nobody marked in the sound.
#[test]
fn head_and_end_slates_place_a_silent_picture_and_show_its_rate() {
    let scene = scene(60.0, 53);
    let recorder = clip(0, heard(&scene, 0.0, 58.0, 0.0, 1.0, 0.001, 1));
    let (begin_s, pace) = (3.25, 1.0 + 80e-6);
    let long = |marks: [f64; 2], sounds: [f64; 2]| {
        let mut recorder = clip(0, heard(&scene, 0.0, 58.0, 0.0, 1.0, 0.001, 1));
        recorder.samples.resize((400.0 * RATE) as usize, 0.0);
        let mut recorder = clip(0, std::mem::take(&mut recorder.samples));
        let mut camera = silent(1, 390.0);
        for (picture_s, sound_s) in marks.into_iter().zip(sounds) {
            recorder = marked(recorder, None, Some(sound_s), "1 / 1");
            camera = marked(camera, Some(picture_s), None, "1 / 1");
        }
        place(&[recorder, camera])
    };
    let seen = |axis_s: f64| (axis_s - begin_s) * pace;
    // Marked in any order.
    let result = long([seen(380.0), seen(9.0)], [380.0, 9.0]);
    let placed = &result.placements[1];
    let stretch = placed.stretches[0];
    assert_eq!(placed.verdict, Verdict::Solid, "{:?}", placed.reasons);
    assert!((stretch.start_s - begin_s).abs() < 1e-3 && (stretch.rate_ppm - 80.0).abs() < 0.1, "{stretch:?}");
    assert!(stretch.rate_sigma_ppm > 10.0, "an eye tells half a frame: {stretch:?}");
    assert!(placed.reasons[0].starts_with("Placed by its 2 slates"), "{:?}", placed.reasons);
    assert_eq!(placed.evidence.iter().filter(|e| e.kind == EvidenceKind::Slate && e.used).count(), 2);
    // Marks that no clock can bring together.
    let torn = long([seen(380.0) - 2.0, seen(9.0)], [380.0, 9.0]);
    let placed = &torn.placements[1];
    assert_eq!(placed.verdict, Verdict::Check, "{:?}", placed.reasons);
    assert!(placed.reasons[0].contains("contradict each other by 1970 ms"), "{:?}", placed.reasons);

    // Where the sound has more claps than were marked in the picture, the place by sound tells which.
    let camera = clip(1, heard(&scene, 20.0, 30.0, 0.0, 1.0, 0.001, 2));
    let recorder =
        [8.0, 25.0, 44.0].into_iter().fold(recorder, |own, at| marked(own, None, Some(at), "1 / 1"));
    let result =
        place(&[recorder, marked(marked(camera, Some(5.0), None, "1 / 1"), Some(23.9), None, "1 / 1")]);
    let reasons = &result.placements[1].reasons;
    assert!(reasons.iter().any(|r| r == "Its slate at 5.0 s says the same."), "{reasons:?}");
    assert!(reasons.iter().any(|r| r.contains("slate at 23.9 s is seen 100 ms before")), "{reasons:?}");
}

#[test]
fn a_far_microphone_is_shown_by_its_slate_and_a_given_distance_lays_it_right() {
    let scene = scene(80.0, 52);
    // The camera stands 20 m away: it hears everything 58 ms late.
    let late_s = 20.0 / SOUND_M_PER_S;
    let make = |distance: GivenDistance, own_peak: bool| {
        let recorder = clip(0, heard(&scene, 0.0, 78.0, 0.0, 1.0, 0.001, 1));
        let camera = clip(1, heard(&scene, 10.0 - late_s, 40.0, 0.0, 1.0, 0.001, 2));
        let peak = own_peak.then_some(5.0 + late_s);
        let mut camera = marked(camera, Some(5.0), peak, "1 / 1");
        camera.distance = distance;
        [marked(recorder, None, Some(15.0), "1 / 1"), camera]
    };
    for own_peak in [false, true] {
        let result = place(&make(GivenDistance::None, own_peak));
        assert!((result.placements[1].stretches[0].start_s - (10.0 - late_s)).abs() < 1e-3, "sound was used");
        let [shown] = &result.distances[..] else { panic!("{:?}", result.distances) };
        assert!((shown.metres - 20.0).abs() < 0.4, "{shown:?}");
        let notes = clock_notes(&result.clocks, &result.distances);
        assert!(notes[0].text.contains("20 m of air") && notes[0].metres.is_some(), "{notes:?}");
        assert!(
            result.placements[1].reasons.iter().any(|r| r.contains("m of air")),
            "{:?}",
            result.placements[1]
        );
    }
    for given in [GivenDistance::Device(20.0), GivenDistance::Clip(20.0)] {
        let result = place(&make(given, true));
        let start_s = result.placements[1].stretches[0].start_s;
        assert!((start_s - 10.0).abs() < 1e-3, "the picture lies where it was seen: {start_s}");
        assert!((result.placements[1].travel_s - late_s).abs() < 1e-12, "{given:?}");
        assert!(result.distances.is_empty(), "what is given is not proposed again");
    }
    // Another distance than its slate shows is said of the device, or of the clip to which it was given.
    for (given, clip) in [(GivenDistance::Device(60.0), None), (GivenDistance::Clip(60.0), Some(1))] {
        let result = place(&make(given, true));
        let [shown] = &result.distances[..] else { panic!("{:?}", result.distances) };
        assert_eq!((shown.clip, shown.metres.round(), shown.given_m), (clip, 20.0, 60.0));
    }
}

/// A camera that was moved between takes: its slates show another distance for each.
#[test]
fn clips_of_a_device_that_stood_apart_are_named_by_their_slates() {
    let scene = scene(120.0, 54);
    let camera = |from_s: f64, metres: f64, given: GivenDistance, seed: u64| {
        let late_s = metres / SOUND_M_PER_S;
        let own = clip(1, heard(&scene, from_s - late_s, 30.0, 0.0, 1.0, 0.001, seed));
        let mut own = marked(own, Some(5.0), Some(5.0 + late_s), "1 / 1");
        own.distance = given;
        own
    };
    let with = |given: [GivenDistance; 3]| {
        let recorder = clip(0, heard(&scene, 0.0, 118.0, 0.0, 1.0, 0.001, 1));
        let [a, b, c] = given;
        place(&[recorder, camera(10.0, 0.0, a, 2), camera(45.0, 20.0, b, 3), camera(80.0, 60.0, c, 4)])
    };
    let named = |result: &metaxis_core::sync::DayResult| -> Vec<(Option<usize>, i64)> {
        result.distances.iter().map(|one| (one.clip, one.metres.round() as i64)).collect()
    };
    use GivenDistance::{Clip, Device, None as Nothing};
    assert_eq!(named(&with([Nothing; 3])), [(Some(2), 20), (Some(3), 60)]);
    assert_eq!(named(&with([Device(20.0); 3])), [(Some(1), 0), (Some(3), 60)]);
    // What an eye cannot tell apart is no distance.
    let near = |metres: [f64; 3]| {
        let recorder = clip(0, heard(&scene, 0.0, 118.0, 0.0, 1.0, 0.001, 1));
        let [a, b, c] = metres;
        let takes = [camera(10.0, a, Nothing, 2), camera(45.0, b, Nothing, 3), camera(80.0, c, Nothing, 4)];
        let [a, b, c] = takes;
        named(&place(&[recorder, a, b, c]))
    };
    assert_eq!(near([0.0, 0.5, 8.0]), []);
    assert_eq!(near([8.0, 6.0, 0.0]), [(None, 6)]);
    let right = with([Clip(0.0), Device(20.0), Clip(60.0)]);
    assert_eq!(named(&right), []);
    for (placement, from_s) in right.placements[1..].iter().zip([10.0, 45.0, 80.0]) {
        let start_s = placement.stretches[0].start_s;
        assert!((start_s - from_s).abs() < 1e-3, "{start_s} for {from_s}");
    }
}

/// What has no picture lies where it hears, whatever its device is given: a second recorder at the back of the room.
#[test]
fn sound_alone_is_not_laid_later_by_a_distance() {
    let scene = scene(60.0, 56);
    let recorder = clip(0, heard(&scene, 0.0, 58.0, 0.0, 1.0, 0.001, 1));
    let mut second = clip(1, heard(&scene, 10.0, 30.0, 0.0, 1.0, 0.001, 2));
    second.distance = GivenDistance::Device(30.0);
    let mut with_picture = clip(2, heard(&scene, 25.0, 30.0, 0.0, 1.0, 0.001, 3));
    with_picture.distance = GivenDistance::Device(30.0);
    second.picture = false;
    let placements = place(&[recorder, second, with_picture]).placements;
    assert!((placements[1].stretches[0].start_s - 10.0).abs() < 1e-3, "{:?}", placements[1]);
    assert_eq!(placements[1].travel_s, 0.0);
    let late_s = placements[2].stretches[0].start_s - 25.0;
    assert!((late_s - 30.0 / SOUND_M_PER_S).abs() < 1e-3, "{late_s}");
}

#[test]
fn a_narrow_search_takes_the_distances_of_both_clips_into_account() {
    let scene = scene(60.0, 55);
    let late = |metres: f64| metres / SOUND_M_PER_S;
    let mut takes = [
        clip(0, heard(&scene, 0.0, 58.0, 0.0, 1.0, 0.001, 1)),
        clip(1, heard(&scene, 5.0 - late(40.0), 40.0, 0.0, 1.0, 0.001, 2)),
        clip(2, heard(&scene, 20.0 - late(20.0), 15.0, 0.0, 1.0, 0.001, 3)),
    ];
    takes[1].distance = GivenDistance::Device(40.0);
    takes[2].distance = GivenDistance::Clip(20.0);
    let placements = place(&takes).placements;
    let near = place_near(&day(&takes), 2, 1, &placements[1], 20.4, 1.0);
    assert!((near.stretches[0].start_s - 20.0).abs() < 1e-3, "{near:?}");
    assert_eq!(near.travel_s, late(20.0));
    assert!(near.reasons.iter().any(|why| why.contains("20.0 m away")), "{:?}", near.reasons);
    let nowhere = Placement::unplaced("");
    assert_eq!(place_near(&day(&takes), 2, 1, &nowhere, 20.4, 1.0).verdict, Verdict::Unplaced);
}

#[test]
fn two_passes_are_compared_by_time_of_day() {
    let at = |start_s: f64, verdict| {
        let stretch = Stretch {
            clip_start_s: 0.0,
            clip_end_s: 5.0,
            start_s,
            rate_ppm: 0.0,
            start_sigma_s: 0.0,
            rate_sigma_ppm: 0.0,
        };
        Placement { verdict, stretches: vec![stretch], ..Placement::unplaced("") }
    };
    let before = [
        (ClipId(1), at(0.0, Verdict::Solid)),
        (ClipId(2), at(5.0, Verdict::Check)),
        (ClipId(3), at(9.0, Verdict::Solid)),
        (ClipId(4), Placement::unplaced("")),
    ];
    // The axis begins two seconds later: what lies two seconds earlier on it has not moved.
    let after = [
        (ClipId(1), at(-2.0, Verdict::Solid)),
        (ClipId(2), at(3.0, Verdict::Solid)),
        (ClipId(3), at(7.04, Verdict::Solid)),
        (ClipId(5), at(1.0, Verdict::Solid)),
    ];
    let changes = compare((&before, 100.0), (&after, 102.0));
    let of = |clip: i64| changes.iter().find(|change| change.clip == ClipId(clip));
    assert_eq!(of(1), None, "{changes:?}");
    assert_eq!(of(2).map(|c| (c.before, c.after)), Some((Some(Verdict::Check), Some(Verdict::Solid))));
    assert!((of(3).and_then(|c| c.moved_s).expect("it moved") - 0.04).abs() < 1e-9);
    assert_eq!(of(4).map(|c| (c.before, c.after, c.moved_s)), Some((Some(Verdict::Unplaced), None, None)));
    assert_eq!(of(5).map(|c| (c.before, c.after)), Some((None, Some(Verdict::Solid))));
    assert!(compare((&before, 0.0), (&before, 0.0)).is_empty());
}
