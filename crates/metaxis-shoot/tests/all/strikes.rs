//! Strikes found in pictures, against when the simulator's sticks close.

use metaxis_core::{
    picture::find_strikes,
    sync::{SOUND_M_PER_S, SeenClap, look_around, seen_clap, seen_distances},
};
use metaxis_media::{Stop, grey_frames, probe};
use metaxis_shoot::{Scenario, TruthClip, made_once, shoot};
use std::path::{Path, PathBuf};

fn demo(name: &str) -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../demo/{name}.json"))
}

/// A clap that is heard `late_s` after it is struck, as it is seen in a clip around its scene's slate, and how much later
/// that is than the sticks close, seconds.
fn seen(plan: &Scenario, media: &Path, known: &TruthClip, late_s: f64) -> Option<(SeenClap, f64)> {
    let scene = plan.scenes.iter().find(|scene| scene.name == known.scene).expect("its scene");
    let device = plan.devices.iter().find(|device| device.folder == known.device).expect("its device");
    let true_s = scene.start_s + scene.slates.first()?.at_s - known.true_start_s;
    // The device's own seconds are shorter or longer.
    let struck_s = true_s * (1.0 + device.clock_ppm * 1e-6);
    let (path, heard_s) = (media.join(&known.path), struck_s + late_s);
    let facts = probe(&path, &Stop::default()).expect("a clip");
    let frames = grey_frames(&path, &facts, look_around(heard_s), &Stop::default()).expect("frames");
    assert_eq!(frames.pixels.len(), frames.times_s.len() * frames.width * frames.height);
    let seen = seen_clap(&find_strikes(&frames), heard_s)?;
    Some((seen, seen.seen_s - struck_s))
}

#[test]
fn the_sticks_are_seen_to_close_at_every_camera() {
    let scenario = demo("small");
    let mut plan: Scenario =
        serde_json::from_str(&std::fs::read_to_string(&scenario).expect("it")).expect("a plan");
    // The heads of the slated takes, as large as the demo's.
    plan.clips.retain(|clip| clip.scene != "yard");
    for clip in &mut plan.clips {
        clip.to_s = clip.to_s.min(8.0);
    }
    for picture in plan.devices.iter_mut().filter_map(|device| device.picture.as_mut()) {
        (picture.width, picture.height) = (640, 360);
    }
    let folder = tempfile::tempdir().expect("a folder");
    let media = folder.path();
    let truth = shoot(&plan, &scenario.with_file_name("speech"), media, &|_, _| {}).expect("media");
    let (mut looked, mut elsewhere) = (0, vec![]);
    for (number, device) in plan.devices.iter().enumerate() {
        let Some(picture) = &device.picture else { continue };
        let (late_s, frame_s) = (device.distance_m / SOUND_M_PER_S, 1.0 / f64::from(picture.rate));
        let own = || truth.clips.iter().filter(|clip| clip.device == device.folder && clip.frames > 0);
        let claps: Vec<(SeenClap, f64)> =
            own().filter_map(|known| seen(&plan, media, known, late_s)).collect();
        looked += claps.len();
        for (clap, by_s) in &claps {
            assert!(by_s.abs() < 0.35 * frame_s, "{}: {by_s} s off in {clap:?}", device.folder);
        }
        // Three seconds later there is none: what moves then shows no distance.
        let nothing: Vec<(usize, SeenClap)> =
            own().enumerate().filter_map(|(i, known)| Some((i, seen(&plan, media, known, 3.0)?.0))).collect();
        elsewhere.extend(seen_distances(number, 0.0, &nothing));
    }
    assert_eq!(looked, truth.clips.iter().filter(|clip| clip.frames > 0).count(), "each is seen");
    assert_eq!(elsewhere, vec![]);
}

#[test]
fn where_nothing_is_to_be_seen_nothing_is_said() {
    let scenario = demo("small");
    let media = made_once(&scenario, Path::new(env!("CARGO_TARGET_TMPDIR"))).expect("media");
    let stop = Stop::default();
    let sound = media.join("R_RECORDER/S-001.wav");
    let none =
        grey_frames(&sound, &probe(&sound, &stop).expect("a clip"), (1.0, 2.0), &stop).expect("no fault");
    assert!(none.times_s.is_empty() && find_strikes(&none).is_empty());
    let picture = media.join("A_FLOOR/A003.mov");
    let facts = probe(&picture, &stop).expect("a clip");
    for beyond in [(60.0, 61.0), (-3.0, -2.0), (2.0, 1.0)] {
        let frames = grey_frames(&picture, &facts, beyond, &stop).expect("no fault");
        assert!(find_strikes(&frames).is_empty());
    }
    let gone = media.join("A_FLOOR/gone.mov");
    let fault = grey_frames(&gone, &facts, (1.0, 2.0), &stop).expect_err("no file");
    assert!(fault.to_string().contains("gone.mov"), "{fault}");
}
