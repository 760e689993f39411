//! How fast films are made, beside ffmpeg alone coding as many frames in the same way, and beside plain copying where they are copied:
//! `metaxis-film-figures [SECONDS] [WHICH]` makes two cameras and a recorder (once), cuts a line every three seconds, and prints ratios
//! of pairs made in turns, and of the work of two made at the same time, whatever else the machine does; of what has WHICH in its name
//! alone where that is said: `line`, `RDD 36`, `copied`.

use anyhow::{Context, Result, ensure};
use metaxis_e2e::Site;
use nix::{
    sys::{
        resource::{UsageWho, getrusage},
        time::TimeVal,
        wait::{Id, WaitPidFlag, waitid},
    },
    unistd::Pid,
};
use serde_json::{Value, json};
use std::{
    path::{Path, PathBuf},
    process::Command,
    time::{Duration, Instant},
};

/// How often each is made.
const ROUNDS: usize = 3;

fn ffmpeg(args: &[&str]) -> Result<()> {
    let out = Command::new("ffmpeg").args(["-v", "error", "-y", "-nostdin"]).args(args).output()?;
    ensure!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    Ok(())
}

/// Pictures of a camera are made for so many seconds, and repeated after that.
const MADE_S: u32 = 20;

/// How the cameras code: with a frame that stands by itself every second; or each by itself, so that all can be copied.
const LONG: [&str; 8] = ["-c:v", "libx264", "-preset", "veryfast", "-crf", "18", "-g", "25"];
const EACH: [&str; 6] = ["-pix_fmt", "yuv422p10le", "-c:v", "prores_ks", "-profile:v", "standard"];

/// Two cameras of 1920 × 1080 with grain, and a recorder that hears the same.
fn media(seconds: u32, name: &str, coded: &[&str]) -> Result<PathBuf> {
    let kept =
        Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("../../target/media-film-{name}-{seconds}-1"));
    if kept.join("REC/S001.wav").exists() {
        return Ok(kept.canonicalize()?);
    }
    eprintln!("making the media of {seconds} seconds, once …");
    for folder in ["A", "B", "REC"] {
        std::fs::create_dir_all(kept.join(folder))?;
    }
    let path = |own: &str| kept.join(own).display().to_string();
    // Speech: what is alike throughout has no place.
    let speech = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/speech");
    let mut said: Vec<PathBuf> = std::fs::read_dir(speech)?.flatten().map(|own| own.path()).collect();
    said.retain(|own| own.extension().is_some_and(|own| own == "ogg"));
    said.sort();
    let inputs: Vec<String> = said.iter().flat_map(|own| ["-i".into(), own.display().to_string()]).collect();
    let inputs: Vec<&str> = inputs.iter().map(String::as_str).collect();
    let graph = format!("concat=n={}:v=0:a=1,aresample=48000,apad,atrim=end={seconds}", said.len());
    let aside = path("REC/S001.part.wav");
    ffmpeg(&[&inputs[..], &["-filter_complex", &graph, "-ac", "1", "-c:a", "pcm_s24le", &aside]].concat())?;
    for (own, seed) in [("A/A001.mov", 1), ("B/B001.mov", 2)] {
        let picture = format!(
            "testsrc2=s=1920x1080:r=25:d={},noise=alls=9:allf=t:all_seed={seed},format=yuv420p",
            seconds.min(MADE_S)
        );
        let (own, once) = (path(own), path("REC/once.mov"));
        ffmpeg(&[&["-f", "lavfi", "-i", &picture, "-an"], coded, &[&once]].concat())?;
        let (length, all) = (seconds.to_string(), ["-stream_loop", "-1", "-i", &once, "-i", &aside]);
        let held = ["-map", "0:v", "-map", "1:a", "-c:v", "copy", "-c:a", "pcm_s16le", "-t", &length, &own];
        ffmpeg(&[&all[..], &held[..]].concat())?;
        std::fs::remove_file(once)?;
    }
    std::fs::rename(&aside, kept.join("REC/S001.wav"))?;
    Ok(kept.canonicalize()?)
}

/// Measures how long a piece of work takes by the clock, seconds.
async fn took(work: impl Future<Output = Result<()>>) -> Result<f64> {
    let since = Instant::now();
    work.await?;
    Ok(since.elapsed().as_secs_f64())
}

/// How long this program and all that it started and that has ended have worked, seconds of a processor.
fn worked_s() -> Result<f64> {
    let of = |who| -> Result<f64> {
        let own = getrusage(who)?;
        let seconds = |own: TimeVal| own.tv_sec() as f64 + own.tv_usec() as f64 / 1e6;
        Ok(seconds(own.user_time()) + seconds(own.system_time()))
    };
    Ok(of(UsageWho::RUSAGE_SELF)? + of(UsageWho::RUSAGE_CHILDREN)?)
}

/// Runs ffmpeg; how long it has worked, seconds of a processor.
fn ffmpeg_worked_s(args: &[&str]) -> Result<f64> {
    let mut child = Command::new("ffmpeg").args(["-v", "error", "-y", "-nostdin"]).args(args).spawn()?;
    let id = i32::try_from(child.id())?;
    // Ended and not yet taken away: what it has used is still written there.
    waitid(Id::Pid(Pid::from_raw(id)), WaitPidFlag::WEXITED | WaitPidFlag::WNOWAIT)?;
    let said = std::fs::read_to_string(format!("/proc/{id}/stat"))?;
    ensure!(child.wait()?.success(), "ffmpeg failed");
    let fields: Vec<&str> = said.rsplit(')').next().unwrap_or_default().split_whitespace().collect();
    let ticks = |at: usize| fields.get(at).and_then(|own| own.parse::<f64>().ok()).context("no count");
    // User and system, hundredths of a second (proc(5), fields 14 and 15).
    Ok((ticks(11)? + ticks(12)?) / 100.0)
}

/// Makes films of a form and waits for them.
async fn made(site: &Site, what: &str, only: &Value, form: Value) -> Result<()> {
    let (groups, clips) = if what == "clips" { (json!(null), only) } else { (only.clone(), &Value::Null) };
    let order = json!({ "what": what, "groups": groups, "clips": clips, "form": form, "folder": "", "replace": true });
    site.post("/api/films/done/forget", json!(null)).await?;
    site.post("/api/films", order).await?;
    loop {
        let films = site.get("/api/films").await?["films"].clone();
        let films = films.as_array().context("no films")?;
        if let Some(failed) = films.iter().find(|own| own["state"] == "failed") {
            anyhow::bail!("{failed}");
        }
        if films.iter().all(|own| own["state"] == "done") {
            return Ok(());
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
}

/// Cuts the line of the first group every three seconds; the group.
async fn cut(site: &Site, seconds: u32) -> Result<Value> {
    let day = site.day().await?;
    let group = day["groups"][0].clone();
    let id = &group["id"];
    let path = format!("/api/groups/{id}");
    let view = site.get(&path).await?;
    let angles = view["group"]["angles"].as_array().context("no angles")?;
    let frames = view["group"]["frames"].as_i64().context("no frames")?;
    let switches: Vec<Value> = (0..frames / 75)
        .map(|i| json!({ "at": i * 75, "angle": angles[i as usize % angles.len()]["id"] }))
        .collect();
    let edit = json!({ "version": view["version"], "edit": { "do": "restore", "switches": switches } });
    site.post(&format!("{path}/line"), edit).await?;
    println!("{seconds} s of 1920 × 1080, {} cuts; each {ROUNDS} times in turns:", switches.len() - 1);
    Ok(id.clone())
}

/// Films that are coded.
async fn coded(site: &Site, media: &Path, seconds: u32, which: Option<&str>) -> Result<()> {
    let id = cut(site, seconds).await?;
    let day = site.day().await?;
    let clip = day["clips"].as_array().and_then(|all| all.iter().find(|own| own["file_name"] == "A001.mov"));
    let clip = clip.context("no clip")?["id"].clone();
    let source = media.join("A/A001.mov").display().to_string();
    let folder = tempfile::tempdir()?;
    let h264 = ["-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-g", "50"];
    let rdd36 = ["-pix_fmt", "yuv422p10le", "-c:v", "prores_ks", "-profile:v", "standard"];
    let ways: [(&str, &str, Value, &[&str]); 4] = [
        ("lines", "the line, H.264", json!({ "codec": "h264", "wrapper": "mov" }), &h264),
        ("clips", "a clip, H.264", json!({ "codec": "h264", "wrapper": "mov" }), &h264),
        ("lines", "the line, RDD 36", json!({ "codec": "rdd36", "wrapper": "mov" }), &rdd36),
        (
            "clips",
            "a clip, H.264, name and timecode in it",
            json!({ "codec": "h264", "wrapper": "mov", "burn": { "name": true, "timecode": true } }),
            &h264,
        ),
    ];
    for (what, said, form, coded) in
        ways.into_iter().filter(|own| which.is_none_or(|which| own.1.contains(which)))
    {
        let only = if what == "clips" { json!([clip]) } else { json!([id]) };
        let target = folder.path().join("plain.mov").display().to_string();
        let plain = [&["-i", &source, "-map", "0:v", "-an"], coded, &[&target]].concat();
        let (mut ratios, mut works) = (vec![], vec![]);
        for _ in 0..ROUNDS {
            let own_s = took(made(site, what, &only, form.clone())).await?;
            let plain_s = took(async { ffmpeg(&plain) }).await?;
            let before_s = worked_s()?;
            let args: Vec<String> = plain.iter().map(|own| (*own).to_owned()).collect();
            let beside = tokio::task::spawn_blocking(move || {
                ffmpeg_worked_s(&args.iter().map(String::as_str).collect::<Vec<_>>())
            });
            made(site, what, &only, form.clone()).await?;
            let plain_work_s = beside.await??;
            let work_s = worked_s()? - before_s - plain_work_s;
            let (ratio, work) = (plain_s / own_s, plain_work_s / work_s);
            println!(
                "  {said}: {own_s:.1} s, ffmpeg alone {plain_s:.1} s, ratio {ratio:.2}; \
                 at the same time {work_s:.1} s of processors, ffmpeg alone {plain_work_s:.1} s, ratio {work:.2}"
            );
            ratios.push(ratio);
            works.push(work);
        }
        ratios.sort_by(f64::total_cmp);
        works.sort_by(f64::total_cmp);
        println!(
            "  {said}: {:.2} of the speed of ffmpeg alone, {:.2} by the processors' time (asked: 0.95)",
            ratios[ROUNDS / 2],
            works[ROUNDS / 2]
        );
    }
    Ok(())
}

/// A line whose pictures are copied, beside the copying of the film that becomes of it.
async fn copied(site: &Site, films_folder: &Path, seconds: u32) -> Result<()> {
    let only = json!([cut(site, seconds).await?]);
    let form = json!({ "codec": "rdd36", "wrapper": "mov", "grade": "recorded", "sound": "silent" });
    let mut ratios = vec![];
    for _ in 0..ROUNDS {
        let own_s = took(made(site, "lines", &only, form.clone())).await?;
        let films = site.get("/api/films").await?["films"].clone();
        let said = films[0]["message"].as_str().unwrap_or_default().to_owned();
        let film = films_folder.join(films[0]["path"].as_str().context("no path")?);
        let bytes = std::fs::metadata(&film)?.len();
        let copy = film.with_extension("copy");
        let plain = async {
            std::fs::copy(&film, &copy)?;
            Ok(std::fs::File::open(&copy)?.sync_all()?)
        };
        let plain_s = took(plain).await?;
        std::fs::remove_file(&copy)?;
        let speed = |s: f64| bytes as f64 / 1e6 / s;
        println!(
            "  the line, as it was recorded: {own_s:.1} s, {:.0} MB a second; copied on the disk: {plain_s:.1} s, {:.0} MB a second; ratio {:.2}: {said}",
            speed(own_s),
            speed(plain_s),
            plain_s / own_s
        );
        ratios.push(plain_s / own_s);
    }
    ratios.sort_by(f64::total_cmp);
    println!("  the line, as it was recorded: {:.2} of the speed of plain copying", ratios[ROUNDS / 2]);
    Ok(())
}

#[tokio::main]
async fn main() -> Result<()> {
    let seconds = std::env::args().nth(1).map_or(Ok(20), |own| own.parse()).context("how many seconds?")?;
    let which = std::env::args().nth(2);
    let which = which.as_deref();
    let ways: [(&str, &[&str]); 2] = [("long", &LONG), ("each", &EACH)];
    let wanted = |name: &str| which.is_none_or(|which| (which == "copied") == (name == "each"));
    for (name, how) in ways.iter().filter(|own| wanted(own.0)) {
        let media = media(seconds, name, how)?;
        let data = tempfile::tempdir()?;
        let site = Site::start_in(data.path(), &media).await?;
        let result = async {
            site.prepare().await?;
            if *name == "long" {
                coded(&site, &media, seconds, which).await
            } else {
                copied(&site, &data.path().join("films"), seconds).await
            }
        }
        .await;
        site.server.stop().await;
        result?;
    }
    Ok(())
}
