//! From a scenario to files, with ffmpeg's own muxers.

use crate::{
    files::{write_extra, write_float_wav},
    picture::Stage,
    scenario::{ClipPlan, Container, DevicePlan, FileTimecode, Programme, Scenario, ScenePlan},
    sound::{SPEED_OF_SOUND, World, record, sources, true_time},
    truth::{Truth, TruthClip, TruthSegment},
};
use anyhow::{Context, Result, bail};
use metaxis_core::time::{FrameRate, Tick, Timecode};
use metaxis_media::append_chunk;
use rayon::prelude::*;
use std::{
    collections::HashMap,
    fs,
    io::Write,
    path::{Path, PathBuf},
    process::{Command, Stdio},
};

/// Called with the number of files written and the number in all.
pub type ShootProgress<'a> = dyn Fn(usize, usize) + Sync + 'a;

/// Writes every file of `scenario` below `out`, and `truth.json` beside `out`'s folders. `speech` is the
/// folder of spoken sound files.
///
/// # Errors
/// A plan that contradicts itself, a missing ffmpeg, a full disk.
pub fn shoot(scenario: &Scenario, speech: &Path, out: &Path, progress: &ShootProgress) -> Result<Truth> {
    fs::create_dir_all(out)?;
    let speech = load_speech(scenario, speech)?;
    let reference = reference_start(scenario)?;
    let done = std::sync::atomic::AtomicUsize::new(0);
    let jobs = recordings(scenario)?;
    let mut truth = Truth::default();
    // Scene by scene, so that one scene's sound at a time is in memory.
    for plan in &scenario.scenes {
        let own: Vec<&Take> = jobs.iter().filter(|take| take.scene.name == plan.name).collect();
        if own.is_empty() {
            continue;
        }
        let world = sources(plan, seed_of(scenario, &plan.name), &speech);
        let made: Vec<TruthClip> = own
            .par_iter()
            .map(|take| {
                let clip = take.write(scenario, &world, &reference, out);
                let count = done.fetch_add(1, std::sync::atomic::Ordering::Relaxed) + 1;
                progress(count, jobs.len());
                clip
            })
            .collect::<Result<_>>()?;
        truth.clips.extend(made);
    }
    truth.clips.sort_by(|a, b| a.path.cmp(&b.path));
    truth.reference = reference.path;
    for extra in &scenario.extras {
        write_extra(extra, out)?;
    }
    fs::write(out.join("truth.json"), serde_json::to_vec_pretty(&truth)?)?;
    Ok(truth)
}

/// The media of a scenario file, made once below `below` and kept under a name that holds the hash of the
/// scenario; its speech lies in `speech` beside it. Safe to call from several tests at once.
///
/// # Errors
/// As [`shoot`].
pub fn made_once(scenario: &Path, below: &Path) -> Result<PathBuf> {
    let text =
        fs::read_to_string(scenario).with_context(|| format!("{} cannot be read", scenario.display()))?;
    let plan: Scenario =
        serde_json::from_str(&text).with_context(|| format!("{} is no scenario", scenario.display()))?;
    let name = scenario.file_stem().unwrap_or_default().to_string_lossy();
    let kept = below.join(format!("media-{name}-{:016x}", hash(text.bytes())));
    if !kept.join("truth.json").exists() {
        fs::create_dir_all(below)?;
        let fresh = tempfile::tempdir_in(below)?;
        shoot(&plan, &scenario.with_file_name("speech"), fresh.path(), &|_, _| {})?;
        // Whoever comes second finds the place taken by the same files.
        let _ = fs::rename(fresh.path(), &kept);
    }
    Ok(kept.canonicalize()?)
}

/// FNV-1a: the same on every machine and with every compiler.
fn hash(bytes: impl Iterator<Item = u8>) -> u64 {
    bytes.fold(0xcbf2_9ce4_8422_2325, |hash, byte| (hash ^ u64::from(byte)).wrapping_mul(0x0100_0000_01b3))
}

pub(crate) fn seed_of(scenario: &Scenario, name: &str) -> u64 {
    hash(scenario.seed.to_le_bytes().into_iter().chain(name.bytes()))
}

pub(crate) fn load_speech(scenario: &Scenario, folder: &Path) -> Result<HashMap<String, Vec<f32>>> {
    let mut speech = HashMap::new();
    for said in scenario.scenes.iter().flat_map(|scene| &scene.speech) {
        if speech.contains_key(&said.file) {
            continue;
        }
        let path = folder.join(format!("{}.ogg", said.file));
        let output = Command::new("ffmpeg")
            .args(["-nostdin", "-loglevel", "error", "-i"])
            .arg(&path)
            .args(["-ac", "1", "-ar", "48000", "-f", "f32le", "-"])
            .stdin(Stdio::null())
            .output()
            .context("ffmpeg cannot be started; install it with: apt-get install ffmpeg")?;
        if !output.status.success() {
            bail!("{}: {}", path.display(), String::from_utf8_lossy(&output.stderr).trim());
        }
        let samples =
            output.stdout.chunks_exact(4).map(|b| f32::from_le_bytes([b[0], b[1], b[2], b[3]])).collect();
        speech.insert(said.file.clone(), samples);
    }
    Ok(speech)
}

/// The first sample of the reference: the axis's zero.
struct Origin {
    path: String,
    start_s: f64,
    clock_ppm: f64,
    distance_m: f64,
}

fn reference_start(scenario: &Scenario) -> Result<Origin> {
    let device = find_device(scenario, &scenario.reference)?;
    let clip = scenario
        .clips
        .iter()
        .filter(|clip| clip.device == scenario.reference)
        .max_by(|a, b| (a.to_s - a.from_s).total_cmp(&(b.to_s - b.from_s)))
        .context("the reference device has no clip")?;
    let scene = find_scene(scenario, &clip.scene)?;
    Ok(Origin {
        path: format!("{}/{}", clip.device, clip.file),
        start_s: on_sample_grid(device, scene.start_s + clip.from_s),
        clock_ppm: device.clock_ppm,
        distance_m: clip.distance_m(device),
    })
}

pub(crate) fn find_device<'a>(scenario: &'a Scenario, folder: &str) -> Result<&'a DevicePlan> {
    scenario
        .devices
        .iter()
        .find(|d| d.folder == folder)
        .with_context(|| format!("no device {folder} in the scenario"))
}

pub(crate) fn find_scene<'a>(scenario: &'a Scenario, name: &str) -> Result<&'a ScenePlan> {
    scenario
        .scenes
        .iter()
        .find(|s| s.name == name)
        .with_context(|| format!("no scene {name} in the scenario"))
}

/// Time of day at which devices were jammed: their labels agree there and drift apart after.
const JAM_S: f64 = 7.0 * 3600.0;

fn device_clock(device: &DevicePlan, true_s: f64) -> f64 {
    JAM_S + (true_s - JAM_S) * (1.0 + device.clock_ppm * 1e-6) + device.clock_error_s
}

/// A recorder begins on a whole sample of its own clock, so that its time reference is exact.
pub(crate) fn on_sample_grid(device: &DevicePlan, true_s: f64) -> f64 {
    let rate = f64::from(device.sample_rate);
    let own = ((device_clock(device, true_s) * rate).round() / rate) - device.clock_error_s;
    JAM_S + (own - JAM_S) / (1.0 + device.clock_ppm * 1e-6)
}

/// One file to be written.
pub(crate) struct Take<'a> {
    pub scene: &'a ScenePlan,
    pub device: &'a DevicePlan,
    pub clip: ClipPlan,
    pub path: String,
    /// What the device recorded before, seconds.
    recorded_s: f64,
}

pub(crate) fn recordings(scenario: &Scenario) -> Result<Vec<Take<'_>>> {
    let mut takes: Vec<Take> = vec![];
    for clip in &scenario.clips {
        let (scene, device) = (find_scene(scenario, &clip.scene)?, find_device(scenario, &clip.device)?);
        let frame = device.picture.as_ref().map_or(0.0, |picture| 1.0 / f64::from(picture.rate));
        let gap = frame * f64::from(clip.part_gap_frames);
        let length =
            (clip.to_s - clip.from_s - gap * f64::from(clip.parts - 1)) / f64::from(clip.parts.max(1));
        // Parts begin on whole frames of the chain.
        let length = if frame > 0.0 { (length / frame).floor() * frame } else { length };
        for part in 0..clip.parts {
            let from_s = clip.from_s + f64::from(part) * (length + gap);
            let file = clip.file.replace('#', &(part + 1).to_string());
            let own = ClipPlan { from_s, to_s: from_s + length, file: file.clone(), ..clip.clone() };
            let before = takes.iter().filter(|take| take.clip.device == clip.device);
            let recorded_s = before.map(|take| take.clip.to_s - take.clip.from_s).sum();
            takes.push(Take {
                scene,
                device,
                clip: own,
                path: format!("{}/{file}", clip.device),
                recorded_s,
            });
        }
    }
    Ok(takes)
}

impl Take<'_> {
    fn write(&self, scenario: &Scenario, world: &World, origin: &Origin, out: &Path) -> Result<TruthClip> {
        let Take { scene, device, clip, path, .. } = self;
        let target = out.join(path);
        fs::create_dir_all(target.parent().unwrap_or(out))?;
        let start_s = on_sample_grid(device, scene.start_s + clip.from_s);
        let lost: f64 = clip.lost.iter().map(|loss| loss.length_s).sum();
        let length_s = clip.to_s - clip.from_s - lost;
        let samples = (length_s * f64::from(device.sample_rate)).round() as usize;
        let folder = tempfile::tempdir()?;
        let wav = folder.path().join("sound.wav");
        if !clip.no_sound_stream {
            let recording = record(
                world,
                device,
                clip,
                scene.room_s,
                start_s,
                samples,
                &scenario.date,
                seed_of(scenario, path),
            );
            write_float_wav(&wav, &recording.channels, device.sample_rate)?;
        }
        let sound = (!clip.no_sound_stream).then_some(wav.as_path());
        let mut frame_times_s = vec![];
        let mut frames = 0;
        if device.picture.is_some() {
            (frames, frame_times_s) =
                self.write_picture(scenario, world, start_s, length_s, sound, &target)?;
        } else {
            self.write_bwf(scenario, &wav, start_s, &target)?;
        }
        Ok(self.truth(origin, start_s, length_s, frames, frame_times_s))
    }

    fn write_picture(
        &self,
        scenario: &Scenario,
        world: &World,
        start_s: f64,
        length_s: f64,
        sound: Option<&Path>,
        target: &Path,
    ) -> Result<(u64, Vec<f64>)> {
        let Take { device, clip, .. } = self;
        let plan = device.picture.as_ref().context("no picture")?;
        let stage = Stage::new(world, plan).context("the picture has no size")?;
        let frames = (length_s * f64::from(plan.rate)).floor() as u64;
        let time = |n: u64| frame_time(n, plan.rate, plan.varying);
        let mut command = Command::new("ffmpeg");
        command
            .args([
                "-hide_banner",
                "-nostdin",
                "-loglevel",
                "error",
                "-y",
                "-f",
                "rawvideo",
                "-pix_fmt",
                "rgba",
            ])
            .args([
                "-s",
                &format!("{}x{}", plan.width, plan.height),
                "-r",
                &plan.rate.to_string(),
                "-i",
                "pipe:0",
            ]);
        if let Some(wav) = sound {
            command.arg("-i").arg(wav);
        }
        if plan.varying {
            let (depth, step) = WANDER;
            command
                .args([
                    "-vf",
                    &format!("settb=1/90000,setpts='(N/{}+{depth}*(sin(N*{step})))/TB'", plan.rate),
                ])
                .args([
                    "-fps_mode",
                    "passthrough",
                    "-enc_time_base",
                    "1/90000",
                    "-video_track_timescale",
                    "90000",
                ]);
        }
        command.args([
            "-c:v",
            "libx264",
            "-preset",
            "ultrafast",
            "-crf",
            "22",
            "-pix_fmt",
            "yuv420p",
            "-threads",
            "1",
        ]);
        match device.container {
            Container::MovPcm => command.args(["-c:a", "pcm_s16le"]),
            _ => command.args(["-c:a", "aac", "-b:a", "128k"]),
        };
        let rate = FrameRate::new(i64::from(plan.rate), 1)?;
        let label = match device.file_timecode {
            FileTimecode::True => Some(Tick::from_seconds(device_clock(device, start_s)).frame(rate)),
            FileTimecode::Wrong => Some(3600 * i64::from(plan.rate)),
            FileTimecode::WhileRecording => Some(Tick::from_seconds(self.recorded_s).frame(rate)),
            FileTimecode::None => None,
        };
        if let Some(frames) = label.map(|frames| frames + device.late_frames) {
            command.args(["-timecode", &Timecode::new(frames, rate, false).to_string()]);
        }
        command
            .args(["-metadata", &format!("creation_time={}", self.created(scenario, start_s)), "-bitexact"])
            .arg(target)
            .stdin(Stdio::piped())
            .stderr(Stdio::piped());
        let mut child =
            command.spawn().context("ffmpeg cannot be started; install it with: apt-get install ffmpeg")?;
        let mut pipe = child.stdin.take().context("no pipe")?;
        for n in 0..frames {
            let at = true_time(device, clip, start_s, time(n)) - world.start_s;
            if pipe.write_all(stage.frame(at, n).data()).is_err() {
                break; // ffmpeg ended; its message follows
            }
        }
        drop(pipe);
        let output = child.wait_with_output()?;
        if !output.status.success() {
            bail!("{}: {}", target.display(), String::from_utf8_lossy(&output.stderr).trim());
        }
        Ok((frames, if plan.varying { (0..frames).map(time).collect() } else { vec![] }))
    }

    fn write_bwf(&self, scenario: &Scenario, wav: &Path, start_s: f64, target: &Path) -> Result<()> {
        let Take { device, clip, .. } = self;
        let reference = match device.no_time_reference {
            true => 0.0,
            false => (device_clock(device, start_s) * f64::from(device.sample_rate)).round(),
        };
        let output = Command::new("ffmpeg")
            .args(["-hide_banner", "-nostdin", "-loglevel", "error", "-y", "-i"])
            .arg(wav)
            .args([
                "-c:a",
                if device.short_samples { "pcm_s16le" } else { "pcm_s24le" },
                "-write_bext",
                "1",
                "-bitexact",
            ])
            .args(["-metadata", &format!("time_reference={reference:.0}")])
            .args(["-metadata", &format!("origination_date={}", scenario.date)])
            .args(["-metadata", &format!("origination_time={}", clock_text(device_clock(device, start_s)))])
            .arg(target)
            .stdin(Stdio::null())
            .output()?;
        if !output.status.success() {
            bail!("{}: {}", target.display(), String::from_utf8_lossy(&output.stderr).trim());
        }
        let text = |tag: &str, value: &Option<String>| {
            value.as_ref().map_or_else(String::new, |v| format!("<{tag}>{v}</{tag}>"))
        };
        let tracks: String = device
            .channels
            .iter()
            .enumerate()
            .map(|(i, name)| {
                format!("<TRACK><CHANNEL_INDEX>{}</CHANNEL_INDEX><NAME>{name}</NAME></TRACK>", i + 1)
            })
            .collect();
        let ixml = format!(
            "<?xml version=\"1.0\" encoding=\"UTF-8\"?><BWFXML><IXML_VERSION>1.5</IXML_VERSION><PROJECT>{}</PROJECT>{}{}<TRACK_LIST><TRACK_COUNT>{}</TRACK_COUNT>{tracks}</TRACK_LIST></BWFXML>",
            scenario.name,
            text("SCENE", &clip.slate_scene),
            text("TAKE", &clip.slate_take),
            device.channels.len(),
        );
        append_chunk(target, *b"iXML", ixml.as_bytes())?;
        Ok(())
    }

    fn created(&self, scenario: &Scenario, start_s: f64) -> String {
        format!("{}T{}.000000Z", scenario.date, clock_text(device_clock(self.device, start_s)))
    }

    fn truth(
        &self,
        origin: &Origin,
        start_s: f64,
        length_s: f64,
        frames: u64,
        frame_times_s: Vec<f64>,
    ) -> TruthClip {
        let Take { scene, device, clip, path, .. } = self;
        let late_s = (clip.distance_m(device) - origin.distance_m) / SPEED_OF_SOUND;
        let axis = |true_s: f64| (true_s - late_s - origin.start_s) * (1.0 + origin.clock_ppm * 1e-6);
        let mut bounds = vec![0.0];
        bounds.extend(clip.lost.iter().map(|loss| loss.at_s));
        bounds.push(length_s);
        TruthClip {
            path: path.clone(),
            device: device.folder.clone(),
            scene: scene.name.clone(),
            true_start_s: start_s,
            heard_in_reference: !clip.silent
                && !clip.no_sound_stream
                && !clip.direct
                && scene.programme != Programme::Quiet,
            rate_ppm: ((1.0 + device.clock_ppm * 1e-6) / (1.0 + origin.clock_ppm * 1e-6) - 1.0) * 1e6,
            segments: bounds
                .windows(2)
                .map(|pair| TruthSegment {
                    clip_start_s: pair[0],
                    clip_end_s: pair[1],
                    start_s: axis(true_time(device, clip, start_s, pair[0])),
                })
                .collect(),
            late_s,
            frame_times_s,
            frames,
        }
    }
}

/// Depth (seconds) and step (radians a frame) of a varying camera's wander.
const WANDER: (f64, f64) = (0.006, 0.7);

fn frame_time(n: u64, rate: u32, varying: bool) -> f64 {
    let regular = n as f64 / f64::from(rate);
    if varying { regular + WANDER.0 * (n as f64 * WANDER.1).sin() } else { regular }
}

fn clock_text(seconds: f64) -> String {
    let whole = seconds.max(0.0) as u64;
    format!("{:02}:{:02}:{:02}", whole / 3600 % 24, whole / 60 % 60, whole % 60)
}
