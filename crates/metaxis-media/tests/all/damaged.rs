//! Coded sound that is damaged in the middle: what follows stays where it belongs, and what is lost is told.

use metaxis_core::{signal::LostSound, sound::Samples};
use metaxis_media::{Cache, Fingerprint, SoundFile, Stop, facts, listen};
use std::{fs, path::Path, process::Command};

const RATE: usize = 48_000;
/// Name, and how ffmpeg codes it. Bare streams of MP3 or AAC have no times: what is lost of them shortens them, which is told.
const CODED: &[(&str, &[&str])] = &[
    ("a.flac", &[]),
    ("a.m4a", &["-b:a", "192k"]),
    ("alac.m4a", &["-c:a", "alac"]),
    ("a.ogg", &["-c:a", "libopus"]),
    ("a.mkv", &["-c:a", "aac", "-b:a", "192k"]),
];

fn make(path: &Path, how: &[&str]) {
    let made = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-y", "-f", "lavfi", "-i"])
        .arg("aevalsrc=0.4*sin(300*t*t)+0.1*random(0)|0.3*sin(1000*t):s=48000:d=24")
        .args(how)
        .arg(path)
        .output()
        .expect("ffmpeg");
    assert!(made.status.success(), "{}", String::from_utf8_lossy(&made.stderr));
}

/// Writes other bytes over a fiftieth of a file, from its middle on.
fn damage(path: &Path) {
    let mut bytes = fs::read(path).expect("a file");
    let (from, count) = (bytes.len() / 2, bytes.len() / 50);
    let mut state = 12_345_u32;
    for byte in &mut bytes[from..from + count] {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        *byte = (state >> 24) as u8;
    }
    fs::write(path, bytes).expect("written");
}

/// Its first channel in a second from `to_s` on, and what was lost on the way there from `from_s` on.
fn read(path: &Path, from_s: usize, to_s: usize) -> (Vec<f32>, Vec<LostSound>) {
    let cache = tempfile::tempdir().expect("a folder");
    let cached = Cache::open(cache.path()).expect("a cache").clip(&Fingerprint::of(path).expect("a file"));
    let facts = facts(path, &cached, &Stop::default()).expect("facts").sound.expect("sound");
    let mut file = SoundFile::open(path, &facts, &Stop::default()).expect("it opens");
    let mut out = vec![vec![0.0; RATE]; 2];
    for at_s in from_s..=to_s {
        file.read((at_s * RATE) as i64, &mut out).expect("it is read");
    }
    (out.swap_remove(0), file.lost().to_vec())
}

#[test]
fn what_follows_a_damaged_block_stays_where_it_belongs() {
    let folder = tempfile::tempdir().expect("a folder");
    for (name, how) in CODED {
        let path = folder.path().join(name);
        make(&path, how);
        let (whole, none) = read(&path, 8, 20);
        assert!(none.is_empty(), "{name}: nothing is lost, but {none:?}");
        damage(&path);
        let (after, lost) = read(&path, 8, 20);
        let off = whole.iter().zip(&after).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 1e-3, "{name}: what follows is {off} off");
        let all: u64 = lost.iter().map(|own| own.count).sum();
        let within = |own: &LostSound| (8 * RATE..16 * RATE).contains(&(own.from as usize));
        assert!(lost.iter().all(within) && (1_000..4 * RATE as u64).contains(&all), "{name}: {lost:?}");
        // Listening to all of it finds the same.
        let cache = tempfile::tempdir().expect("a folder");
        let cached =
            Cache::open(cache.path()).expect("a cache").clip(&Fingerprint::of(&path).expect("a file"));
        let sound = facts(&path, &cached, &Stop::default()).expect("facts").sound.expect("sound");
        let heard = listen(&path, &sound, &cached, &Stop::default(), &|_| {}).expect("heard");
        assert_eq!(heard.lost, lost, "{name}");
    }
}

#[test]
fn a_sound_is_the_same_wherever_reading_begins() {
    let folder = tempfile::tempdir().expect("a folder");
    for (name, how) in CODED {
        let path = folder.path().join(name);
        make(&path, how);
        let (along, at_once) = (read(&path, 5, 21).0, read(&path, 21, 21).0);
        let off = along.iter().zip(&at_once).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 1e-4, "{name}: {off} off");
        // Damaged on the way, it is where it belongs all the same; and so is what begins within the damage.
        damage(&path);
        for from_s in [12, 21] {
            let (along, at_once) = (read(&path, 5, from_s).0, read(&path, from_s, from_s).0);
            let off = along.iter().zip(&at_once).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
            assert!(off < 1e-4, "{name} damaged, from {from_s} s: {off} off");
        }
    }
}
