//! Files as no device writes them: what is known to break programs, and good ones with bytes changed.

use crate::{
    Plan, Served,
    memory::{Peak, Watch},
    wave::wave,
};
use anyhow::{Context, Result};
use nix::{sys::stat::Mode, unistd::mkfifo};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde_json::{Value, json};
use std::{
    fmt, fs,
    path::{Path, PathBuf},
    time::{Duration, Instant},
};

/// What came of it.
#[derive(Debug)]
pub struct Corpus {
    /// Files that were tried.
    pub files: usize,
    /// Of these, taken as clips.
    pub clips: usize,
    /// Seconds until nothing was left to do.
    pub took_s: f64,
    /// Jobs that failed; each says why.
    pub failed: i64,
    /// Whether the good files beside them were taken in and synced afterwards.
    pub went_on: bool,
    /// Memory.
    pub peak: Peak,
}

impl fmt::Display for Corpus {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        let Self { files, clips, took_s, failed, went_on, peak } = self;
        write!(
            f,
            "strange files: {files} tried, {clips} of them clips, done in {took_s:.0} s, {failed} jobs failed with a \
             reason, 0 hung; the good files beside them {}; at most {:.0} MiB in the server, {:.0} MiB in one program, \
             {:.0} MiB in all (asked: 500)",
            if *went_on { "were synced" } else { "WERE NOT SYNCED" },
            peak.server,
            peak.child,
            peak.all
        )
    }
}

/// Makes the corpus with `mutants` mutated files, takes it in together with good media, and syncs.
///
/// # Errors
/// Where the server goes, or a job does not end within ten minutes.
pub async fn corpus(plan: &Plan, mutants: usize, seed: u64) -> Result<Corpus> {
    let folder = tempfile::tempdir()?;
    let strange = folder.path().join("X_STRANGE");
    fs::create_dir(&strange)?;
    known(&strange)?;
    mutated(&plan.media, &strange, mutants, seed)?;
    let files = fs::read_dir(&strange)?.count();
    for entry in fs::read_dir(&plan.media)?.flatten().filter(|entry| entry.path().is_dir()) {
        let to = folder.path().join(entry.file_name());
        fs::create_dir(&to)?;
        for file in fs::read_dir(entry.path())?.flatten().filter(|file| file.path().is_file()) {
            fs::copy(file.path(), to.join(file.file_name()))?;
        }
    }
    let data = tempfile::tempdir()?;
    let own = Plan { data: data.path().to_owned(), media: folder.path().to_owned(), ..plan.clone() };
    let served = Served::start(&own)?;
    let (watch, begin) = (Watch::on(served.id()), Instant::now());
    let most = Duration::from_secs(600);
    served.take_in(folder.path()).await?;
    served.idle(most).await?;
    served.post("/passes", &json!({ "reference": null })).await?;
    let day = served.idle(most).await?;
    let took_s = begin.elapsed().as_secs_f64();
    let all = |name: &str| day[name].as_array().cloned().unwrap_or_default();
    let is_strange =
        |clip: &Value| clip["relative"].as_str().is_some_and(|path| path.starts_with("X_STRANGE"));
    let good: Vec<Value> =
        all("clips").iter().filter(|clip| !is_strange(clip)).map(|clip| clip["id"].clone()).collect();
    let solid = |placed: &&Value| good.contains(&placed["clip"]) && placed["placement"]["verdict"] == "solid";
    Ok(Corpus {
        files,
        clips: all("clips").len() - good.len(),
        took_s,
        failed: all("jobs").iter().filter_map(|job| job["failed"].as_i64()).sum(),
        went_on: all("placements").iter().filter(solid).count() >= 3,
        peak: watch.peak(),
    })
}

/// Mutates files of the media: bytes, lengths, heads of other files.
fn mutated(media: &Path, to: &Path, count: usize, seed: u64) -> Result<()> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut sources: Vec<PathBuf> = vec![];
    for device in fs::read_dir(media)?.flatten() {
        let files = fs::read_dir(device.path()).into_iter().flatten().flatten().map(|file| file.path());
        let small =
            |path: &PathBuf| path.metadata().is_ok_and(|data| data.is_file() && data.len() < 4_000_000);
        sources.extend(files.filter(small));
    }
    sources.sort();
    for number in 0..count {
        let source = &sources[rng.random_range(0..sources.len())];
        let mut bytes = fs::read(source)?;
        let head = bytes.len().min(4096);
        match rng.random_range(0..5) {
            // Numbers in the head: sizes, rates, counts.
            0 | 1 => {
                for _ in 0..rng.random_range(1..6) {
                    let at = rng.random_range(0..head - 4);
                    let value =
                        [0, 1, 0x7fff_ffff, 0x8000_0000, u32::MAX, rng.random()][rng.random_range(0..6)];
                    bytes[at..at + 4].copy_from_slice(&value.to_le_bytes());
                }
            }
            2 => (0..rng.random_range(1..200)).for_each(|_| {
                let at = rng.random_range(0..bytes.len());
                bytes[at] = rng.random();
            }),
            3 => bytes.truncate(rng.random_range(1..bytes.len())),
            _ => {
                let (from, count) = (rng.random_range(0..bytes.len()), rng.random_range(1..5000));
                let to = (from + count).min(bytes.len());
                bytes.drain(from..to);
            }
        }
        let kind = source.extension().and_then(|kind| kind.to_str()).context("a kind")?;
        fs::write(to.join(format!("m{number:03}.{kind}")), bytes)?;
    }
    Ok(())
}

/// What has stopped programs before.
fn known(to: &Path) -> Result<()> {
    let put = |name: &str, bytes: &[u8]| fs::write(to.join(name), bytes);
    let second: Vec<u8> = (0..48_000_u32).flat_map(|i| ((i * 37 % 8000) as i16).to_le_bytes()).collect();
    put(
        "no numbers.wav",
        &wave(
            3,
            48_000,
            1,
            32,
            &[f32::NAN, f32::INFINITY, 0.5].map(f32::to_le_bytes).concat().repeat(40_000),
        ),
    )?;
    put("seven hertz.wav", &wave(1, 7, 1, 16, &second.repeat(4)))?;
    put("two gigahertz.wav", &wave(1, i32::MAX as u32, 1, 16, &second))?;
    put("sixty-four channels.wav", &wave(1, 48_000, 64, 16, &second.repeat(300)))?;
    put("sixty-four channels again.wav", &wave(1, 48_000, 64, 16, &second.repeat(300)))?;
    put("thousands of channels.wav", &wave(1, 48_000, 65_535, 16, &second))?;
    put("no channels.wav", &wave(1, 48_000, 0, 16, &second))?;
    put("empty.mov", b"")?;
    put("one byte.mp4", b"\0")?;
    put("text.wav", "not a sound\n".repeat(500).as_bytes())?;
    put("list.mp4", b"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n/etc/passwd\n#EXT-X-ENDLIST\n")?;
    put("list.wav", b"ffconcat version 1.0\nfile /etc/passwd\n")?;
    put("list.mov", b"<?xml version=\"1.0\"?><MPD xmlns=\"urn:mpeg:dash:schema:mpd:2011\"><BaseURL>/etc/passwd</BaseURL></MPD>")?;
    for (name, side) in [("wide.png", 30_000_u32), ("nearly too wide.png", 5_400)] {
        // Heads that promise a picture; of its rows next to nothing is there.
        let mut picture = b"\x89PNG\r\n\x1a\n\0\0\0\x0dIHDR".to_vec();
        picture.extend([side.to_be_bytes(), side.to_be_bytes()].concat());
        picture.extend(
            b"\x10\x06\0\0\0\0\0\0\0\0\0\0\x0bIDAT\x78\x9c\x03\0\0\0\0\x01\0\0\0\0\0\0\0\0\0\0IEND\0\0\0\0",
        );
        put(name, &picture)?;
    }
    fs::create_dir(to.join("folder.mov"))?;
    mkfifo(&to.join("pipe.mov"), Mode::S_IRUSR | Mode::S_IWUSR)?;
    std::os::unix::fs::symlink("/dev/zero", to.join("endless.wav"))?;
    std::os::unix::fs::symlink("nowhere.wav", to.join("loose.wav"))?;
    Ok(())
}
