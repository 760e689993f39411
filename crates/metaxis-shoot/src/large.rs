//! A day at the size of a real one, to try everything at: hundreds of short takes over twelve hours, six devices, folders
//! named as people name them.

use crate::scenario::{
    AudioTimecode, ClipPlan, Container, DevicePlan, FileTimecode, PicturePlan, Programme, Scenario,
    ScenePlan, SignalPlan, SlatePlan, SpeechPlan, View,
};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// First call, seconds since midnight, and the length of the day.
const CALL_S: f64 = 7.5 * 3600.0;
const DAY_S: f64 = 12.0 * 3600.0;
/// Takes of a scene.
const TAKES: usize = 6;

/// The folders, their pictures, and of how many takes each has a clip.
const DEVICES: [(&str, f64); 6] = [
    ("CAM_A", 1.0),
    ("CAM_B", 1.0),
    ("Camera C", 0.6),
    ("100MEDIA", 0.3),
    ("Top shot", 0.1),
    ("Sound Day 1", 1.0),
];

/// A day of about `clips` clips; the same for the same seed. One clip in sixteen of the pocket camera ran when nothing else
/// did, and the recorder, of eight channels, counts no time of day.
pub fn large_day(clips: usize, seed: u64) -> Scenario {
    let mut chance = ChaCha8Rng::seed_from_u64(seed);
    let share: f64 = DEVICES.iter().map(|(_, share)| share).sum();
    let takes = ((clips as f64 / share).round() as usize).max(1);
    let mut counts = [0; DEVICES.len()];
    let (mut scenes, mut files) = (vec![], vec![]);
    for take in 0..takes {
        let (scene, number) = (take / TAKES + 1, take % TAKES + 1);
        // Scenes lie further apart than takes, and at midday nothing runs for an hour.
        let along = take as f64 / takes as f64 + 0.6 * (take - take % TAKES) as f64 / takes as f64;
        let rest = if along > 0.8 { 3600.0 } else { 0.0 };
        let start_s = CALL_S + rest + along / 1.6 * (DAY_S - 3600.0) + chance.random_range(0.0..20.0);
        let length_s = chance.random_range(6.0..13.0_f64);
        let name = format!("{scene}-{number}");
        let talk = scene.is_multiple_of(3);
        scenes.push(ScenePlan {
            name: name.clone(),
            start_s,
            duration_s: length_s + 6.0,
            programme: if talk { Programme::Talk } else { Programme::Foundry },
            room_s: 0.5,
            slates: vec![SlatePlan { at_s: 3.5 }],
            speech: if talk {
                vec![SpeechPlan { at_s: 4.5, file: format!("founder-{}", number % 3 + 1) }]
            } else {
                vec![]
            },
            stopped_s: None,
        });
        for (device, (folder, share)) in DEVICES.iter().enumerate() {
            if chance.random::<f64>() > *share {
                continue;
            }
            counts[device] += 1;
            let recorder = device == DEVICES.len() - 1;
            let (early, late) = if recorder { (0.2, 0.2) } else { (chance.random_range(0.6..2.5), 1.0) };
            files.push(ClipPlan {
                device: (*folder).into(),
                file: file_name(device, counts[device], scene, number),
                scene: name.clone(),
                from_s: early,
                to_s: length_s + 4.0 - late,
                distance_m: None,
                lost: vec![],
                silent: device == 4,
                parts: 1,
                part_gap_frames: 0,
                slate_scene: recorder.then(|| scene.to_string()),
                slate_take: recorder.then(|| number.to_string()),
                no_sound_stream: device == 4,
                direct: false,
            });
        }
    }
    let quiet = counts[3] / 16 + 1;
    for lost in 0..quiet {
        let name = format!("apart-{lost}");
        scenes.push(ScenePlan {
            name: name.clone(),
            start_s: CALL_S + DAY_S + 600.0 * lost as f64,
            duration_s: 12.0,
            programme: Programme::Quiet,
            room_s: 0.3,
            slates: vec![],
            speech: vec![],
            stopped_s: None,
        });
        files.push(ClipPlan {
            file: file_name(3, counts[3] + lost + 1, 0, 0),
            scene: name,
            device: DEVICES[3].0.into(),
            from_s: 1.0,
            to_s: 9.0,
            distance_m: None,
            lost: vec![],
            silent: false,
            parts: 1,
            part_gap_frames: 0,
            slate_scene: None,
            slate_take: None,
            no_sound_stream: false,
            direct: false,
        });
    }
    Scenario {
        name: "A large day".into(),
        seed,
        date: "2026-05-14".into(),
        reference: DEVICES[5].0.into(),
        scenes,
        devices: DEVICES.iter().enumerate().map(|(at, (folder, _))| device(at, folder)).collect(),
        clips: files,
        extras: vec![],
    }
}

/// One take of so many seconds: a camera and the recorder.
pub fn long_take(length_s: f64) -> Scenario {
    let mut day = large_day(6, 1);
    day.name = "A long take".into();
    day.scenes.truncate(1);
    let name = day.scenes[0].name.clone();
    day.scenes[0].duration_s = length_s + 10.0;
    day.clips
        .retain(|clip| clip.scene == name && [DEVICES[0].0, DEVICES[5].0].contains(&clip.device.as_str()));
    for (clip, late) in day.clips.iter_mut().zip([1.0, 0.2]) {
        clip.to_s = clip.from_s + length_s + late;
    }
    day.devices.retain(|device| [DEVICES[0].0, DEVICES[5].0].contains(&device.folder.as_str()));
    day
}

/// Each maker counts its files in its own way.
fn file_name(device: usize, count: usize, scene: usize, take: usize) -> String {
    match device {
        0 => format!("A001_{count:03}.mov"),
        1 => format!("B{count:04}.mp4"),
        2 => format!("c cam {count}.mov"),
        3 => format!("CLIP{count:04}.mp4"),
        4 => format!("top_{count:02}.mp4"),
        _ => format!("S{scene}T{take}.wav"),
    }
}

fn device(at: usize, folder: &str) -> DevicePlan {
    let picture = |rate, view| Some(PicturePlan { width: 160, height: 90, rate, varying: false, view });
    let channels = |names: &[&str]| names.iter().map(|name| (*name).to_owned()).collect();
    let plan = DevicePlan {
        folder: folder.into(),
        clock_ppm: [-6.1, 13.8, 21.0, -38.5, 4.0, 0.0][at],
        clock_error_s: [0.0, 0.0, 41.0, 3600.0, -7.0, 0.0][at],
        distance_m: [3.0, 1.8, 6.0, 4.0, 9.0, 0.8][at],
        noise_dbfs: -62.0,
        gain_db: -4.0,
        automatic_gain: at == 3,
        sample_rate: 48_000,
        channels: channels(&["Mic"]),
        container: Container::Mp4Aac,
        picture: None,
        no_time_reference: false,
        file_timecode: FileTimecode::None,
        late_frames: 0,
        audio_timecode: AudioTimecode::None,
        signal: SignalPlan::default(),
        short_samples: false,
    };
    match at {
        0 => DevicePlan {
            container: Container::MovPcm,
            file_timecode: FileTimecode::True,
            picture: picture(25, View::Wide),
            ..plan
        },
        1 => DevicePlan {
            audio_timecode: AudioTimecode::Left,
            channels: channels(&["TC", "Mic"]),
            picture: picture(25, View::Close),
            ..plan
        },
        2 => DevicePlan {
            container: Container::MovPcm,
            file_timecode: FileTimecode::Wrong,
            picture: picture(25, View::Low),
            ..plan
        },
        3 => DevicePlan { picture: picture(30, View::Wide), ..plan },
        4 => DevicePlan { picture: picture(25, View::Far), ..plan },
        _ => DevicePlan {
            container: Container::Bwf,
            no_time_reference: true,
            short_samples: true,
            channels: channels(&["Mix", "Boom", "Lav 1", "Lav 2", "Lav 3", "Lav 4", "Plant", "Spare"]),
            ..plan
        },
    }
}
