//! The sounds the engine is measured on are what they claim to be, and their truth is true.

use metaxis_shoot::{
    SPEED_OF_SOUND,
    field::{Bend, Course, EarPlan, Gap, Pickup, Room, Sound, TrueTime, hear},
};

const RATE: u32 = 16_000;

/// Largest correlation of two sounds of equal length within a second of lag either way.
fn likeness(a: &[f32], b: &[f32]) -> f64 {
    let energy = |x: &[f32]| x.iter().map(|v| f64::from(v * v)).sum::<f64>();
    let size = (energy(a) * energy(b)).sqrt().max(1e-12);
    (-2000_i64..=2000)
        .map(|lag| {
            let pairs =
                (0..a.len()).filter_map(|i| Some((a[i], *b.get(usize::try_from(i as i64 + lag).ok()?)?)));
            pairs.map(|(x, y)| f64::from(x * y)).sum::<f64>().abs() / size
        })
        .fold(0.0, f64::max)
}

/// A room that is almost none.
fn open_air() -> Room {
    Room::new(0.05, 7)
}

#[test]
fn every_sound_is_the_same_again_and_another_with_another_seed() {
    for sound in [
        |seed| Sound::Speech { voices: 1, words: seed },
        |seed| Sound::Music { tune: 1, performance: seed },
        Sound::Machinery,
        Sound::Crowd,
        |seed| Sound::Hum { tone: 1, air: seed },
    ] {
        let make = |seed| sound(seed).make(4.0, RATE);
        assert_eq!(make(3), make(3));
        assert_ne!(make(3), make(4));
        let peak = make(3).iter().fold(0.0_f32, |peak, v| peak.max(v.abs()));
        assert!((peak - 0.5).abs() < 1e-3, "{peak}");
    }
}

#[test]
fn another_performance_of_a_tune_and_other_words_of_a_voice_do_not_match() {
    let pairs = [
        (Sound::Speech { voices: 5, words: 1 }, Sound::Speech { voices: 5, words: 2 }),
        (Sound::Music { tune: 5, performance: 1 }, Sound::Music { tune: 5, performance: 2 }),
    ];
    for (one, other) in pairs {
        let (one, other) = (one.make(5.0, RATE), other.make(5.0, RATE));
        assert!(likeness(&one, &one) > 0.999);
        assert!(likeness(&one, &other) < 0.5, "{}", likeness(&one, &other));
    }
}

#[test]
fn speech_does_not_repeat_itself() {
    let sound = Sound::Speech { voices: 2, words: 9 }.make(40.0, RATE);
    let part = |from: usize| &sound[from * RATE as usize..(from + 3) * RATE as usize];
    for from in (6..36).step_by(5) {
        assert!(likeness(part(1), part(from)) < 0.6, "{from}");
    }
}

#[test]
fn the_truth_says_which_moment_of_the_sound_is_heard() {
    // A click a second: the clip hears each where the truth puts it.
    let mut sound = vec![0.0_f32; 12 * RATE as usize];
    for second in 0..12 {
        sound[second * RATE as usize + 100] = 1.0;
    }
    let plan = EarPlan {
        from_s: 2.25,
        length_s: 7.0,
        distance_m: 10.0,
        clock_ppm: 100.0,
        signal_to_noise_db: 90.0,
        gaps: vec![Gap { at_s: 3.0, lost_s: 0.4 }],
        ..EarPlan::default()
    };
    let heard = hear(&sound, RATE, &open_air(), &plan, 1);
    let (start, first, gap_at, after) = (0.0, heard.truth.at(0.0), 3.0, heard.truth.at(3.0));
    assert!((first - (2.25 - 10.0 / SPEED_OF_SOUND)).abs() < 1e-9);
    assert!((after - first - 0.4 - 3.0 / (1.0 + 100e-6)).abs() < 1e-9);
    for click in 3..9 {
        let world_s = f64::from(click) + 100.0 / f64::from(RATE);
        let own_s = |(own, world): (f64, f64)| own + (world_s - world) * (1.0 + 100e-6);
        let at = if world_s < after { own_s((start, first)) } else { own_s((gap_at, after)) };
        if at > gap_at && world_s < after || at > 6.9 {
            continue; // lost, or beyond the end
        }
        let middle = (at * f64::from(RATE)).round() as usize;
        let loudest = (middle - 200..middle + 200)
            .max_by(|&a, &b| heard.samples[a].abs().total_cmp(&heard.samples[b].abs()))
            .expect("samples");
        assert!(loudest.abs_diff(middle) <= 1, "click {click}: {loudest} for {middle}");
    }
}

#[test]
fn noise_and_level_are_what_the_plan_says() {
    let sound = Sound::Machinery(1).make(10.0, RATE);
    let level = |plan: &EarPlan| {
        let samples = hear(&sound, RATE, &open_air(), plan, 2).samples;
        (samples.iter().map(|v| f64::from(v * v)).sum::<f64>() / samples.len() as f64).sqrt()
    };
    let at = |db: f64| EarPlan { from_s: 1.0, length_s: 8.0, signal_to_noise_db: db, ..EarPlan::default() };
    let clean = level(&at(90.0));
    for db in [0.0, -6.0] {
        // Powers add.
        let noise = (level(&at(db)).powi(2) - clean.powi(2)).sqrt();
        let measured = 20.0 * (clean / noise).log10();
        assert!((measured - db).abs() < 0.5, "{measured} for {db}");
    }
    let quiet = level(&EarPlan { gain_db: -40.0, ..at(90.0) });
    assert!((20.0 * (quiet / clean).log10() + 40.0).abs() < 0.1);
    let clipped = hear(&sound, RATE, &open_air(), &EarPlan { gain_db: 40.0, ..at(90.0) }, 2).samples;
    assert!(clipped.iter().all(|v| v.abs() <= 1.0) && clipped.contains(&1.0));
    let upright = hear(&sound, RATE, &open_air(), &at(90.0), 2).samples;
    let inverted = hear(&sound, RATE, &open_air(), &EarPlan { inverted: true, ..at(90.0) }, 2).samples;
    assert!(upright.iter().zip(&inverted).all(|(a, b)| (a + b).abs() < 1e-6));
}

#[test]
fn a_room_begins_with_the_direct_sound_and_dies_as_it_should() {
    for (reverberation_s, distance_m) in [(0.4, 1.0), (0.8, 4.0), (1.5, 12.0)] {
        let response = Room::new(reverberation_s, 3).response(distance_m, RATE, 5, Pickup::Omni);
        let direct = f64::from(response[0]);
        assert!(direct >= 0.95 / distance_m, "{direct} at {distance_m} m");
        let energy = |from_s: f64, to_s: f64| {
            let at = |s: f64| ((s * f64::from(RATE)) as usize).min(response.len());
            response[at(from_s)..at(to_s)].iter().map(|v| f64::from(v * v)).sum::<f64>()
        };
        // Decay of the tail over half the reverberation time: 30 dB.
        let (early, late) = (0.08, 0.08 + 0.5 * reverberation_s);
        let fallen = 10.0 * (energy(early, early + 0.05) / energy(late, late + 0.05)).log10();
        assert!((fallen - 30.0).abs() < 4.0, "{fallen} dB in {reverberation_s} s");
        // The farther, the more room.
        assert!(energy(0.001, 2.0) > 0.0);
    }
    let share = |distance_m: f64| {
        let response = Room::new(0.6, 3).response(distance_m, RATE, 5, Pickup::Omni);
        let all: f32 = response.iter().map(|v| v * v).sum();
        response[0] * response[0] / all
    };
    assert!(share(0.5) > 2.0 * share(2.0) && share(2.0) > 2.0 * share(8.0));
}

#[test]
fn a_directed_microphone_hears_less_of_the_room_and_the_room_less_treble() {
    let level = |values: &[f32]| values.iter().map(|v| f64::from(v * v)).sum::<f64>();
    let differences = |values: &[f32]| values.windows(2).map(|w| w[1] - w[0]).collect::<Vec<f32>>();
    for seed in 0..4 {
        let heard = |pickup| Room::new(0.6, seed).response(3.0, RATE, 5, pickup);
        let (directed, everywhere) = (heard(Pickup::Cardioid), heard(Pickup::Omni));
        assert!(level(&directed[1..]) < 0.6 * level(&everywhere[1..]), "room {seed}");
        assert!((directed[0] - everywhere[0]).abs() < 0.2 * everywhere[0], "direct sound in room {seed}");
        // What is left late holds less treble than what comes early.
        let at = |s: f64| (s * f64::from(RATE)) as usize;
        let treble = |from: f64, to: f64| {
            let part = &everywhere[at(from)..at(to)];
            level(&differences(part)) / level(part)
        };
        let (late, early) = (treble(0.3, 0.5), treble(0.08, 0.12));
        assert!(late < 0.75 * early, "room {seed}: {late:.2} against {early:.2}");
    }
}

#[test]
fn a_clock_that_bends_gains_what_its_rate_adds_up_to() {
    let time = TrueTime {
        from_s: 3.0,
        ppm: 20.0,
        bends: vec![
            Bend::Warming { by_ppm: 8.0, constant_s: 400.0 },
            Bend::Step { at_s: 900.0, by_ppm: -5.0, constant_s: 300.0 },
        ],
        gaps: vec![Gap { at_s: 1_000.0, lost_s: 0.25 }],
    };
    assert!((time.rate_ppm(0.0) - 28.0).abs() < 1e-9);
    assert!((time.rate_ppm(1e6) - 15.0).abs() < 1e-6);
    // The integral, second by second, of how much the clock gains.
    let mut gained = 0.0;
    for second in 0..2_000 {
        let at = f64::from(second);
        let bent = time.rate_ppm(at + 0.5) - time.ppm;
        gained += bent * 1e-6;
        let lost = if at + 1.0 >= 1_000.0 { 0.25 } else { 0.0 };
        let expected = 3.0 + (at + 1.0) / (1.0 + 20e-6) - gained + lost;
        assert!((time.at(at + 1.0) - expected).abs() < 1e-8, "{second}");
    }
}

#[test]
fn loops_repeat_to_the_sample_and_their_lead_does_not() {
    let make = |lead| Sound::Loops { bar_ms: 1_000, tune: 7, lead }.make(6.0, RATE);
    let bar = RATE as usize;
    let bare = make(false);
    assert!(bare[..5 * bar].iter().zip(&bare[bar..]).all(|(a, b)| a == b));
    assert!(bare.iter().any(|v| v.abs() > 0.1));
    let led = make(true);
    let differs: f32 = led[..5 * bar].iter().zip(&led[bar..]).map(|(a, b)| (a - b).abs()).sum();
    assert!(differs / 5.0 > 0.001 * bar as f32, "{differs}");
}

/// A click every second.
fn clicks(seconds: usize) -> Vec<f32> {
    (0..seconds * RATE as usize).map(|i| if i % RATE as usize == 8_000 { 0.9 } else { 0.0 }).collect()
}

/// When in its second each click is heard loudest, seconds.
fn heard_at(samples: &[f32]) -> Vec<f64> {
    let loudest =
        |second: &[f32]| (0..second.len()).max_by(|&a, &b| second[a].abs().total_cmp(&second[b].abs()));
    samples.chunks_exact(RATE as usize).filter_map(loudest).map(|at| at as f64 / f64::from(RATE)).collect()
}

#[test]
fn who_walks_is_heard_as_much_later_as_sound_takes() {
    let plan = EarPlan { length_s: 58.0, distance_m: 1.0, signal_to_noise_db: 60.0, ..EarPlan::default() };
    let walk = EarPlan { course: Course::Walks { near_m: 1.0, far_m: 11.0 }, ..plan.clone() };
    let [stood, walked] =
        [plan, walk].map(|plan| heard_at(&hear(&clicks(60), RATE, &open_air(), &plan, 5).samples));
    let later: Vec<f64> = stood.iter().zip(&walked).map(|(a, b)| b - a).collect();
    let (least, most) = later.iter().fold((f64::MAX, f64::MIN), |(low, high), v| (low.min(*v), high.max(*v)));
    assert!(least.abs() < 1e-3, "at its nearest as if it stood: {later:?}");
    assert!((most - 10.0 / SPEED_OF_SOUND).abs() < 1e-3, "ten metres farther at its farthest: {later:?}");
    let fastest = later.windows(2).map(|pair| (pair[1] - pair[0]).abs()).fold(0.0, f64::max);
    assert!(fastest < 1.3 / SPEED_OF_SOUND + 1e-3, "nobody runs: {fastest}");
}

#[test]
fn through_a_door_only_the_room_becomes_another() {
    let (small, large) = (Room::new(0.1, 3), Room::new(1.5, 4));
    let plan = EarPlan { length_s: 20.0, distance_m: 2.0, signal_to_noise_db: 60.0, ..EarPlan::default() };
    let through = EarPlan { course: Course::Changes { at_s: 10.0, room: large }, ..plan.clone() };
    let [stays, goes] = [plan, through].map(|plan| hear(&clicks(22), RATE, &small, &plan, 5).samples);
    let before = stays.iter().zip(&goes).take(9 * RATE as usize);
    let off = before.map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
    assert!(off < 1e-4, "before the door all is the same but the noise: {off}");
    let (from, to) = (12 * RATE as usize + 8_400, 13 * RATE as usize - 100);
    let tail = |samples: &[f32]| samples[from..to].iter().map(|v| v * v).sum::<f32>();
    assert!(tail(&goes) > 3.0 * tail(&stays), "the large room rings: {} to {}", tail(&goes), tail(&stays));
    let late = |samples: &[f32]| heard_at(samples)[15];
    assert!((late(&goes) - late(&stays)).abs() < 1e-3, "and is heard as soon");
}

#[test]
fn a_telephone_has_no_lows_and_loses_packets() {
    let tone = |hz: f64| -> Vec<f32> {
        (0..10 * RATE)
            .map(|i| 0.3 * (std::f64::consts::TAU * hz * f64::from(i) / f64::from(RATE)).sin() as f32)
            .collect()
    };
    let heard = |hz: f64, lost: f64| {
        let plan = EarPlan {
            length_s: 8.0,
            distance_m: 1.0,
            signal_to_noise_db: 80.0,
            up_to_hz: 3_400.0,
            telephone: Some(lost),
            ..EarPlan::default()
        };
        hear(&tone(hz), RATE, &open_air(), &plan, 9).samples
    };
    let level = |samples: &[f32]| (samples.iter().map(|v| v * v).sum::<f32>() / samples.len() as f32).sqrt();
    assert!(level(&heard(100.0, 0.0)) < 0.3 * level(&heard(1_000.0, 0.0)));
    // A packet that never came is the one before it, softer.
    let packet = RATE as usize / 50;
    let again = |samples: &[f32]| {
        let packets: Vec<&[f32]> = samples.chunks_exact(packet).collect();
        let same = |pair: &&[&[f32]]| pair[1].iter().zip(pair[0]).all(|(b, a)| *b == 0.7 * a);
        packets.windows(2).filter(same).count() as f64 / packets.len() as f64
    };
    assert!(again(&heard(1_000.0, 0.0)) == 0.0);
    let share = again(&heard(1_000.0, 0.1));
    assert!((0.05..0.15).contains(&share), "{share}");
}

#[test]
fn wind_is_low_and_comes_in_gusts_and_hands_knock() {
    let sound = Sound::Speech { voices: 1, words: 2 }.make(32.0, RATE);
    let plan = EarPlan { length_s: 30.0, distance_m: 1.0, ..EarPlan::default() };
    let still = hear(&sound, RATE, &open_air(), &plan, 9).samples;
    let beside = |other: EarPlan| -> Vec<f32> {
        hear(&sound, RATE, &open_air(), &other, 9).samples.iter().zip(&still).map(|(a, b)| a - b).collect()
    };
    let level = |samples: &[f32]| (samples.iter().map(|v| v * v).sum::<f32>() / samples.len() as f32).sqrt();
    let wind = beside(EarPlan { wind_db: Some(6.0), ..plan.clone() });
    let seconds: Vec<f32> = wind.chunks_exact(RATE as usize).map(level).collect();
    let (least, most) =
        seconds.iter().fold((f32::MAX, 0.0_f32), |(low, high), v| (low.min(*v), high.max(*v)));
    assert!(most > 4.0 * least, "gusts: {least} to {most}");
    let mut low = 0.0;
    let high: Vec<f32> = wind
        .iter()
        .map(|v| {
            low += 0.2 * (v - low);
            v - low
        })
        .collect();
    assert!(level(&high) < 0.5 * level(&wind), "mostly below 600 Hz");
    let hands = beside(EarPlan { hand: true, ..plan });
    let peak = hands.iter().fold(0.0_f32, |peak, v| peak.max(v.abs()));
    assert!(peak > 8.0 * level(&hands), "{peak} over {}", level(&hands));
}
