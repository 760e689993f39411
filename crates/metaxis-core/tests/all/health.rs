//! Health notes: each fault gives its note, and healthy clips give none.

use crate::common::{camera, recorder};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, FrameTiming},
    intake::{HealthClip, HealthDevice, HealthKind, HealthNote, Weight, health},
    ltc::LtcFound,
    signal::{Carries, ChannelState, LostSound},
    time::{FrameRate, SampleRate, Timecode},
};

const FINE: ChannelState = ChannelState {
    peak_dbfs: -8.0,
    rms_dbfs: -24.0,
    clipped: 0,
    no_numbers: 0,
    floor_dbfs: -60.0,
    carries: Carries::Sound,
    late_s: None,
    audio_timecode: None,
};

fn timecode(share: f64, jumps: u32, standing: u32) -> ChannelState {
    let first = Timecode::new(1000, FrameRate::FPS_25, false);
    let found = LtcFound {
        frames: 200,
        share,
        first,
        first_s: 0.0,
        measured_fps: 25.0,
        jumps,
        standing,
        steady: 1.0,
        backwards: false,
        date: None,
    };
    ChannelState { audio_timecode: Some(found), ..FINE }
}

struct Case {
    facts: ClipFacts,
    device: i64,
    fingerprint: String,
    channels: Option<Vec<ChannelState>>,
    lost: Vec<LostSound>,
    heard_s: f64,
    timing: Option<FrameTiming>,
    placed: Option<f64>,
    takes_part: bool,
}

fn case(device: i64, facts: ClipFacts) -> Case {
    let timing = facts.picture.as_ref().map(|picture| {
        let frame = 1.0 / picture.rate.as_f64();
        FrameTiming {
            frames: (picture.duration_s / frame).round() as u64,
            shortest_s: frame - 5e-4,
            longest_s: frame + 5e-4,
        }
    });
    let heard_s = facts.duration_s;
    let channels = facts.sound.as_ref().map(|sound| vec![FINE; sound.channels as usize]);
    Case {
        facts,
        device,
        fingerprint: String::new(),
        channels,
        lost: vec![],
        heard_s,
        timing,
        placed: None,
        takes_part: true,
    }
}

fn notes(cases: &[Case]) -> Vec<HealthNote> {
    let names: Vec<String> = (1..=cases.len()).map(|i| format!("clip-{i}")).collect();
    let prints: Vec<String> = cases
        .iter()
        .enumerate()
        .map(|(i, c)| if c.fingerprint.is_empty() { i.to_string() } else { c.fingerprint.clone() })
        .collect();
    let clips: Vec<HealthClip> = cases
        .iter()
        .enumerate()
        .map(|(i, case)| HealthClip {
            id: ClipId(i as i64 + 1),
            device: DeviceId(case.device),
            name: &names[i],
            facts: &case.facts,
            fingerprint: &prints[i],
            takes_part: case.takes_part,
            heard: case.channels.as_deref().map(|channels| {
                let rate = case.facts.sound.as_ref().map_or(48_000.0, |sound| f64::from(sound.rate.0));
                (channels, (case.heard_s * rate) as u64)
            }),
            lost: &case.lost,
            timing: case.timing,
            placed_clock_s: case.placed,
        })
        .collect();
    let devices: Vec<HealthDevice> = (1..=4)
        .map(|id| HealthDevice {
            id: DeviceId(id),
            called: format!("{} Dev", ["A", "B", "C", "R"][id as usize - 1]),
        })
        .collect();
    health(&clips, &devices)
}

fn kinds(cases: &[Case]) -> Vec<HealthKind> {
    notes(cases).into_iter().map(|note| note.kind).collect()
}

fn day() -> Vec<Case> {
    let clock = |device: i64, facts: ClipFacts, at: &str| {
        let mut facts = facts;
        facts.created = Some(format!("2026-05-14T{at}Z"));
        case(device, facts)
    };
    vec![
        clock(1, camera(60.0, 25), "10:00:00"),
        clock(1, camera(30.0, 25), "10:10:00"),
        clock(2, camera(60.0, 25), "10:00:01"),
        clock(4, recorder(90.0), "09:59:50"),
    ]
}

#[test]
fn a_later_shoot_day_is_no_clock_that_is_off() {
    let mut all = day();
    for case in &mut all {
        // Where its own clock says, on the second and the third day of the axis.
        let own_s = case.facts.created_clock_s().expect("a clock");
        case.placed = Some(own_s + f64::from(1 + case.device as u32 % 2) * 86_400.0);
    }
    assert_eq!(kinds(&all), []);
    // Two hours off are two hours off on any day.
    for case in all.iter_mut().filter(|case| case.device == 2) {
        case.placed = case.placed.map(|at_s| at_s - 7200.0);
    }
    assert_eq!(kinds(&all), [HealthKind::ClockOff]);
}

#[test]
fn healthy_clips_give_no_note() {
    assert_eq!(kinds(&day()), []);
}

/// What one fault in an otherwise healthy day gives.
fn one(spoil: impl FnOnce(&mut Vec<Case>)) -> Vec<HealthNote> {
    let mut cases = day();
    spoil(&mut cases);
    notes(&cases)
}

#[track_caller]
fn gives(kind: HealthKind, clips: &[i64], says: &str, spoil: impl FnOnce(&mut Vec<Case>)) {
    let found = one(spoil);
    assert_eq!(found.iter().map(|note| note.kind).collect::<Vec<_>>(), [kind], "{found:#?}");
    assert_eq!(found[0].clips, clips.iter().map(|id| ClipId(*id)).collect::<Vec<_>>());
    assert!(found[0].what.contains(says), "“{}” should say “{says}”", found[0].what);
    assert!(!found[0].means.is_empty() && !found[0].todo.is_empty());
}

#[test]
fn each_fault_gives_its_note_and_no_other() {
    gives(HealthKind::ShorterThanLabel, &[1], "its sound ends after 48.0 s, but the file says 60.0 s", |c| {
        c[0].heard_s = 48.0
    });
    let block = |from_s: u64| LostSound { from: from_s * 48_000, count: 4_096 };
    gives(HealthKind::SoundLost, &[1], "0.09 s of its sound at 1:05.0 cannot be decoded", |c| {
        c[0].lost = vec![block(65)];
    });
    let places = "0.34 s of its sound in 4 places (0:01.0, 0:02.0, 0:03.0 …) cannot be decoded";
    gives(HealthKind::SoundLost, &[1], places, |c| c[0].lost = (1..5).map(block).collect());
    gives(HealthKind::ShorterThanLabel, &[1], "its picture", |c| {
        let case = &mut c[0];
        if let (Some(picture), Some(timing)) = (&mut case.facts.picture, &mut case.timing) {
            picture.frames = Some(1500);
            timing.frames = 1200;
        }
    });
    gives(HealthKind::VaryingRate, &[3], "frames last from 30.0 to 55.0 ms", |c| {
        c[2].timing = Some(FrameTiming { frames: 1500, shortest_s: 0.030, longest_s: 0.055 });
    });
    gives(HealthKind::VaryingRate, &[3], "on average", |c| {
        c[2].timing = None;
        if let Some(picture) = &mut c[2].facts.picture {
            picture.constant_rate = false;
        }
    });
    gives(HealthKind::MixedRates, &[1, 2, 3], "A Dev at 25 and B Dev at 50", |c| {
        c[2] = case(2, camera(60.0, 50))
    });
    gives(HealthKind::OddSampleRate, &[3], "B Dev records at 44.1 kHz, the rest of the day at 48 kHz", |c| {
        if let Some(sound) = &mut c[2].facts.sound {
            sound.rate = SampleRate(44_100);
        }
    });
    gives(HealthKind::WrongSpeed, &[1], "44.1 kHz played as 48 kHz", |c| {
        if let Some(sound) = &mut c[0].facts.sound {
            sound.duration_s = 60.0 * 44.1 / 48.0;
        }
        c[0].heard_s = 60.0 * 44.1 / 48.0;
    });
    gives(HealthKind::WrongSpeed, &[4], "pulled down by 0.1 %", |c| {
        c[3].facts.speed.digitizer_sample_rate = Some(48_048)
    });
    gives(HealthKind::TimecodeRate, &[4], "R Dev counts timecode at 23.976 fps", |c| {
        c[3].facts.speed.timecode_rate = "23.976".parse().ok();
    });
    let counting = |fps: &str, c: &mut [Case]| {
        c[2].facts.timecode = Some(Timecode::new(900_000, fps.parse().expect("a rate"), false));
    };
    gives(HealthKind::TimecodeRate, &[3], "B Dev counts timecode at 30 fps over pictures at 25", |c| {
        counting("30", c);
    });
    gives(HealthKind::TimecodeRate, &[3], "counts timecode at 12.500 fps over pictures at 25", |c| {
        counting("12.5", c);
    });
    let counting = |drop: Option<bool>, case: &mut Case| {
        let rate = FrameRate::new(30_000, 1001).expect("a rate");
        case.facts.picture.as_mut().expect("a picture").rate = rate;
        case.facts.timecode = drop.map(|drop| Timecode::new(900_000, rate, drop));
    };
    gives(HealthKind::MixedCounting, &[1, 3], "A Dev counts drop-frame, B Dev counts non-drop-frame", |c| {
        counting(Some(true), &mut c[0]);
        counting(None, &mut c[1]);
        counting(Some(false), &mut c[2]);
    });
    gives(HealthKind::TimecodeStands, &[1, 2], "01:00:00:00 at the start of all 2 clips", |c| {
        for case in &mut c[..2] {
            case.facts.timecode = Some(Timecode::new(90_000, FrameRate::FPS_25, false));
        }
    });
    gives(
        HealthKind::TimecodeJumps,
        &[1, 2],
        "from clip-1 to clip-2 the file timecode moves on by 1 min, the camera's clock by 10 min",
        |c| {
            c[0].facts.timecode = Some(Timecode::new(90_000, FrameRate::FPS_25, false));
            c[1].facts.timecode = Some(Timecode::new(91_500, FrameRate::FPS_25, false));
        },
    );
    gives(HealthKind::Duplicate, &[1, 2], "clip-1 and clip-2 are the same recording", |c| {
        c[0].fingerprint = "same".into();
        c[1].fingerprint = "same".into();
    });
    gives(HealthKind::StreamLeftOut, &[1], "one sound stream is at another rate", |c| {
        if let Some(sound) = &mut c[0].facts.sound {
            sound.left_out = 1;
        }
    });
    gives(HealthKind::UnevenEnds, &[1], "its sound ends 2.0 s before its picture", |c| {
        if let Some(sound) = &mut c[0].facts.sound {
            sound.duration_s = 58.0;
        }
        c[0].heard_s = 58.0;
    });
    gives(HealthKind::ClockOff, &[3], "from 03:00 to 03:01, everything else from 09:59 to 10:10", |c| {
        c[2].facts.created = Some("2026-05-14T03:00:00Z".into());
    });
    gives(HealthKind::ClockOff, &[3], "B Dev: its clock is 1 h 41 s fast", |c| {
        c[2].placed = Some(10.0 * 3600.0 + 1.0 - 3641.0);
    });
}

#[test]
fn channels_say_what_they_carry() {
    let on = |state: ChannelState| {
        move |c: &mut Vec<Case>| {
            if let Some(sound) = &mut c[3].facts.sound {
                sound.channels = 2;
                sound.channel_names = vec!["Mix L".into(), "Boom".into()];
            }
            c[3].channels = Some(vec![FINE, state]);
        }
    };
    let dead = ChannelState { peak_dbfs: -200.0, rms_dbfs: -200.0, carries: Carries::Nothing, ..FINE };
    gives(HealthKind::DeadChannel, &[4], "channel 2 (Boom) is digital silence", on(dead));
    gives(
        HealthKind::QuietChannel,
        &[4],
        "channel 2 (Boom) never rises above -62 dBFS",
        on(ChannelState { peak_dbfs: -62.0, rms_dbfs: -70.0, ..FINE }),
    );
    gives(
        HealthKind::Clipped,
        &[4],
        "312 samples at full scale",
        on(ChannelState { peak_dbfs: 0.0, clipped: 312, ..FINE }),
    );
    for (carries, what) in
        [(Carries::Hum, "hum"), (Carries::Tone, "a steady tone"), (Carries::Noise, "steady noise")]
    {
        let what = format!("channel 2 (Boom) carries nothing but {what}");
        gives(HealthKind::SteadyChannel, &[4], &what, on(ChannelState { carries, ..FINE }));
    }
    gives(HealthKind::LateChannel, &[4], "channel 2 (Boom) is 12.4 ms behind channel 1 (Mix L)", |c| {
        on(ChannelState { late_s: Some(0.0124), ..FINE })(c);
        if let Some(channels) = &mut c[3].channels {
            channels[0].late_s = Some(0.0);
        }
    });
    // Several channels, and several clips alike: one note.
    let late = |by_s: f64| {
        let at = |late_s| ChannelState { late_s: Some(late_s), ..FINE };
        Some(vec![at(0.0), at(0.0124), at(by_s)])
    };
    let notes = one(|c| {
        (c[2].device, c[2].channels, c[3].channels) = (c[3].device, late(0.0031), late(0.003));
    });
    let notes: Vec<_> = notes.iter().filter(|note| note.kind == HealthKind::LateChannel).collect();
    assert_eq!(notes.len(), 1, "{notes:#?}");
    assert_eq!(notes[0].clips, [ClipId(3), ClipId(4)]);
    assert!(notes[0].what.contains("channels 2 and 3 are 12.4 and 3."), "{}", notes[0].what);
    assert!(notes[0].what.ends_with("in 2 clips"), "{}", notes[0].what);
    let apart = one(|c| {
        (c[2].device, c[2].channels, c[3].channels) = (c[3].device, late(0.008), late(0.003));
    });
    assert_eq!(apart.iter().filter(|note| note.kind == HealthKind::LateChannel).count(), 2);
    gives(
        HealthKind::AudioTimecode,
        &[4],
        "R Dev: channel 2 (Boom) carries audio timecode at 25 fps on clip-4, at least 98 % of it readable",
        on(timecode(0.98, 0, 0)),
    );
    let jumping = one(on(timecode(0.9, 2, 0)));
    assert_eq!(
        jumping.iter().map(|n| n.kind).collect::<Vec<_>>(),
        [HealthKind::TimecodeJumps, HealthKind::AudioTimecode]
    );
    assert!(jumping[0].what.contains("jumps 2 times"));
    assert!(one(on(timecode(0.9, 0, 180)))[0].what.contains("stands still"));
    gives(HealthKind::SilentClip, &[4], "no channel carries any sound", |c| c[3].channels = Some(vec![dead]));
    assert_eq!(jumping[0].weight, Weight::Hurts);
}

#[test]
fn what_takes_no_part_does_not_disturb_the_day() {
    let notes = one(|c| {
        c[2] = case(2, camera(60.0, 50));
        c[2].takes_part = false;
    });
    assert_eq!(notes, [], "a b-roll clip at another rate is no trouble");
    let key = |found: Vec<HealthNote>| found[0].key.clone();
    let clipped =
        |count| move |c: &mut Vec<Case>| c[0].channels = Some(vec![ChannelState { clipped: count, ..FINE }]);
    assert_eq!(key(one(clipped(100))), key(one(clipped(200))), "set aside stays set aside");
}
