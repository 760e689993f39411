//! The simulator keeps its own promises.

use metaxis_media::{Stop, probe};
use metaxis_shoot::{CODE_BITS, CodeStrip, Interpolator, Scenario, Truth, made_once, read_code, shoot};
use std::{collections::BTreeMap, fs, path::Path};

fn shipped(name: &str) -> std::path::PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../demo/{name}.json"))
}

#[test]
fn interpolation_is_true_to_a_microsecond() {
    let rate = 48_000.0;
    let sine = |at: f64| (std::f64::consts::TAU * 3000.0 * at / rate).sin();
    let sound: Vec<f32> = (0..48_000).map(|i| sine(f64::from(i)) as f32).collect();
    let interpolator = Interpolator::new(0.96);
    // The slope of the sine turns an error in value into an error in time.
    let slope = std::f64::consts::TAU * 3000.0;
    let worst = (0..20_000)
        .map(|i| 1000.0 + f64::from(i) * 1.000_041 + 0.000_37 * f64::from(i))
        .map(|at| (f64::from(interpolator.at(&sound, at)) - sine(at)).abs() / slope)
        .fold(0.0, f64::max);
    assert!(worst < 1e-6, "{worst} s");
}

#[test]
fn a_frame_carries_its_number() {
    for number in [0, 1, 2, 741, 65_535] {
        let cells = CodeStrip::cells(number);
        let read = |x: f32, _: f32| {
            let index = ((x - CodeStrip::LEFT) / CodeStrip::CELL) as usize;
            if cells[index] { 230 } else { 20 }
        };
        assert_eq!(read_code(read), Some(number));
        let spoilt = |x: f32, y: f32| {
            let index = ((x - CodeStrip::LEFT) / CodeStrip::CELL) as usize;
            if index == CODE_BITS { 250 - read(x, y) } else { read(x, y) }
        };
        assert_eq!(read_code(spoilt), None, "parity");
    }
    assert_eq!(read_code(|_, _| 0), None);
}

fn tiny() -> Scenario {
    let text = fs::read_to_string(shipped("small")).expect("the small scenario");
    let mut plan: Scenario = serde_json::from_str(&text).expect("a scenario");
    for clip in &mut plan.clips {
        clip.to_s = clip.to_s.min(clip.from_s + 2.0);
    }
    plan
}

fn contents(folder: &Path) -> BTreeMap<String, Vec<u8>> {
    let found = metaxis_media::walk(folder);
    found.media.iter().map(|entry| (entry.relative.clone(), fs::read(&entry.path).expect("a file"))).collect()
}

#[test]
fn the_same_seed_makes_the_same_files_and_another_seed_others() {
    let speech = shipped("speech").with_extension("");
    let make = |seed: u64| {
        let folder = tempfile::tempdir().expect("a folder");
        shoot(&Scenario { seed, ..tiny() }, &speech, folder.path(), &|_, _| {}).expect("a shoot");
        contents(folder.path())
    };
    let (first, again, other) = (make(1), make(1), make(2));
    assert!(first == again, "every byte is the same");
    assert!(first.keys().eq(other.keys()) && first != other);
}

#[test]
fn files_say_what_the_scenario_says() {
    let media = made_once(&shipped("small"), &Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target"))
        .expect("media");
    let truth: Truth =
        serde_json::from_slice(&fs::read(media.join("truth.json")).expect("truth")).expect("truth");
    let facts = |path: &str| probe(&media.join(path), &Stop::default()).unwrap_or_else(|e| panic!("{e}"));

    let recorder = facts("R_RECORDER/S-001.wav");
    let reference = recorder.time_reference_s().expect("a time reference");
    let start = truth.clip("R_RECORDER/S-001.wav").expect("in the truth").true_start_s;
    assert!((reference - start).abs() < 0.1, "its clock is {reference}, true time {start}");
    assert_eq!((recorder.scene.as_deref(), recorder.take.as_deref()), (Some("1"), Some("1")));
    assert_eq!(recorder.sound.expect("sound").channel_names, ["Mix L", "Mix R"]);

    let camera = facts("A_FLOOR/A001.mov");
    // Begun at 09:14:01.013; jammed at seven, its clock has since lost 49 ms at −6.1 ppm.
    assert_eq!(camera.timecode.expect("timecode").to_string(), "09:14:00:24");
    assert_eq!(camera.picture_delay_s(), 0.0);
    // Asked for 23.987 s: a camera records whole frames.
    assert!((camera.duration_s - 599.0 / 25.0).abs() < 1e-6, "{}", camera.duration_s);
    assert_eq!(facts("B_BENCH/B001.mov").timecode.expect("timecode").to_string(), "01:00:00:00");

    let pocket = facts("D_PIT/D001.mp4");
    assert_eq!(pocket.sound.as_ref().expect("sound").rate.0, 44_100);
    assert!(!pocket.picture.expect("a picture").constant_rate, "its frame times wander");
    assert!(pocket.created.expect("a creation time").starts_with("2026-05-14T09:14:04"));
    assert!(facts("C_GALLERY/C001.mp4").own_clock_s().expect("a clock") > 36_000.0, "an hour and 41 s off");
    assert!(probe(&media.join("C_GALLERY/C002.mp4"), &Stop::default()).is_err(), "the damaged file");
}

/// Presentation times of a file's frames, as ffprobe lists them.
fn frame_times(path: &Path) -> Vec<f64> {
    let output = std::process::Command::new("ffprobe")
        .args(["-v", "error", "-select_streams", "v:0", "-show_entries", "packet=pts_time", "-of", "csv=p=0"])
        .arg(path)
        .output()
        .expect("ffprobe");
    let text = String::from_utf8(output.stdout).expect("text");
    let mut times: Vec<f64> =
        text.lines().filter_map(|line| line.trim_end_matches(',').parse().ok()).collect();
    times.sort_by(f64::total_cmp);
    times
}

#[test]
fn proxies_keep_every_frame_at_its_time() {
    let media = made_once(&shipped("small"), &Path::new(env!("CARGO_MANIFEST_DIR")).join("../../target"))
        .expect("media");
    let truth: Truth =
        serde_json::from_slice(&fs::read(media.join("truth.json")).expect("truth")).expect("truth");
    let folder = tempfile::tempdir().expect("a folder");
    let cache = metaxis_media::Cache::open(folder.path()).expect("a cache");
    for path in ["D_PIT/D001.mp4", "C_GALLERY/C001.mp4", "A_FLOOR/A001.mov"] {
        let known = truth.clip(path).expect("in the truth");
        let source = media.join(path);
        let cached = cache.clip(&metaxis_media::Fingerprint::of(&source).expect("a fingerprint"));
        metaxis_media::make_proxy(
            &source,
            &metaxis_core::clip::ColourFacts::default(),
            &cached,
            &Stop::default(),
        )
        .expect("a proxy");
        let times = frame_times(&cached.proxy());
        assert_eq!(times.len() as u64, known.frames, "{path}");
        let rate = if path.starts_with('C') { 50.0 } else { 25.0 };
        let wanted = |n: usize| known.frame_times_s.get(n).copied().unwrap_or(n as f64 / rate);
        let worst = times.iter().enumerate().map(|(n, at)| (at - wanted(n)).abs()).fold(0.0, f64::max);
        assert!(worst < 1e-3, "{path}: a frame is {worst} s off");
    }
}
