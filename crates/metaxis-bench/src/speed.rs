//! How fast sound is written, against copying as many bytes on the same disk in the same run.

use crate::watch;
use anyhow::{Context, Result, ensure};
use metaxis_core::sound::{MadeState, SoundReport};
use std::{
    fs,
    path::{Path, PathBuf},
    process::{Command, Stdio},
    time::Instant,
};

/// A day of recorders with eight channels and cameras that ran with them without a pause.
#[derive(Debug, Clone, Copy)]
pub struct Day {
    /// What is printed of it.
    pub name: &'static str,
    /// Hours that were recorded.
    pub hours: f64,
    /// Files of the recorder, one behind the other.
    pub recordings: usize,
    /// Picture clips, of four cameras in turn.
    pub clips: usize,
    /// How often each is written; the middle one counts.
    pub runs: usize,
}

/// Ten minutes under one picture: a single file, as when one is written again.
pub const ONE_FILE: Day =
    Day { name: "one file of eight channels", hours: 1.0 / 6.0, recordings: 1, clips: 1, runs: 3 };

/// A day of 400 clips.
pub const DAY: Day =
    Day { name: "400 clips of eight channels", hours: 1.0, recordings: 4, clips: 400, runs: 1 };

const CHANNELS: usize = 8;

/// Runs ffmpeg, which has all it needs in its arguments and `to`.
fn ffmpeg(arguments: &[&str], to: &Path) -> Result<()> {
    let mut own = Command::new("ffmpeg");
    let done = own.args(["-nostdin", "-loglevel", "error", "-y"]).args(arguments).arg(to).status()?;
    ensure!(done.success(), "ffmpeg ended with {done}");
    Ok(())
}

/// The files of a day below `media`: those of the recorder are returned. Every clip is a part of one sound.
fn make(day: Day, media: &Path) -> Result<Vec<PathBuf>> {
    let each_s = day.hours * 3600.0 / day.recordings as f64;
    let clip_s = day.hours * 3600.0 / day.clips as f64;
    fs::create_dir_all(media.join("REC"))?;
    let mut recordings = vec![];
    for number in 0..day.recordings {
        let recorder = media.join(format!("REC/R{number:03}.wav"));
        let seed = number + 3;
        let noise = format!("anoisesrc=r=48000:c=pink:seed={seed}:a=0.3:d={each_s}");
        let eight =
            format!("pan=8c|{}", (0..CHANNELS).map(|c| format!("c{c}=c0")).collect::<Vec<_>>().join("|"));
        ffmpeg(&["-f", "lavfi", "-i", &noise, "-af", &eight, "-c:a", "pcm_s24le"], &recorder)?;
        recordings.push(recorder);
    }
    let black = media.join("black.mov");
    let picture = format!("color=black:s=64x36:r=25:d={clip_s}");
    ffmpeg(&["-f", "lavfi", "-i", &picture, "-c:v", "libx264", "-preset", "ultrafast"], &black)?;
    for number in 0..day.clips {
        let from_s = number as f64 * clip_s;
        let recording = ((from_s / each_s) as usize).min(day.recordings - 1);
        let camera = media.join(format!("CAM_{}", number % 4 + 1));
        fs::create_dir_all(&camera)?;
        let skip = format!("{:.6}", from_s - recording as f64 * each_s);
        let (pictures, sound) = (black.to_string_lossy(), recordings[recording].to_string_lossy());
        let input = ["-i", &pictures, "-ss", &skip, "-t", &format!("{clip_s:.6}"), "-i", &sound];
        let form =
            ["-map", "0:v", "-map", "1:a", "-c:v", "copy", "-af", "pan=mono|c0=c0", "-c:a", "pcm_s16le"];
        ffmpeg(&[&input[..], &form[..]].concat(), &camera.join(format!("C{number:04}.mov")))?;
    }
    fs::remove_file(black)?;
    Ok(recordings)
}

/// Seconds of copying files one after the other, to the disk itself.
fn copied(files: &[PathBuf], folder: &Path) -> Result<f64> {
    let begin = Instant::now();
    for (number, file) in files.iter().enumerate() {
        let to = folder.join(format!("copy{number}.wav"));
        fs::copy(file, &to)?;
        fs::File::open(&to)?.sync_all()?;
    }
    let seconds = begin.elapsed().as_secs_f64();
    for number in 0..files.len() {
        fs::remove_file(folder.join(format!("copy{number}.wav")))?;
    }
    Ok(seconds)
}

/// Prints how fast the sound of a day is written for its pictures, against copying as much on the same disk in the same run, and
/// how much memory that takes.
///
/// # Errors
/// Where a program is missing or does not do its part.
pub fn write_speed(metaxis: &Path, day: Day, folder: &Path) -> Result<()> {
    let media = folder.join("media");
    let recordings = make(day, &media)?;
    let bytes: u64 = recordings.iter().map(|file| Ok(fs::metadata(file)?.len())).sum::<Result<u64>>()?;
    // The first finds the places too, and is not timed.
    written(metaxis, "leave", folder, &media, day)?;
    for correct in ["leave", "resample"] {
        let mut runs = vec![];
        for _ in 0..day.runs {
            let copy_s = copied(&recordings, folder)?;
            let (write_s, wrote, peak_mib) = written(metaxis, correct, folder, &media, day)?;
            let copy_speed = bytes as f64 / copy_s;
            runs.push((wrote / write_s / copy_speed, wrote, write_s, peak_mib));
        }
        runs.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (ratio, wrote, write_s, peak_mib) = runs[runs.len() / 2];
        println!(
            "{}, {:.2} h, {correct}: written at {ratio:.2} x the speed of a copy ({:.0} MB/s; {:.0} x real time a channel), {peak_mib:.0} MiB",
            day.name,
            day.hours,
            wrote / write_s / 1e6,
            CHANNELS as f64 * day.hours * 3600.0 / write_s
        );
    }
    Ok(())
}

/// Seconds of writing, the bytes written, and the most memory that the program held.
fn written(metaxis: &Path, correct: &str, folder: &Path, media: &Path, day: Day) -> Result<(f64, f64, f64)> {
    let (report, out) = (folder.join("report.json"), folder.join("out"));
    if out.exists() {
        fs::remove_dir_all(&out)?;
    }
    let child = Command::new(metaxis)
        .arg("sound")
        .arg(media)
        .args(["--correct", correct, "--out"])
        .arg(&out)
        .arg("--report")
        .arg(&report)
        .env("XDG_CACHE_HOME", folder.join("cache"))
        .stderr(Stdio::null())
        .spawn()?;
    let peak_mib = watch(child)?;
    let report: SoundReport = serde_json::from_slice(&fs::read(&report).context("no report")?)?;
    let whole = |file: &&metaxis_core::sound::MadeReport| {
        file.state == MadeState::Written && file.tracks.len() == CHANNELS
    };
    let made: Vec<_> = report.files.iter().filter(whole).collect();
    ensure!(made.len() * 20 >= day.clips * 19, "{} of {} clips were written", made.len(), day.clips);
    Ok((report.write_s, made.iter().map(|file| file.bytes as f64).sum(), peak_mib))
}
