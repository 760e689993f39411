//! Shoots nobody tuned on: other seeds, harder devices, losses. The truth decides.

use metaxis_core::sync::{Effort, Mode, SyncReport, Verdict};
use metaxis_server::headless::{SyncPlan, sync};
use metaxis_shoot::{Loss, Scenario, Truth, shoot};
use std::{fs, path::Path};

/// The small shoot with another seed and harder faults, synced without the page.
fn run(seed: u64, harder: impl FnOnce(&mut Scenario)) -> (SyncReport, Truth) {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo");
    let text = fs::read_to_string(demo.join("small.json")).expect("the small scenario");
    let mut scenario: Scenario = serde_json::from_str(&text).expect("a scenario");
    scenario.seed = seed;
    // Pictures take most of the time and say nothing here.
    for picture in scenario.devices.iter_mut().filter_map(|device| device.picture.as_mut()) {
        (picture.width, picture.height) = (64, 36);
    }
    harder(&mut scenario);
    let folder = tempfile::tempdir().expect("a folder");
    let media = folder.path().join("media");
    let truth = shoot(&scenario, &demo.join("speech"), &media, &|_, _| {}).expect("a shoot");
    let plan = SyncPlan {
        folders: vec![media],
        reference: None,
        mode: Mode::Day,
        effort: Effort::Normal,
        cache: folder.path().join("cache"),
        turnover: None,
    };
    (sync(&plan, &|_, _, _| {}).expect("a report").report, truth)
}

/// Nothing wrong is solid, and everything heard is placed to half a millisecond.
fn check(report: &SyncReport, truth: &Truth) {
    for clip in report.clips.iter().filter(|clip| clip.device != "R_RECORDER") {
        let known = truth.clip(&clip.path).expect("in the truth");
        if !known.heard_in_reference {
            if clip.path == "B_BENCH/B002.mov" {
                // It has no sound, but audio timecode that one other clip of its camera confirms.
                assert_eq!(clip.status, Verdict::Check, "{:?}", clip.reasons);
                let error_s = clip.segments[0].start_s - known.segments[0].start_s;
                assert!(error_s.abs() < 0.02, "{error_s}");
            } else {
                assert_eq!(clip.status, Verdict::Unplaced, "{}: {:?}", clip.path, clip.reasons);
            }
            continue;
        }
        assert_eq!(clip.status, Verdict::Solid, "{}: {:?}", clip.path, clip.reasons);
        let error_ms = (clip.segments[0].start_s - known.segments[0].start_s) * 1e3;
        assert!(error_ms.abs() <= 0.5, "{} is {error_ms} ms off", clip.path);
    }
}

#[test]
fn another_seed_is_placed_as_well() {
    let (report, truth) = run(20_261, |_| {});
    check(&report, &truth);
}

#[test]
fn far_quiet_noisy_and_clipped_devices_are_placed() {
    let (report, truth) = run(20_262, |scenario| {
        for device in &mut scenario.devices {
            match device.folder.as_str() {
                "A_FLOOR" => (device.gain_db, device.noise_dbfs) = (-38.0, -84.0),
                "B_BENCH" => device.gain_db = 24.0,
                "C_GALLERY" => (device.distance_m, device.noise_dbfs) = (30.0, -46.0),
                "D_PIT" => (device.clock_ppm, device.noise_dbfs) = (-95.0, -40.0),
                _ => {}
            }
        }
        scenario.scenes[0].room_s = 1.2;
    });
    check(&report, &truth);
}

#[test]
fn lost_samples_are_found_in_time_and_size() {
    let (report, truth) = run(20_263, |scenario| {
        let pit = scenario.clips.iter_mut().find(|clip| clip.device == "D_PIT").expect("a clip");
        pit.lost = vec![Loss { at_s: 11.0, length_s: 0.3 }];
    });
    check(&report, &truth);
    let pit = report.clips.iter().find(|clip| clip.device == "D_PIT").expect("a clip");
    let [before, after] = pit.segments[..] else { panic!("two segments: {:?}", pit.segments) };
    assert!((after.clip_start_s - 11.0).abs() < 0.5, "{}", after.clip_start_s);
    assert!((after.start_s - before.end_s() - 0.3).abs() < 0.5e-3, "{}", after.start_s - before.end_s());
}
