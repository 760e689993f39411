//! Simulated cards as files: a recorder's WAVs with time references and three cameras' AAC sound, scene by scene.

use anyhow::{Context, Result, ensure};
use metaxis_core::signal::LISTEN_RATE;
use metaxis_shoot::field::{EarPlan, Heard, Room, Sound, hear};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rayon::prelude::*;
use std::{
    fs,
    io::Write,
    path::Path,
    process::{Command, Stdio},
    sync::atomic::{AtomicUsize, Ordering},
    time::Instant,
};

/// One file and its truth.
pub struct CardFile {
    /// Path below the card's folder.
    pub path: String,
    /// 0 for the recorder.
    pub device: usize,
    /// Start on the recorder's axis, seconds: its first file begins at 0.
    pub start_s: f64,
}

/// All files of a shoot.
pub struct Card {
    /// The files.
    pub files: Vec<CardFile>,
    /// Hours of sound in them.
    pub hours: f64,
}

/// Cameras.
const CAMERAS: usize = 3;
/// Pause between scenes, seconds.
const PAUSE_S: f64 = 60.0;

/// What a card holds: the recorder runs through each scene, the cameras come and go.
#[derive(Debug, Clone, Copy)]
pub struct CardPlan {
    /// About so many files.
    pub clips: usize,
    /// Length of a scene, seconds.
    pub scene_s: f64,
    /// Clips of each camera in a scene.
    pub each: usize,
    /// Channels of the recorder: all hear the same, each a little later and with noise of its own.
    pub channels: usize,
    /// Seed.
    pub seed: u64,
}

/// Writes scenes to `folder` until the card is full.
///
/// # Errors
/// Files that cannot be written, or an ffmpeg that is not there.
pub fn make_card(folder: &Path, plan: CardPlan) -> Result<Card> {
    for name in ["recorder", "camera 1", "camera 2", "camera 3"] {
        fs::create_dir_all(folder.join(name))?;
    }
    let scenes = plan.clips.div_ceil(1 + CAMERAS * plan.each);
    let made: Vec<Vec<(CardFile, f64)>> =
        (0..scenes).into_par_iter().map(|scene| make_scene(folder, scene, plan)).collect::<Result<_>>()?;
    let mut files: Vec<(CardFile, f64)> = made.into_iter().flatten().collect();
    // The surplus goes from the last scene's cameras.
    for (file, _) in files.drain(plan.clips.min(files.len())..) {
        fs::remove_file(folder.join(file.path))?;
    }
    let hours = files.iter().map(|(_, length_s)| length_s).sum::<f64>() / 3600.0;
    Ok(Card { files: files.into_iter().map(|(file, _)| file).collect(), hours })
}

fn make_scene(folder: &Path, scene: usize, plan: CardPlan) -> Result<Vec<(CardFile, f64)>> {
    let CardPlan { scene_s, each, channels, seed, .. } = plan;
    let mut rng = ChaCha8Rng::seed_from_u64(seed.wrapping_mul(7919).wrapping_add(scene as u64));
    let half = 0.5 * scene_s;
    let mut sound = Sound::Speech { voices: rng.random(), words: rng.random() }.make(half, LISTEN_RATE);
    sound.extend(Sound::Music { tune: rng.random(), performance: rng.random() }.make(half, LISTEN_RATE));
    let room = Room::new(0.3 + 0.4 * rng.random::<f64>(), rng.random());
    let scene_start_s = scene as f64 * (scene_s + PAUSE_S);
    let mut files = vec![];
    let recorder = EarPlan { length_s: scene_s - 0.5, signal_to_noise_db: 30.0, ..EarPlan::default() };
    let heard = hear(&sound, LISTEN_RATE, &room, &recorder, rng.random());
    let path = format!("recorder/T{scene:03}.wav");
    // A whole second, whatever the scene: the truth below is exact.
    let reference = (36_000.0 + scene_start_s) * 48_000.0;
    let tags =
        ["-write_bext", "1", "-metadata", &format!("time_reference={reference:.0}")].map(str::to_owned);
    let how = [&["-c:a".into(), "pcm_s16le".into()], &tags[..], &spread(channels)].concat();
    encode(&heard, &how, &folder.join(&path))?;
    let zero_s = heard.truth.at(0.0);
    files.push((CardFile { path, device: 0, start_s: scene_start_s }, recorder.length_s));
    for camera in 1..=CAMERAS {
        let clock_ppm = 12.0 * (camera as f64 - 2.0) + 5.0;
        for clip in 0..each {
            let slot = scene_s / each as f64;
            let length_s = slot * (0.4 + 0.5 * rng.random::<f64>());
            let plan = EarPlan {
                from_s: clip as f64 * slot + (slot - length_s) * rng.random::<f64>(),
                length_s,
                distance_m: 1.5 + 4.0 * rng.random::<f64>(),
                clock_ppm,
                signal_to_noise_db: 10.0,
                ..EarPlan::default()
            };
            let heard = hear(&sound, LISTEN_RATE, &room, &plan, rng.random());
            let path = format!("camera {camera}/C{:04}.m4a", scene * each + clip);
            encode(&heard, &["-c:a", "aac", "-b:a", "128k"].map(str::to_owned), &folder.join(&path))?;
            let start_s = scene_start_s + heard.truth.at(0.0) - zero_s;
            files.push((CardFile { path, device: camera, start_s }, length_s));
        }
    }
    Ok(files)
}

/// Arguments that make several channels of one: each 3 ms later than the one before it, with noise 40 dB below full scale.
fn spread(channels: usize) -> Vec<String> {
    if channels < 2 {
        return vec![];
    }
    let joined = |each: &dyn Fn(usize) -> String| (0..channels).map(each).collect::<Vec<_>>().join("|");
    let copies = joined(&|i| format!("c{i}=c0"));
    let noise = joined(&|i| format!("0.01*(2*random({i})-1)"));
    let filter = format!(
        "[0:a]pan={channels}c|{copies},adelay={}[a];aevalsrc={noise}:s={LISTEN_RATE}[n];[a][n]amix=inputs=2:duration=first:normalize=0[out]",
        joined(&|i| (3 * i).to_string())
    );
    ["-filter_complex", &filter, "-map", "[out]"].map(str::to_owned).to_vec()
}

/// Writes a recording at 48 kHz.
fn encode(heard: &Heard, how: &[String], path: &Path) -> Result<()> {
    let mut child = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-y", "-f", "f32le", "-ar", &LISTEN_RATE.to_string()])
        .args(["-ac", "1", "-i", "-", "-ar", "48000"])
        .args(how)
        .arg(path)
        .stdin(Stdio::piped())
        .spawn()
        .context("ffmpeg cannot be started")?;
    let bytes: Vec<u8> = heard.samples.iter().flat_map(|value| value.to_le_bytes()).collect();
    child.stdin.take().context("a pipe")?.write_all(&bytes)?;
    ensure!(child.wait()?.success(), "ffmpeg could not write {}", path.display());
    Ok(())
}

/// Seconds for decoding the sound of every file once with ffmpeg, one process a core at a time.
///
/// # Errors
/// An ffmpeg that is not there.
pub fn decode_all<'a>(folder: &Path, files: impl Iterator<Item = &'a str>) -> Result<f64> {
    let files: Vec<&str> = files.collect();
    let cores = std::thread::available_parallelism()?.get();
    let next = AtomicUsize::new(0);
    let decode = || -> Result<()> {
        while let Some(file) = files.get(next.fetch_add(1, Ordering::Relaxed)) {
            Command::new("ffmpeg")
                .args(["-nostdin", "-loglevel", "quiet", "-i"])
                .arg(folder.join(file))
                .args(["-map", "0:a?", "-f", "null", "-"])
                .status()
                .context("ffmpeg cannot be started")?;
        }
        Ok(())
    };
    let begin = Instant::now();
    std::thread::scope(|scope| {
        let threads: Vec<_> = (0..cores).map(|_| scope.spawn(decode)).collect();
        threads.into_iter().try_for_each(|thread| thread.join().expect("no panic"))
    })?;
    Ok(begin.elapsed().as_secs_f64())
}
