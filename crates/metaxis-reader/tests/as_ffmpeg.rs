//! What the reader says is what ffmpeg and ffprobe say, for every container and codec; what it cannot read it refuses.

use metaxis_media::{decoder, probe_json};
use serde_json::json;
use std::{
    io::{Read, Write},
    path::{Path, PathBuf},
    process::{Child, Command, Stdio},
};

/// Name, and how ffmpeg makes it of a test picture and a sound of several channels.
const FILES: &[(&str, &[&str])] = &[
    ("16.wav", &["-vn", "-c:a", "pcm_s16le"]),
    ("24.wav", &["-vn", "-c:a", "pcm_s24le"]),
    ("float.wav", &["-vn", "-c:a", "pcm_f32le"]),
    ("bwf.wav", &["-vn", "-write_bext", "1", "-metadata", "time_reference=172800000"]),
    ("eight.wav", &["-vn", "-c:a", "pcm_u8"]),
    ("six.wav", &["-vn", "-ac", "6", "-c:a", "pcm_s24le"]),
    ("a.flac", &["-vn"]),
    ("a.mp3", &["-vn"]),
    ("a.m4a", &["-vn"]),
    ("six.m4a", &["-vn", "-ac", "6"]),
    ("a.aac", &["-vn"]),
    ("a.ogg", &["-vn", "-c:a", "libvorbis"]),
    ("a.aiff", &["-vn"]),
    ("alac.m4a", &["-vn", "-c:a", "alac"]),
    ("pictures.mp4", &["-timecode", "10:00:00:00", "-metadata", "creation_time=2026-03-01T09:00:00Z"]),
    ("pcm.mov", &["-c:v", "prores", "-c:a", "pcm_s24le", "-timecode", "01:02:03:04"]),
    ("long.mkv", &["-c:a", "libopus"]),
    ("stream.ts", &["-c:a", "mp2"]),
    ("all.mxf", &["-c:v", "mpeg2video", "-c:a", "pcm_s16le", "-ar", "48000"]),
    ("silent.mp4", &["-an"]),
];

fn make(folder: &Path, name: &str, how: &[&str]) -> PathBuf {
    let path = folder.join(name);
    let made = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-y"])
        .args(["-f", "lavfi", "-i", "testsrc=size=64x48:rate=25:duration=1.2"])
        .args(["-f", "lavfi", "-i", "aevalsrc=0.4*sin(700*t*t)|0.3*sin(3000*t)+0.2*random(0):s=48000:d=1.23"])
        .args(["-shortest"])
        .args(how)
        .arg(&path)
        .output()
        .expect("ffmpeg");
    assert!(made.status.success(), "{name}: {}", String::from_utf8_lossy(&made.stderr));
    path
}

/// The program under test.
struct Reader(Child);

impl Reader {
    fn start() -> Self {
        let mut program = Command::new(env!("CARGO_BIN_EXE_metaxis-reader"));
        Self(program.stdin(Stdio::piped()).stdout(Stdio::piped()).spawn().expect("it starts"))
    }

    /// An answer, or the reason of its refusal.
    fn ask(&mut self, request: &str) -> Result<Vec<u8>, String> {
        writeln!(self.0.stdin.as_mut().expect("a pipe"), "{request}").expect("asked");
        let out = self.0.stdout.as_mut().expect("a pipe");
        let mut answer = vec![];
        loop {
            let mut head = [0; 5];
            out.read_exact(&mut head).expect("it answers");
            let mut part = vec![0; u32::from_le_bytes([head[1], head[2], head[3], head[4]]) as usize];
            out.read_exact(&mut part).expect("it answers");
            match head[0] {
                b'+' => answer.extend(part),
                b'.' => return Ok(answer),
                b'!' => return Err(String::from_utf8(part).expect("text")),
                other => panic!("a message of the kind {other}"),
            }
        }
    }

    fn facts(&mut self, path: &Path) -> Result<Vec<u8>, String> {
        self.ask(&json!({ "want": "facts", "path": path }).to_string())
    }
}

impl Drop for Reader {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn ffprobe(path: &Path) -> Vec<u8> {
    let said = Command::new("ffprobe")
        .args(["-loglevel", "error", "-print_format", "json", "-show_format", "-show_streams"])
        .arg(path)
        .output();
    said.expect("ffprobe").stdout
}

/// Whether two sounds are most alike as they lie, of all shifts by up to fifty samples.
fn is_nowhere_else(own: &[f32], other: &[f32]) -> bool {
    let alike = |shift: usize, own: &[f32], other: &[f32]| -> f64 {
        own[shift..].iter().zip(other).map(|(a, b)| f64::from(*a) * f64::from(*b)).sum()
    };
    let here = alike(0, own, other);
    (1..=50).all(|shift| alike(shift, own, other) < here && alike(shift, other, own) < here)
}

#[test]
fn it_says_what_ffmpeg_says_of_every_container_and_codec() {
    let folder = tempfile::tempdir().expect("a folder");
    let mut reader = Reader::start();
    let mut begun = vec![];
    for (name, how) in FILES {
        let path = make(folder.path(), name, how);
        let own = reader.facts(&path).unwrap_or_else(|why| panic!("{name}: {why}"));
        let (own, theirs) = (probe_json(&own).expect("facts"), probe_json(&ffprobe(&path)).expect("facts"));
        assert_eq!(own, theirs, "{name}");
        let Some(sound) = own.sound else { continue };
        let request = json!({ "want": "sound", "path": path, "stream": 0, "channels": sound.channels, "rate": sound.rate });
        let own = reader.ask(&request.to_string()).unwrap_or_else(|why| panic!("{name}: {why}"));
        let theirs =
            decoder(&path, &sound).output(1 << 30, &metaxis_media::Stop::default()).expect("decoded");
        assert_eq!(own.len(), theirs.len(), "{name}: samples");
        let floats = |bytes: &[u8]| -> Vec<f32> {
            bytes.as_chunks().0.iter().map(|b| f32::from_le_bytes(*b)).collect()
        };
        let most = |own: &[f32], theirs: &[f32]| {
            own.iter().zip(theirs).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max)
        };
        let (own, theirs) = (floats(&own), floats(&theirs));
        let off = most(&own, &theirs);
        assert!(off < 1e-6, "{name}: {off} off");
        // From a sample on it is the same, or refused where none can be found to a hair.
        let from = 40_321;
        let request = json!({ "want": "sound", "path": path, "stream": 0, "channels": sound.channels, "rate": sound.rate, "from": from });
        match reader.ask(&request.to_string()) {
            Ok(rest) => {
                let (rest, whole) = (floats(&rest), &own[from * sound.channels as usize..]);
                assert_eq!(rest.len(), whole.len(), "{name}: samples from {from} on");
                // A coder may fill in noise of its own, another each time: then it is as much alike nowhere else.
                let off = most(&rest, whole);
                assert!(off < 1e-4 || is_nowhere_else(&rest, whole), "{name} from {from} on: {off} off");
                begun.push(*name);
            }
            Err(why) => assert!(why.contains("what comes before"), "{name}: {why}"),
        }
    }
    assert_eq!(begun, ["a.flac", "a.m4a", "six.m4a", "alac.m4a", "pictures.mp4", "pcm.mov"]);
}

#[test]
fn what_it_cannot_read_it_refuses_and_goes_on() {
    let folder = tempfile::tempdir().expect("a folder");
    let good = make(folder.path(), "good.wav", &["-vn"]);
    let text = folder.path().join("text.wav");
    std::fs::write(&text, "no sound at all").expect("written");
    let mut reader = Reader::start();
    reader.facts(&text).expect_err("text is no media");
    reader.facts(&folder.path().join("missing.wav")).expect_err("it is not there");
    reader.ask("{\"want\":\"tea\"}").expect_err("no such thing");
    reader.ask("not JSON").expect_err("no request");
    // A pattern that another protocol would read as a list of files.
    reader.facts(Path::new("concat:a.wav|b.wav")).expect_err("only files are read");
    let sound = |stream: usize, channels: usize| {
        json!({ "want": "sound", "path": good, "stream": stream, "channels": channels, "rate": 48_000 })
            .to_string()
    };
    assert!(reader.ask(&sound(1, 2)).expect_err("one stream only").contains("no such"));
    assert!(reader.ask(&sound(0, 5)).expect_err("two channels").contains("changes"));
    let cut = folder.path().join("cut.m4a");
    let whole =
        std::fs::read(make(folder.path(), "whole.m4a", &["-vn", "-movflags", "+faststart"])).expect("read");
    std::fs::write(&cut, &whole[..whole.len() / 2]).expect("written");
    let request = json!({ "want": "sound", "path": cut, "stream": 0, "channels": 2, "rate": 48_000 });
    assert!(!reader.ask(&request.to_string()).expect("what is there").is_empty());
    assert!(!reader.ask(&sound(0, 2)).expect("it goes on").is_empty());
}

/// Memory that a process holds of its own, KiB.
fn held_kib(pid: u32) -> u64 {
    let text = std::fs::read_to_string(format!("/proc/{pid}/status")).expect("a process");
    let line = text.lines().find_map(|line| line.strip_prefix("RssAnon:")).expect("its memory");
    line.trim().trim_end_matches(" kB").parse().expect("a number")
}

#[test]
fn it_holds_no_more_after_many_files_than_after_few() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = make(folder.path(), "a.m4a", &["-vn", "-b:a", "256k"]);
    let mut reader = Reader::start();
    let mut decode = |times: usize| {
        let request = json!({ "want": "sound", "path": path, "stream": 0, "channels": 2, "rate": 48_000 });
        for _ in 0..times {
            reader.ask(&request.to_string()).expect("sound");
        }
        held_kib(reader.0.id())
    };
    let (few, many) = (decode(10), decode(300));
    assert!(many < few + 2_000, "{few} KiB after 10 files, {many} KiB after 310");
}
