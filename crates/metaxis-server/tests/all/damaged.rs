//! A recorder file that is damaged in the middle, to the end: told at intake and in what is written, and in step all the same.

use crate::sound::{made, metaxis, off_ms, small};
use metaxis_core::sound::{MadeState, SoundReport};
use std::{fs, process::Command};

#[test]
fn a_damaged_recording_is_told_and_what_follows_is_in_step() {
    let folder = tempfile::tempdir().expect("a folder");
    let (day, out) = (folder.path().join("day"), folder.path().join("out"));
    for (from, to) in [("A_FLOOR", "A001.mov"), ("R_RECORDER", "S-001.flac")] {
        fs::create_dir_all(day.join(from)).expect("a folder");
        let whole = small().join(from).join(to);
        let target = day.join(from).join(to);
        if to.ends_with(".mov") {
            fs::copy(whole, target).expect("copied");
            continue;
        }
        let coded = Command::new("ffmpeg")
            .args(["-nostdin", "-loglevel", "error", "-i"])
            .arg(whole.with_extension("wav"))
            .arg(&target)
            .status();
        assert!(coded.expect("ffmpeg").success());
        // Half a second of it, at two fifths.
        let mut bytes = fs::read(&target).expect("read");
        let (at, count) = (bytes.len() * 2 / 5, bytes.len() / 60);
        bytes[at..at + count].iter_mut().zip(0_u32..).for_each(|(byte, i)| *byte = (i * 197 % 251) as u8);
        fs::write(&target, bytes).expect("written");
    }
    let report = folder.path().join("report.json");
    let text = |path: &std::path::Path| path.to_str().expect("text").to_owned();
    let (day, to, report_at) = (text(&day), text(&out), text(&report));
    let run = metaxis(&["sound", &day, "--out", &to, "--report", &report_at, "--correct", "resample"]);
    let said = String::from_utf8_lossy(&run.stderr).into_owned();
    let report: SoundReport = serde_json::from_slice(&fs::read(&report).expect(&said)).expect("a report");
    let file = made(&report, "A_FLOOR/A001.wav");
    assert_eq!(file.state, MadeState::Written, "{said}");
    let message = file.message.as_deref().expect("it is told");
    assert!(
        message.starts_with("R_RECORDER/S-001.flac: ") && message.ends_with("silence is there"),
        "{message}"
    );
    assert!(message.contains("s of its sound at 0:") && message.contains("cannot be decoded"), "{message}");
    let tail = *off_ms(&out, "A_FLOOR/A001.mov", "R_RECORDER/S-001.wav", 2).last().expect("a tail");
    assert!(tail.abs() < 0.1, "{tail:+.3} ms behind what is damaged");
}
