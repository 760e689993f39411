//! The kinds of shoots the engine is measured on.

use crate::{
    Shoot,
    apart::apart,
    channels::any_channel,
    counters::timecode,
    long::{bends, looped, looped_for_hours, looped_track},
    rolling::rolling_on,
    troubles::{room_changes, telephones, walking, wind_and_hands},
    world::{crystal, dice, programme, recorder, world},
};
use metaxis_core::{
    signal::LISTEN_RATE,
    sync::{Effort, Mode},
};
use metaxis_shoot::field::{EarPlan, Gap, Pickup, Room, Sound};
use rand::Rng;
use rand_chacha::ChaCha8Rng;

/// A kind of shoot: what it is for, and how one is made from a seed.
#[derive(Clone, Copy)]
pub struct Kind {
    /// Short name.
    pub name: &'static str,
    /// What is hard in it.
    pub about: &'static str,
    /// Makes one.
    pub make: fn(u64) -> Shoot,
    /// How many others it is worth, by the time it takes.
    pub worth: u64,
}

const fn kind(name: &'static str, about: &'static str, make: fn(u64) -> Shoot) -> Kind {
    Kind { name, about, make, worth: 1 }
}

/// All kinds.
pub const KINDS: &[Kind] = &[
    kind("clean", "speech, music, machines, crowds; 20 dB; far and near", clean),
    kind("noisy", "-6 dB of noise at every camera", |seed| noisy(seed, -6.0, Effort::Normal)),
    kind("very noisy", "-12 dB, deep effort", |seed| noisy(seed, -12.0, Effort::Deep)),
    kind("short overlap", "3 to 10 s shared, deep effort", short),
    kind(
        "hard ears",
        "AGC, -40 dB, clipping, inverted, telephone band; 1.5 s of room, heard from everywhere",
        hard_ears,
    ),
    kind("islands", "two cameras that never hear the recorder; decoys of the same voices and tune", islands),
    kind(
        "takes apart",
        "13 takes of a recorder without time references, cameras with clocks of their own",
        apart,
    ),
    kind(
        "any channel",
        "eight channels: dead, hum, tone, noise, other rooms, voices with bleed and links, a boom",
        any_channel,
    ),
    kind("telephones", "a gate, 300 to 3400 Hz, gain that follows, up to 8 % of packets lost", telephones),
    kind("walking", "people who walk from 1 m to 4, 8 or 14 m and back", walking),
    kind("wind and hands", "wind of -6 to +18 dB, hands that knock and rub", wind_and_hands),
    kind("room changes", "through a door into another room", room_changes),
    kind("decoys", "nothing belongs: other words, other performances, hums, near silence", decoys),
    kind("repeats", "the programme holds one passage twice, to the sample", repeats),
    kind("breaks", "5 ms to 2 s lost, clocks to 120 ppm", breaks),
    kind(
        "rolling on",
        "cameras that roll through a recorder's takes and lose 20 ms to 1 s in one",
        rolling_on,
    ),
    Kind { worth: 4, ..kind("an hour", "one hour of drift with a break, and a quarter of an hour", hour) },
    kind("playback", "takes to a track, stopped and started again", playback),
    kind(
        "timecode",
        "cameras with every fault of timecode and clocks, some of their clips without sound",
        timecode,
    ),
    Kind {
        worth: 2,
        ..kind("loops", "20 to 50 min, half of it bars that repeat to the sample; some lose samples", looped)
    },
    Kind { worth: 8, ..kind("loops for hours", "the same, four hours long", looped_for_hours) },
    kind("looped track", "takes to a track of loops, stopped and started again", looped_track),
    Kind {
        worth: 2,
        ..kind("bends", "clocks that warm up, cool down and change temperature; 40 min to 4 h", bends)
    },
];

/// Clips of `device` one after the other over `seconds`, each of 20 to 90 s, with gaps.
fn clips(seconds: f64, rng: &mut ChaCha8Rng) -> Vec<(f64, f64)> {
    let mut at = 2.0 + 10.0 * rng.random::<f64>();
    let mut all = vec![];
    loop {
        let length = 20.0 + 70.0 * rng.random::<f64>().powi(2);
        if at + length > seconds - 2.0 {
            return all;
        }
        all.push((at, length));
        at += length + 3.0 + 40.0 * rng.random::<f64>();
    }
}

fn clean(seed: u64) -> Shoot {
    let far = |rng: &mut ChaCha8Rng| 1.0 + 14.0 * rng.random::<f64>().powi(2);
    two_cameras(dice(seed, 1), 0.7, 30.0, 20.0, far, Effort::Normal)
}

fn noisy(seed: u64, db: f64, effort: Effort) -> Shoot {
    let near = |rng: &mut ChaCha8Rng| 1.0 + 5.0 * rng.random::<f64>();
    two_cameras(dice(seed, 2), 0.5, 15.0, db, near, effort)
}

/// Five minutes with a recorder and two cameras that come and go; the room echoes 0.3 s and up to `room_s` more.
fn two_cameras(
    mut rng: ChaCha8Rng,
    room_s: f64,
    recorder_db: f64,
    camera_db: f64,
    distance: impl Fn(&mut ChaCha8Rng) -> f64,
    effort: Effort,
) -> Shoot {
    let sound = world(300.0, &mut rng);
    let room = Room::new(0.3 + room_s * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, effort);
    let recorder = EarPlan { signal_to_noise_db: recorder_db, ..recorder(298.0) };
    shoot.record(0, 0, &sound, &room, &recorder, true, rng.random());
    for device in 1..=2 {
        let (clock_ppm, distance_m) = (crystal(&mut rng), distance(&mut rng));
        for (from_s, length_s) in clips(300.0, &mut rng) {
            let plan = EarPlan {
                from_s,
                length_s,
                distance_m,
                clock_ppm,
                signal_to_noise_db: camera_db,
                ..EarPlan::default()
            };
            shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
        }
    }
    shoot
}

fn short(seed: u64) -> Shoot {
    let mut rng = dice(seed, 3);
    let sound = world(240.0, &mut rng);
    let room = Room::new(0.3 + 0.5 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Deep);
    // The recorder hears the middle only; the cameras reach into it from either side, or are short.
    let middle = EarPlan { from_s: 80.0, length_s: 80.0, signal_to_noise_db: 25.0, ..EarPlan::default() };
    shoot.record(0, 0, &sound, &room, &middle, true, rng.random());
    for device in 1..=6 {
        let shared = 3.0 + 7.0 * rng.random::<f64>();
        let own = shared + 30.0 * rng.random::<f64>();
        let (from_s, length_s) = match device % 3 {
            0 => (80.0 + shared - own, own),
            1 => (160.0 - shared, own),
            _ => (85.0 + 60.0 * rng.random::<f64>(), shared),
        };
        let plan = EarPlan {
            from_s,
            length_s,
            distance_m: 1.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 3.0 + 15.0 * rng.random::<f64>(),
            ..EarPlan::default()
        };
        shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}

fn hard_ears(seed: u64) -> Shoot {
    let mut rng = dice(seed, 4);
    let sound = world(240.0, &mut rng);
    let room = Room::new(1.2 + 0.3 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    shoot.record(0, 0, &sound, &room, &recorder(238.0), true, rng.random());
    for device in 1..=6 {
        let base = EarPlan {
            from_s: 5.0 + 150.0 * rng.random::<f64>(),
            length_s: 25.0 + 50.0 * rng.random::<f64>(),
            distance_m: 1.0 + 7.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 15.0,
            pickup: Pickup::Omni,
            ..EarPlan::default()
        };
        let plan = match device {
            1 => EarPlan { automatic_gain: true, gain_db: -20.0, signal_to_noise_db: 6.0, ..base },
            2 => EarPlan { gain_db: -40.0, signal_to_noise_db: 10.0, ..base },
            3 => EarPlan { gain_db: 30.0, ..base },
            4 => EarPlan { inverted: true, ..base },
            5 => EarPlan { up_to_hz: 3400.0, signal_to_noise_db: 8.0, ..base },
            _ => EarPlan { wander_m: 0.3, distance_m: 6.0, ..base },
        };
        shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}

fn islands(seed: u64) -> Shoot {
    let mut rng = dice(seed, 5);
    let voices = rng.random();
    let tune = rng.random();
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    let room = Room::new(0.5, rng.random());
    let mut main = Sound::Speech { voices, words: rng.random() }.make(120.0, LISTEN_RATE);
    main.extend(Sound::Music { tune, performance: rng.random() }.make(80.0, LISTEN_RATE));
    shoot.record(0, 0, &main, &room, &recorder(198.0), true, rng.random());
    let plan = |from_s: f64, length_s: f64, rng: &mut ChaCha8Rng| EarPlan {
        from_s,
        length_s,
        distance_m: 1.0 + 4.0 * rng.random::<f64>(),
        clock_ppm: crystal(rng),
        signal_to_noise_db: 12.0,
        ..EarPlan::default()
    };
    // A bridge: device 1 hears the end of the recorder's world and beyond; device 2 only what device 1 hears.
    let mut longer = main.clone();
    longer.extend(Sound::Machinery(rng.random()).make(120.0, LISTEN_RATE));
    let bridge = plan(150.0, 120.0, &mut rng);
    shoot.record(1, 0, &longer, &room, &bridge, true, rng.random());
    let far = plan(215.0, 60.0, &mut rng);
    shoot.record(2, 0, &longer, &room, &far, true, rng.random());
    // An island with the same people and the same tune: other words, another performance.
    let mut other = Sound::Speech { voices, words: rng.random() }.make(60.0, LISTEN_RATE);
    other.extend(Sound::Music { tune, performance: rng.random() }.make(60.0, LISTEN_RATE));
    for device in [1, 2] {
        let own = plan(5.0 + 10.0 * f64::from(device), 80.0, &mut rng);
        shoot.record(device as usize, 1, &other, &room, &own, true, rng.random());
    }
    shoot
}

fn decoys(seed: u64) -> Shoot {
    let mut rng = dice(seed, 6);
    let (voices, tune) = (rng.random(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, if seed.is_multiple_of(2) { Effort::Normal } else { Effort::Deep });
    let room = Room::new(0.5, rng.random());
    let mut main = Sound::Speech { voices, words: rng.random() }.make(120.0, LISTEN_RATE);
    main.extend(Sound::Music { tune, performance: rng.random() }.make(100.0, LISTEN_RATE));
    main.extend(Sound::Hum { tone: 3, air: rng.random() }.make(40.0, LISTEN_RATE));
    shoot.record(0, 0, &main, &room, &recorder(258.0), true, rng.random());
    let others = [
        Sound::Speech { voices, words: rng.random() },
        Sound::Music { tune, performance: rng.random() },
        Sound::Hum { tone: 3, air: rng.random() },
        Sound::Hum { tone: rng.random(), air: rng.random() },
        Sound::Machinery(rng.random()),
        Sound::Crowd(rng.random()),
        Sound::Speech { voices, words: rng.random() },
        Sound::Music { tune, performance: rng.random() },
    ];
    for (i, sound) in others.into_iter().enumerate() {
        let length_s = 5.0 + 60.0 * rng.random::<f64>();
        let heard = sound.make(length_s + 2.0, LISTEN_RATE);
        let silent = i == 4;
        let plan = EarPlan {
            from_s: 0.0,
            length_s,
            distance_m: 1.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: if silent { -60.0 } else { 15.0 },
            gain_db: if silent { -60.0 } else { 0.0 },
            ..EarPlan::default()
        };
        shoot.record(i + 1, i + 1, &heard, &room, &plan, false, rng.random());
    }
    shoot
}

fn repeats(seed: u64) -> Shoot {
    let mut rng = dice(seed, 7);
    let room = Room::new(0.4, rng.random());
    let passage = programme(&mut rng).make(30.0, LISTEN_RATE);
    let mut sound = programme(&mut rng).make(30.0, LISTEN_RATE);
    sound.extend(&passage);
    sound.extend(programme(&mut rng).make(25.0, LISTEN_RATE));
    sound.extend(&passage);
    sound.extend(programme(&mut rng).make(30.0, LISTEN_RATE));
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    shoot.record(0, 0, &sound, &room, &recorder(143.0), true, rng.random());
    let ear = |from_s: f64, length_s: f64, rng: &mut ChaCha8Rng| EarPlan {
        from_s,
        length_s,
        distance_m: 2.0,
        clock_ppm: crystal(rng),
        signal_to_noise_db: 15.0,
        ..EarPlan::default()
    };
    // Wholly inside either passage: only a guess is possible. Across its edge: certain. And two of one device, each in
    // one passage: their order tells.
    let own = [ear(33.0, 20.0, &mut rng), ear(88.0, 20.0, &mut rng)];
    for plan in &own {
        shoot.record(1, 0, &sound, &room, plan, false, rng.random());
    }
    let inside = ear(35.0 + 55.0 * f64::from(rng.random_range(0..2)), 15.0, &mut rng);
    shoot.record(2, 0, &sound, &room, &inside, false, rng.random());
    let across = ear(20.0, 30.0, &mut rng);
    shoot.record(3, 0, &sound, &room, &across, true, rng.random());
    shoot
}

fn breaks(seed: u64) -> Shoot {
    let mut rng = dice(seed, 8);
    let sound = world(400.0, &mut rng);
    let room = Room::new(0.3 + 0.5 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    shoot.record(0, 0, &sound, &room, &recorder(398.0), true, rng.random());
    for device in 1..=4 {
        let length_s = 60.0 + 200.0 * rng.random::<f64>();
        let lost_s = 0.005 * 400_f64.powf(rng.random::<f64>());
        let at_s = 15.0 + (length_s - 30.0) * rng.random::<f64>();
        let plan = EarPlan {
            from_s: 5.0 + 100.0 * rng.random::<f64>(),
            length_s,
            distance_m: 1.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: 2.0 * crystal(&mut rng),
            signal_to_noise_db: 12.0,
            gaps: vec![Gap { at_s, lost_s }],
            ..EarPlan::default()
        };
        shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}

fn hour(seed: u64) -> Shoot {
    let mut rng = dice(seed, 10);
    let sound = world(3_610.0, &mut rng);
    let room = Room::new(0.3 + 0.4 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    shoot.record(0, 0, &sound, &room, &recorder(3_605.0), true, rng.random());
    for length_s in [3_600.0, 900.0] {
        let from_s = 1.0 + (3_600.0 - length_s) * rng.random::<f64>();
        let lost_s = 0.005 * 400_f64.powf(rng.random::<f64>());
        let plan = EarPlan {
            from_s,
            length_s,
            distance_m: 1.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 12.0,
            gaps: vec![Gap { at_s: length_s * (0.2 + 0.6 * rng.random::<f64>()), lost_s }],
            ..EarPlan::default()
        };
        shoot.record(shoot.takes.len(), 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}

fn playback(seed: u64) -> Shoot {
    let mut rng = dice(seed, 9);
    let room = Room::new(0.5, rng.random());
    let track = Sound::Music { tune: rng.random(), performance: rng.random() }.make(150.0, LISTEN_RATE);
    let mut shoot = Shoot::new(Mode::Playback, Effort::Normal);
    let direct = EarPlan {
        from_s: 0.0,
        length_s: 150.0,
        distance_m: 0.5,
        signal_to_noise_db: 60.0,
        ..EarPlan::default()
    };
    shoot.record(0, 0, &track, &Room::new(0.05, 1), &direct, true, rng.random());
    for take in 0..5 {
        // The loudspeaker plays; people sing and step over it, anew in each take.
        let voices = Sound::Speech { voices: rng.random(), words: rng.random() }.make(160.0, LISTEN_RATE);
        let heard: Vec<f32> = track.iter().zip(&voices).map(|(track, voice)| track + 0.5 * voice).collect();
        let mut plan = EarPlan {
            from_s: 80.0 * rng.random::<f64>(),
            length_s: 25.0 + 40.0 * rng.random::<f64>(),
            distance_m: 2.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 10.0,
            ..EarPlan::default()
        };
        if take >= 3 {
            // Stopped, and started again earlier or later in the track.
            let at_s = 12.0 + (plan.length_s - 24.0).max(0.0) * rng.random::<f64>();
            let jump = if rng.random() {
                5.0 + 10.0 * rng.random::<f64>()
            } else {
                -5.0 - 5.0 * rng.random::<f64>()
            };
            plan.gaps = vec![Gap { at_s, lost_s: jump }];
        }
        shoot.record(1 + take % 2, 0, &heard, &room, &plan, true, rng.random());
    }
    shoot
}
