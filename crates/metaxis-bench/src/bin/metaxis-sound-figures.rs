//! `metaxis-sound-figures`: sound written for pictures by `metaxis sound`, against what the recorder would have recorded by the
//! camera's own clock, from head to tail; and what is left of a recorder's signal that the camera had by cable.

use anyhow::{Context, Result, ensure};
use clap::Parser;
use metaxis_bench::{DAY, Day, ONE_FILE, write_speed};
use metaxis_core::sound::{MadeState, SoundReport};
use metaxis_shoot::{
    AudioTimecode, ClipPlan, Container, DevicePlan, FileTimecode, Loss, PicturePlan, Programme, Scenario,
    ScenePlan, SignalPlan, View, later, shoot, true_sound,
};
use realfft::RealFftPlanner;
use std::{
    f64::consts::TAU,
    fs,
    path::{Path, PathBuf},
    process::{Command, Stdio},
};

/// Writes sound for simulated shoots and prints how far it is off, the worst first.
#[derive(Parser)]
struct Args {
    /// The metaxis program.
    metaxis: PathBuf,
    /// Length of the picture, minutes.
    #[arg(long, default_value_t = 60.0)]
    minutes: f64,
    /// Only the kinds whose names hold this.
    #[arg(long, default_value = "")]
    only: String,
    /// Hours that eight channels were recorded of the day whose writing is timed; an hour takes 12 GB of disk while it runs.
    #[arg(long, default_value_t = 1.0)]
    hours: f64,
    /// Where the files go while it runs.
    #[arg(long)]
    folder: Option<PathBuf>,
    /// Leave the files there.
    #[arg(long)]
    keep: bool,
}

/// A camera and a recorder, and what is wrong with them.
#[derive(Clone, Copy)]
struct Kind {
    name: &'static str,
    recorder_ppm: f64,
    camera_ppm: f64,
    recorder_rate: u32,
    camera_rate: u32,
    /// What is lost in the middle of the recorder's file, and of the camera's, seconds.
    lost_s: (f64, f64),
    /// The recorder wrote two files, with so many seconds missing between them.
    split_s: Option<f64>,
    /// The camera has the recorder's signal by cable.
    cable: bool,
}

const PLAIN: Kind = Kind {
    name: "recorder as fast as the camera",
    recorder_ppm: 0.0,
    camera_ppm: 0.0,
    recorder_rate: 48_000,
    camera_rate: 48_000,
    lost_s: (0.0, 0.0),
    split_s: None,
    cable: false,
};

const KINDS: [Kind; 8] = [
    Kind { name: "recorder -120 ppm", recorder_ppm: -120.0, ..PLAIN },
    Kind { name: "recorder +120 ppm", recorder_ppm: 120.0, ..PLAIN },
    Kind { name: "recorder +38.8, camera -41 ppm", recorder_ppm: 38.8, camera_ppm: -41.0, ..PLAIN },
    Kind { name: "0.4 s lost by the recorder", recorder_ppm: 30.0, lost_s: (0.4, 0.0), ..PLAIN },
    Kind { name: "0.4 s lost by the camera", recorder_ppm: -30.0, lost_s: (0.0, 0.4), ..PLAIN },
    Kind { name: "44.1 kHz phone as recorder", recorder_ppm: 25.0, recorder_rate: 44_100, ..PLAIN },
    Kind { name: "two files, 0.12 s missing between", recorder_ppm: -20.0, split_s: Some(0.12), ..PLAIN },
    Kind { name: "by cable", recorder_ppm: 38.8, camera_ppm: -12.0, cable: true, ..PLAIN },
];

const CAMERA: &str = "CAM_A/A001.mov";
const WRITTEN: &str = "CAM_A/A001.wav";
const START_S: f64 = 36_000.0;

impl Kind {
    fn scenario(self, length_s: f64) -> Scenario {
        let scene = ScenePlan {
            name: "take".into(),
            start_s: START_S,
            duration_s: length_s + 20.0,
            programme: Programme::Foundry,
            // One room for all files: each file's would be another.
            room_s: 0.0,
            slates: vec![],
            stopped_s: None,
            speech: vec![],
        };
        let device = |folder: &str, clock_ppm: f64, sample_rate: u32, container: Container| DevicePlan {
            folder: folder.into(),
            clock_ppm,
            clock_error_s: 0.0,
            distance_m: 1.0,
            noise_dbfs: if self.cable { -200.0 } else { -66.0 },
            gain_db: -6.0,
            automatic_gain: false,
            sample_rate,
            channels: vec!["Mix".into()],
            container,
            picture: None,
            no_time_reference: false,
            short_samples: false,
            file_timecode: FileTimecode::None,
            late_frames: 0,
            audio_timecode: AudioTimecode::None,
            signal: SignalPlan::default(),
        };
        let picture = PicturePlan { width: 64, height: 36, rate: 25, varying: false, view: View::Wide };
        let camera = DevicePlan {
            picture: Some(picture),
            // Its own microphone hears the same otherwise.
            noise_dbfs: if self.cable { -200.0 } else { -45.0 },
            automatic_gain: !self.cable,
            ..device("CAM_A", self.camera_ppm, self.camera_rate, Container::MovPcm)
        };
        let clip = |device: &str, file: &str, from_s: f64, to_s: f64, lost_s: f64| ClipPlan {
            device: device.into(),
            file: file.into(),
            scene: "take".into(),
            from_s,
            to_s,
            distance_m: None,
            lost: if lost_s > 0.0 { vec![Loss { at_s: length_s / 2.0, length_s: lost_s }] } else { vec![] },
            silent: false,
            parts: 1,
            part_gap_frames: 0,
            slate_scene: None,
            slate_take: None,
            no_sound_stream: false,
            direct: self.cable,
        };
        let mut clips = vec![clip("CAM_A", "A001.mov", 5.013, 5.013 + length_s, self.lost_s.1)];
        let end_s = length_s + 15.0;
        match self.split_s {
            None => clips.push(clip("REC", "R001.wav", 1.0, end_s, self.lost_s.0)),
            Some(gap_s) => {
                let middle = length_s / 2.0;
                clips.push(clip("REC", "R001.wav", 1.0, middle, 0.0));
                clips.push(clip("REC", "R002.wav", middle + gap_s, end_s, 0.0));
            }
        }
        Scenario {
            name: self.name.into(),
            seed: 11,
            date: "2026-05-14".into(),
            reference: "REC".into(),
            scenes: vec![scene],
            devices: vec![camera, device("REC", self.recorder_ppm, self.recorder_rate, Container::Bwf)],
            clips,
            extras: vec![],
        }
    }

    /// The recorder's files.
    fn files(self) -> &'static [&'static str] {
        if self.split_s.is_some() { &["REC/R001.wav", "REC/R002.wav"] } else { &["REC/R001.wav"] }
    }
}

/// One moment that was looked at.
struct Point {
    at_s: f64,
    off_ms: f64,
}

fn main() -> Result<()> {
    let args = Args::parse();
    let root = args.folder.clone().unwrap_or_else(std::env::temp_dir);
    let length_s = args.minutes * 60.0;
    let mut rows: Vec<(f64, String)> = vec![];
    for kind in KINDS.iter().filter(|kind| args.only.is_empty() || kind.name.contains(&args.only)) {
        let folder = tempfile::tempdir_in(&root)?;
        rows.push(measure(&args.metaxis, *kind, length_s, folder.path()).with_context(|| kind.name)?);
        if args.keep {
            println!("{}: {}", kind.name, folder.keep().display());
        }
    }
    rows.sort_by(|a, b| b.0.total_cmp(&a.0));
    println!("{:36} {:>22} {:>12} {:>10} {:>12}", "kind", "asked", "worst", "at", "moments");
    rows.iter().for_each(|(_, row)| println!("{row}"));
    if args.only.is_empty() || args.only == "speed" {
        for day in [ONE_FILE, Day { hours: args.hours, ..DAY }] {
            let folder = tempfile::tempdir_in(&root)?;
            write_speed(&args.metaxis, day, folder.path())?;
        }
    }
    Ok(())
}

fn measure(metaxis: &Path, kind: Kind, length_s: f64, folder: &Path) -> Result<(f64, String)> {
    let (media, out) = (folder.join("media"), folder.join("out"));
    let scenario = kind.scenario(length_s);
    shoot(&scenario, folder, &media, &|_, _| {})?;
    let report = folder.join("report.json");
    let done = Command::new(metaxis)
        .arg("sound")
        .arg(&media)
        .args(["--no-cache", "--correct", "resample", "--bits", "float", "--out"])
        .arg(&out)
        .arg("--report")
        .arg(&report)
        .stderr(Stdio::null())
        .status()?;
    ensure!(done.success(), "metaxis ended with {done}");
    let report: SoundReport = serde_json::from_slice(&fs::read(&report)?)?;
    let file = report.files.iter().find(|file| file.path == WRITTEN).context("nothing was written")?;
    ensure!(file.state == MadeState::Written, "{:?}", file.message);
    let own = samples(&out.join(WRITTEN))?;
    if kind.cable {
        let camera = samples(&media.join(CAMERA))?;
        let (worst, at_s) = left_over(&own, &camera);
        let row = format!(
            "{:36} {:>22} {:>9.1} dB {:>8.0} s {:>12}",
            kind.name, "-80 dBFS left", worst, at_s, "all of it"
        );
        return Ok((f64::NEG_INFINITY, row));
    }
    let mut points = vec![];
    for (number, recorder) in kind.files().iter().enumerate() {
        let truth = true_sound(&scenario, folder, recorder, CAMERA, 48_000)?.swap_remove(0);
        let all = truth.len();
        let half = all / kind.files().len();
        points.extend(moments(&own, &truth, number * half, (number + 1) * half)?);
    }
    let worst =
        points.iter().max_by(|a, b| a.off_ms.abs().total_cmp(&b.off_ms.abs())).context("no moment")?;
    let row = format!(
        "{:36} {:>22} {:>+9.4} ms {:>8.0} s {:>12}",
        kind.name,
        "0.1 ms",
        worst.off_ms,
        worst.at_s,
        points.len()
    );
    Ok((worst.off_ms.abs(), row))
}

/// How far off it is at moments spread over samples `from` to `to`, each the loudest near by. Where the recorder was not running
/// there is nothing to compare.
fn moments(own: &[f32], truth: &[f32], from: usize, to: usize) -> Result<Vec<Point>> {
    const WINDOW: usize = 24_000;
    const MOMENTS: usize = 16;
    let power = |at: usize| truth[at..at + WINDOW].iter().map(|value| value * value).sum::<f32>();
    let mut points = vec![];
    for number in 0..=MOMENTS {
        let nominal = from + (to - from) * number / MOMENTS;
        let near = (0..12)
            .map(|step| nominal + step * WINDOW / 2)
            .chain((1..12).map(|step| nominal.saturating_sub(step * WINDOW / 2)));
        let inside = |at: &usize| *at >= from + 2_400 && at + 2 * WINDOW + 2_400 < to.min(own.len());
        let heard =
            |at: &usize| own[*at..at + WINDOW].iter().filter(|value| **value == 0.0).count() < WINDOW / 20;
        let Some(at) = near.filter(inside).filter(heard).max_by(|a, b| power(*a).total_cmp(&power(*b)))
        else {
            continue;
        };
        let off = later(own, truth, at, WINDOW, 0.0, 200)
            .with_context(|| format!("nothing like it at sample {at}"))?;
        points.push(Point { at_s: at as f64 / 48_000.0, off_ms: off / 48.0 });
    }
    Ok(points)
}

/// What is left to 20 kHz, which is as far as sound is kept, when the camera's sound is taken from the written one: the worst
/// second, in dB below full scale, and when.
fn left_over(own: &[f32], camera: &[f32]) -> (f64, f64) {
    const SECOND: usize = 48_000;
    const KEPT_HZ: usize = 20_000;
    let transform = RealFftPlanner::<f64>::new().plan_fft_forward(SECOND);
    let weights: Vec<f64> = (0..SECOND).map(|i| 0.5 - 0.5 * (TAU * i as f64 / SECOND as f64).cos()).collect();
    let scale = weights.iter().map(|weight| weight * weight).sum::<f64>() * SECOND as f64 / 2.0;
    let left = |own: &[f32], camera: &[f32]| {
        let both = own.iter().zip(camera).zip(&weights);
        let mut left: Vec<f64> = both.map(|((a, b), weight)| f64::from(a - b) * weight).collect();
        let mut spectrum = transform.make_output_vec();
        let _ = transform.process(&mut left, &mut spectrum);
        spectrum[..KEPT_HZ].iter().map(|bin| bin.norm_sqr()).sum::<f64>() / scale
    };
    let seconds = own.chunks_exact(SECOND).zip(camera.chunks_exact(SECOND)).enumerate();
    seconds
        .map(|(at, (own, camera))| (10.0 * left(own, camera).max(1e-20).log10(), at as f64))
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .unwrap_or_default()
}

/// The first channel of a file as ffmpeg reads it.
fn samples(path: &Path) -> Result<Vec<f32>> {
    let run = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-i"])
        .arg(path)
        .args(["-map", "0:a:0", "-af", "pan=mono|c0=c0", "-f", "f32le", "-"])
        .output()?;
    ensure!(run.status.success(), "{}", String::from_utf8_lossy(&run.stderr));
    Ok(run.stdout.as_chunks().0.iter().map(|four| f32::from_le_bytes(*four)).collect())
}
