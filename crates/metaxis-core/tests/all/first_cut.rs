//! First cuts of simulated talk, held against who spoke when.

use metaxis_core::{
    clip::{ClipId, DeviceId},
    group::{Angle, AngleId, AnglePart, Group},
    line::{FirstCutHabit, Microphone, Shot, Why, first_cut},
    sync::Stretch,
    time::{FrameRate, Tick, Timecode},
};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

const WIDE: AngleId = AngleId(9);

/// A talk of several people: their microphones, and who spoke from when to when, seconds.
fn talk(people: usize, turns: usize, seed: u64) -> (Vec<Microphone>, Vec<(usize, f64, f64)>) {
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    let mut truth = vec![];
    let (mut at, mut last) = (1.0, people);
    for _ in 0..turns {
        let who = (0..people)
            .filter(|own| *own != last)
            .nth(random.random_range(0..people - usize::from(last < people)))
            .unwrap_or(0);
        let length = random.random_range(0.4..6.0);
        truth.push((who, at, at + length));
        // Mostly a short pause, at times into each other's words, seldom a long one.
        at += length
            + match random.random_range(0..10) {
                0 => -0.25,
                1 => random.random_range(2.0..6.0),
                _ => random.random_range(0.1..0.8),
            };
        last = who;
    }
    let steps = ((at + 2.0) * 100.0) as usize;
    let gains: Vec<f32> = (0..people).map(|_| random.random_range(-6.0..6.0)).collect();
    let bleed: Vec<Vec<f32>> =
        (0..people).map(|_| (0..people).map(|_| random.random_range(-22.0..-12.0)).collect()).collect();
    let mut powers = vec![vec![0.0_f32; steps]; people];
    for own in powers.iter_mut().flatten() {
        *own = 10.0_f32.powf((-62.0 + random.random_range(-2.0..2.0)) / 10.0);
    }
    for &(who, from, to) in &truth {
        let loud = random.random_range(-24.0..-18.0);
        for step in (from * 100.0) as usize..((to * 100.0) as usize).min(steps) {
            // Syllables, with stops between them.
            let phase = (step as f32 / 100.0 - from as f32) * 4.5;
            let level =
                loud - 14.0 * (phase.fract() - 0.4).abs() - if (phase as i32) % 7 == 6 { 25.0 } else { 0.0 };
            for (own, power) in powers.iter_mut().enumerate() {
                let heard = level + gains[own] + if own == who { 0.0 } else { bleed[who][own] };
                power[step] += 10.0_f32.powf(heard / 10.0);
            }
        }
    }
    let microphones = powers.into_iter().enumerate().map(|(own, power)| Microphone {
        levels: power.into_iter().map(|own| 10.0 * own.log10()).collect(),
        angles: vec![AngleId(own as i64 + 1)],
    });
    (microphones.collect(), truth)
}

fn group(people: usize, frames: i64, holes: &[(usize, i64, i64)]) -> Group {
    let part = |from_frame, to_frame| AnglePart {
        clip: ClipId(1),
        from_frame,
        to_frame,
        stretch: Stretch::whole(3600.0, 0.0),
        picture_delay_s: 0.0,
        rate: FrameRate::FPS_25,
        still: false,
    };
    let angle = |id: AngleId| {
        let hole = holes.iter().find(|own| own.0 as i64 + 1 == id.0);
        let parts = match hole {
            Some((_, from, to)) => vec![part(0, *from), part(*to, frames)],
            None => vec![part(0, frames)],
        };
        Angle { id, ..Angle::of(DeviceId(id.0), parts) }
    };
    Group {
        name: "Talk".into(),
        start: Timecode::new(0, FrameRate::FPS_25, false),
        axis_zero: Tick(0),
        component: 0,
        frames,
        width: 640,
        height: 360,
        angles: (1..=people as i64).map(AngleId).chain([WIDE]).map(angle).collect(),
        sound: None,
        window: None,
        removed: vec![],
        seams: vec![],
        grid: None,
    }
}

fn on_at(shots: &[Shot], frame: i64) -> AngleId {
    shots.iter().rfind(|own| own.at <= frame).map_or(AngleId::BLACK, |own| own.angle)
}

#[test]
fn who_speaks_is_shown() {
    let habit = FirstCutHabit { wide: vec![WIDE], ..FirstCutHabit::default() };
    let (mut right, mut all, mut shown) = (0, 0, 0);
    for seed in 0..24 {
        let people = 2 + seed as usize % 3;
        let (microphones, truth) = talk(people, 60, seed);
        let frames = microphones[0].levels.len() as i64 / 4;
        let shots = first_cut(&group(people, frames, &[]), &microphones, &habit);
        assert!(shots.windows(2).all(|pair| pair[0].at < pair[1].at && pair[0].angle != pair[1].angle));
        let ends = shots.iter().skip(1).map(|own| own.at).chain([frames]);
        assert!(shots.iter().zip(ends).all(|(own, end)| end - own.at >= 25), "a shot is too short");
        for (who, from, to) in truth.iter().filter(|own| own.2 - own.1 > 1.0) {
            let begins = (from * 25.0).round() as i64;
            let angle = AngleId(*who as i64 + 1);
            all += 1;
            // It is on within ten frames of the first word: cut to there, or on already.
            right += i32::from((begins - 10..=begins + 10).any(|frame| on_at(&shots, frame) == angle));
            let middle = ((from + to) * 12.5) as i64;
            shown += i32::from(on_at(&shots, middle) == angle);
        }
    }
    println!(
        "turns longer than a second: {right} of {all} on the right person within ten frames, {shown} in their middle"
    );
    assert!(f64::from(right) >= 0.95 * f64::from(all), "{right} of {all}");
    assert!(f64::from(shown) >= 0.95 * f64::from(all), "{shown} of {all}");
}

#[test]
fn no_angle_is_shown_that_does_not_run() {
    let (microphones, _) = talk(3, 40, 7);
    let frames = microphones[0].levels.len() as i64 / 4;
    let group = group(3, frames, &[(0, 300, 1200), (9 - 1, 600, 700)]);
    let habit = FirstCutHabit { wide: vec![WIDE], ..FirstCutHabit::default() };
    let shots = first_cut(&group, &microphones, &habit);
    for frame in 0..frames {
        let angle = on_at(&shots, frame);
        assert!(group.part_at(angle, frame).is_some(), "{angle:?} does not run at {frame}");
    }
    assert!(shots.iter().any(|own| own.why == Why::Ended) || on_at(&shots, 400) != AngleId(1));
}

#[test]
fn nobody_and_nothing_to_hear_show_all() {
    let silent = Microphone { levels: vec![-70.0; 2000], angles: vec![AngleId(1)] };
    let habit = FirstCutHabit { wide: vec![WIDE], ..FirstCutHabit::default() };
    let shots = first_cut(&group(1, 500, &[]), &[silent], &habit);
    assert_eq!(shots, [Shot { at: 0, angle: WIDE, why: Why::Nobody }]);
    assert_eq!(first_cut(&group(1, 500, &[]), &[], &habit).len(), 1);
}
