//! A day on which every camera's timecode is wrong in its own way, from media files to the report.

use metaxis_core::sync::{ClipReport, EvidenceKind, SyncReport, Verdict};
use metaxis_shoot::{Truth, made_once};
use std::{path::Path, process::Command, sync::OnceLock};

/// The report of the whole day, and its truth.
fn day() -> &'static (SyncReport, Truth) {
    static DAY: OnceLock<(SyncReport, Truth)> = OnceLock::new();
    DAY.get_or_init(|| {
        let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
        let media = made_once(&top.join("demo/timecode.json"), &top.join("target")).expect("media");
        let run = Command::new(env!("CARGO_BIN_EXE_metaxis"))
            .args(["sync", "--no-cache"])
            .arg(&media)
            .output()
            .expect("a run");
        assert!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
        let truth = std::fs::read(media.join("truth.json")).expect("truth");
        (
            serde_json::from_slice(&run.stdout).expect("a report"),
            serde_json::from_slice(&truth).expect("truth"),
        )
    })
}

fn clip(path: &str) -> &'static ClipReport {
    day().0.clips.iter().find(|clip| clip.path == path).unwrap_or_else(|| panic!("{path} is not there"))
}

/// How far a clip lies from where its picture was true, seconds: what has no sound knows nothing of its travel.
fn off_s(clip: &ClipReport) -> f64 {
    let known = day().1.clip(&clip.path).expect("in the truth");
    let travel_s = if known.heard_in_reference { 0.0 } else { known.late_s };
    // What nothing but a clock places is an island: where that lies on the day is told apart.
    let day_s = |component: u32| {
        day().0.days.iter().find(|own| own.component == component).and_then(|own| own.day_start_s)
    };
    let island_s = day_s(clip.component).expect("a time of day") - day_s(0).expect("a time of day");
    clip.segments.first().unwrap_or_else(|| panic!("{clip:?}")).start_s + island_s
        - (known.segments[0].start_s + travel_s)
}

fn warned(device: &str, part: &str) {
    let said: Vec<&str> =
        day().0.warnings.iter().filter(|w| w.path == device).map(|w| w.message.as_str()).collect();
    assert!(said.iter().any(|text| text.contains(part)), "“{part}” is not among {said:?}");
}

#[test]
fn what_is_heard_lies_where_it_was_whatever_its_timecode_says() {
    let (report, truth) = day();
    let heard = |clip: &&ClipReport| {
        clip.device != "R_RECORDER" && truth.clip(&clip.path).is_some_and(|known| known.heard_in_reference)
    };
    assert_eq!(report.clips.iter().filter(heard).count(), 12);
    for clip in report.clips.iter().filter(heard) {
        assert_eq!(clip.status, Verdict::Solid, "{}: {:?}", clip.path, clip.reasons);
        assert!(off_s(clip).abs() < 0.5e-3, "{}: {} s off", clip.path, off_s(clip));
    }
}

#[test]
fn a_whole_device_late_by_frames_is_named_once_and_still_places_its_silent_clip() {
    warned("A_LATE", "11 frames ahead of the reference's");
    assert_eq!(day().0.warnings.iter().filter(|w| w.path == "A_LATE").count(), 1);
    let silent = clip("A_LATE/A004.mov");
    assert!(off_s(silent).abs() < 0.02, "{} s off: {:?}", off_s(silent), silent.reasons);
    // A label names a frame: where in it the clip began stays open.
    assert_eq!(silent.status, Verdict::Check, "{:?}", silent.reasons);
    assert!((0.75..0.985).contains(&silent.confidence), "{}", silent.confidence);
}

#[test]
fn weak_inverted_drop_frame_audio_timecode_places_a_silent_clip_beside_a_standing_file_timecode() {
    warned("B_BOX", "the same at the start of all 4 clips");
    let silent = clip("B_BOX/B003.mov");
    assert_eq!(silent.status, Verdict::Solid, "{:?}", silent.reasons);
    // The three others were laid where their microphone heard: so far away is the picture.
    assert!(off_s(silent).abs() < 0.006, "{} s off", off_s(silent));
    let used = |kind| silent.evidence.iter().any(|e| e.kind == kind && e.used);
    assert!(used(EvidenceKind::AudioTimecode) && !used(EvidenceKind::FileTimecode), "{:?}", silent.evidence);
}

#[test]
fn timecode_that_counts_only_while_recording_places_nothing() {
    warned("C_RUN", "counts only while recording");
    warned("C_RUN", "1 h fast. That looks like a time zone");
    let silent = clip("C_RUN/C004.mov");
    assert_eq!(silent.status, Verdict::Check, "its clock is all there is: {:?}", silent.reasons);
    assert!(off_s(silent).abs() < 2.0 && silent.confidence < 0.2, "{} s off", off_s(silent));
    assert!(silent.evidence.iter().all(|e| e.kind != EvidenceKind::FileTimecode || !e.used));
}

#[test]
fn a_loose_cable_and_a_new_jam_leave_the_count_that_most_frames_have() {
    for name in ["D001", "D002", "D003", "D004"] {
        let silent = clip(&format!("D_LOOSE/{name}.mov"));
        // No clip of the camera is heard: its box is taken to be jammed as the recorder is.
        assert_eq!(silent.status, Verdict::Check, "{:?}", silent.reasons);
        // Both boxes drift since they were jammed in the morning: the recorder's by 1.5 ppm.
        assert!(off_s(silent).abs() < 0.03, "{name}: {} s off", off_s(silent));
        assert!(silent.evidence.iter().any(|e| e.kind == EvidenceKind::AudioTimecode && e.used));
    }
}

#[test]
fn a_clock_two_hours_fast_is_named_as_a_time_zone() {
    warned("E_CLOCK", "2 h fast. That looks like a time zone");
    let silent = clip("E_CLOCK/E004.mov");
    assert_eq!(silent.status, Verdict::Check, "{:?}", silent.reasons);
    assert!(off_s(silent).abs() < 2.0, "{} s off", off_s(silent));
}
