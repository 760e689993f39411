//! A clip's time zero in every container and codec: what was put in at a moment is found at that moment.

use metaxis_core::{clip::ClipFacts, sync::SampleSource};
use metaxis_media::{Cache, Fingerprint, Stop, StoredSamples, decoder, listen, probe};
use std::{
    f32::consts::TAU,
    fs,
    path::{Path, PathBuf},
    process::Command,
};

const RATE: usize = 48_000;
/// Samples at which the sweeps begin; the first is within what a codec primes.
const EVENTS: [usize; 3] = [300, 30_011, 71_003];
const SWEEP: usize = 1600;

/// A sweep from 400 Hz to 6 kHz: sharp in its correlation, and codecs leave it as it is.
fn sweep() -> Vec<f32> {
    (0..SWEEP)
        .map(|i| {
            let part = i as f32 / SWEEP as f32;
            let phase = TAU * (400.0 * part + 0.5 * 5600.0 * part * part) * SWEEP as f32 / RATE as f32;
            0.5 * phase.sin() * (std::f32::consts::PI * part).sin()
        })
        .collect()
}

/// Two seconds with the sweeps, as 32-bit float WAV written by hand: the source must have no priming of its own.
fn source(folder: &Path) -> PathBuf {
    let mut sound = vec![0.0_f32; 2 * RATE];
    for at in EVENTS {
        for (out, value) in sound[at..].iter_mut().zip(sweep()) {
            *out += value;
        }
    }
    let data: Vec<u8> = sound.iter().flat_map(|x| ((x * 32_000.0) as i16).to_le_bytes()).collect();
    let mut wav = b"RIFF".to_vec();
    wav.extend((36 + data.len() as u32).to_le_bytes());
    wav.extend(b"WAVEfmt \x10\0\0\0\x01\0\x01\0");
    wav.extend((RATE as u32).to_le_bytes());
    wav.extend((RATE as u32 * 2).to_le_bytes());
    wav.extend(b"\x02\0\x10\0data");
    wav.extend((data.len() as u32).to_le_bytes());
    wav.extend(data);
    let path = folder.join("source.wav");
    fs::write(&path, wav).expect("written");
    path
}

fn ffmpeg(args: &[&str], out: &Path) {
    let made =
        Command::new("ffmpeg").args(["-nostdin", "-loglevel", "error", "-y"]).args(args).arg(out).output();
    let made = made.expect("ffmpeg");
    assert!(made.status.success(), "{}: {}", out.display(), String::from_utf8_lossy(&made.stderr));
}

/// All channels, decoded as the product decodes them.
fn decoded(path: &Path, facts: &ClipFacts) -> Vec<Vec<f32>> {
    let sound = facts.sound.as_ref().expect("sound");
    let bytes = decoder(path, sound).output(1 << 30, &Stop::default()).expect("decoded");
    let all: Vec<f32> = bytes.as_chunks().0.iter().map(|b| f32::from_le_bytes(*b)).collect();
    let channels = sound.channels as usize;
    (0..channels).map(|c| all.iter().skip(c).step_by(channels).copied().collect()).collect()
}

/// Where the sweep begins near `near`, to a fraction of a sample.
fn found_at(sound: &[f32], near: f64, rate: f64) -> f64 {
    let step = RATE as f64 / rate;
    let shape = sweep();
    let at = |i: usize| {
        let position = i as f64 * step;
        shape.get(position as usize).copied().unwrap_or(0.0)
    };
    let shape: Vec<f32> = (0..(SWEEP as f64 / step) as usize).map(at).collect();
    let score = |lag: i64| -> f64 {
        shape
            .iter()
            .enumerate()
            .map(|(i, s)| {
                let sample = usize::try_from(lag + i as i64).ok().and_then(|i| sound.get(i));
                f64::from(*s) * f64::from(sample.copied().unwrap_or(0.0))
            })
            .sum()
    };
    let near = near.round() as i64;
    let best = (near - 3000..near + 3000).max_by(|a, b| score(*a).total_cmp(&score(*b))).expect("a lag");
    let (a, b, c) = (score(best - 1), score(best), score(best + 1));
    best as f64 + 0.5 * (a - c) / (a - 2.0 * b + c)
}

struct Case {
    name: &'static str,
    picture: bool,
    args: &'static [&'static str],
    /// Largest error in seconds.
    bound: f64,
    rate: f64,
    /// How much later than its sound the muxer itself puts the picture, seconds: the file says so, and players do so.
    muxer_s: f64,
}

const PCM: f64 = 1.0 / 48_000.0;
const LOSSY: f64 = 0.1e-3;

const fn case(name: &'static str, picture: bool, args: &'static [&'static str], bound: f64) -> Case {
    Case { name, picture, args, bound, rate: 48_000.0, muxer_s: 0.0 }
}

const X264: [&str; 8] = ["-c:v", "libx264", "-preset", "ultrafast", "-bf", "2", "-pix_fmt", "yuv420p"];

#[test]
fn time_zero_is_the_first_presented_sample_in_every_container() {
    let cases = [
        case("a.wav", false, &["-c:a", "pcm_s24le"], PCM),
        case("float.wav", false, &["-c:a", "pcm_f32le"], PCM),
        case("rf64.wav", false, &["-c:a", "pcm_s16le", "-rf64", "always"], PCM),
        case("a.w64", false, &["-c:a", "pcm_s16le"], PCM),
        case("a.aiff", false, &["-c:a", "pcm_s16be"], PCM),
        case("a.flac", false, &["-c:a", "flac"], PCM),
        case("a.caf", false, &["-c:a", "pcm_s16le"], PCM),
        case("a.mp3", false, &["-c:a", "libmp3lame", "-b:a", "192k"], LOSSY),
        case("a.m4a", false, &["-c:a", "aac", "-b:a", "192k"], LOSSY),
        case("a.opus", false, &["-c:a", "libopus", "-b:a", "128k"], LOSSY),
        case("a.ogg", false, &["-c:a", "libvorbis", "-q:a", "6"], LOSSY),
        case("pcm.mov", true, &["-c:a", "pcm_s16le"], PCM),
        case("aac.mov", true, &["-c:a", "aac", "-b:a", "192k"], LOSSY),
        case("aac.mp4", true, &["-c:a", "aac", "-b:a", "192k"], LOSSY),
        case("mp3.mp4", true, &["-c:a", "libmp3lame", "-b:a", "192k"], LOSSY),
        case("pcm.mkv", true, &["-c:a", "pcm_s16le"], PCM),
        // Matroska's times are whole milliseconds: the picture lies at 21 ms, the sound after 1024 samples of priming.
        Case {
            muxer_s: 0.021 - 1024.0 / 48_000.0,
            ..case("aac.mkv", true, &["-c:a", "aac", "-b:a", "192k"], LOSSY)
        },
        // This muxer moves the picture by the codec's delay of 6.5 ms, although players drop that delay.
        Case { muxer_s: 0.007, ..case("opus.mkv", true, &["-c:a", "libopus", "-b:a", "128k"], LOSSY) },
        case("flac.mkv", true, &["-c:a", "flac"], PCM),
        Case {
            muxer_s: 0.007,
            ..case("opus.webm", true, &["-c:v", "libvpx", "-deadline", "realtime", "-c:a", "libopus"], LOSSY)
        },
        case("op1a.mxf", true, &["-c:v", "mpeg2video", "-c:a", "pcm_s16le"], PCM),
        case("aac.ts", true, &["-c:a", "aac", "-b:a", "192k"], LOSSY),
        case("ac3.mts", true, &["-c:a", "ac3", "-b:a", "384k", "-f", "mpegts"], LOSSY),
        case("mp2.m2ts", true, &["-c:a", "mp2", "-b:a", "256k"], LOSSY),
        case("pcm.avi", true, &["-c:a", "pcm_s16le"], PCM),
        Case {
            rate: 44_100.0,
            ..case("441.mp4", true, &["-c:a", "aac", "-ar", "44100", "-b:a", "192k"], LOSSY)
        },
    ];
    let folder = tempfile::tempdir().expect("a folder");
    let source = source(folder.path());
    let source = source.to_str().expect("text");
    let mut faults = vec![];
    for case in cases {
        let path = folder.path().join(case.name);
        let mut args = vec!["-i", source];
        if case.picture {
            args.extend(["-f", "lavfi", "-i", "testsrc=s=160x90:r=25:d=2", "-map", "1:v", "-map", "0:a"]);
            if !case.args.contains(&"-c:v") {
                args.extend(X264);
            }
        }
        args.extend(case.args);
        ffmpeg(&args, &path);
        let facts = probe(&path, &Stop::default()).unwrap_or_else(|e| panic!("{e}"));
        assert_eq!(facts.picture.is_some(), case.picture, "{}", case.name);
        let channels = decoded(&path, &facts);
        // Picture frame 0 and the source's sample 0 were put in at the same moment.
        let delay_s = facts.picture_delay_s() - case.muxer_s;
        for at in EVENTS {
            let due_s = at as f64 / RATE as f64;
            let found = found_at(&channels[0], (due_s + delay_s) * case.rate, case.rate);
            let error = found / case.rate - delay_s - due_s;
            if error.abs() > case.bound {
                faults.push(format!(
                    "{}: event at {due_s:.4} s is {:.3} ms off (picture delay {delay_s:.4} s)",
                    case.name,
                    error * 1000.0
                ));
            }
        }
    }
    // An edit list: the first 0.52 s are in the file, and no player shows them.
    let (whole, cut) = (folder.path().join("aac.mp4"), folder.path().join("edited.mp4"));
    ffmpeg(&["-ss", "0.52", "-i", whole.to_str().expect("text"), "-c", "copy"], &cut);
    let facts = probe(&cut, &Stop::default()).expect("facts");
    let channels = decoded(&cut, &facts);
    for at in &EVENTS[1..] {
        let due_s = *at as f64 / RATE as f64 - 0.52;
        let found = found_at(&channels[0], (due_s + facts.picture_delay_s()) * 48_000.0, 48_000.0);
        let error = found / 48_000.0 - facts.picture_delay_s() - due_s;
        if error.abs() > LOSSY {
            faults.push(format!("edited.mp4: event at {due_s:.4} s is {:.3} ms off", error * 1000.0));
        }
    }
    assert!(faults.is_empty(), "{}", faults.join("\n"));
}

#[test]
fn several_streams_become_one_set_of_channels_in_their_order() {
    let folder = tempfile::tempdir().expect("a folder");
    let source = source(folder.path());
    let source = source.to_str().expect("text");
    let path = folder.path().join("many.mxf");
    // Three mono streams, the second inverted, the third silent; MXF as broadcast cameras write it.
    ffmpeg(
        &[
            "-i",
            source,
            "-f",
            "lavfi",
            "-i",
            "testsrc=s=160x90:r=25:d=2",
            "-filter_complex",
            "[0:a]asplit=3[a][b][c];[b]volume=-1[n];[c]volume=0[z]",
            "-map",
            "1:v",
            "-map",
            "[a]",
            "-map",
            "[n]",
            "-map",
            "[z]",
            "-c:v",
            "mpeg2video",
            "-c:a",
            "pcm_s16le",
            "-timecode",
            "10:20:30:12",
        ],
        &path,
    );
    let facts = probe(&path, &Stop::default()).expect("facts");
    let sound = facts.sound.as_ref().expect("sound");
    assert_eq!((sound.channels, sound.streams.len(), sound.left_out), (3, 3, 0));
    assert_eq!(facts.timecode.expect("timecode").to_string(), "10:20:30:12");
    let channels = decoded(&path, &facts);
    for at in EVENTS {
        let found = found_at(&channels[0], at as f64, 48_000.0);
        assert!((found - at as f64).abs() < 1.0, "{found} for {at}");
    }
    assert!(channels[0].iter().zip(&channels[1]).all(|(a, b)| (a + b).abs() < 1e-3));
    assert!(channels[2].iter().all(|x| *x == 0.0));

    // A second stream that begins later and ends earlier keeps its time and shortens nothing; one at another rate is
    // left out and counted.
    let path = folder.path().join("late.mkv");
    ffmpeg(
        &[
            "-i",
            source,
            "-itsoffset",
            "0.5",
            "-t",
            "1",
            "-i",
            source,
            "-f",
            "lavfi",
            "-i",
            "sine=r=44100:d=1",
            "-map",
            "0:a",
            "-map",
            "1:a",
            "-map",
            "2:a",
            "-c:a",
            "pcm_s16le",
        ],
        &path,
    );
    let facts = probe(&path, &Stop::default()).expect("facts");
    let sound = facts.sound.as_ref().expect("sound");
    assert_eq!((sound.channels, sound.left_out), (2, 1));
    assert!((sound.streams[1].delay_s - 0.5).abs() < 1e-3);
    let channels = decoded(&path, &facts);
    assert!(channels[0].len() >= 2 * RATE && channels[0].len() == channels[1].len());
    let found = found_at(&channels[1], 24_000.0 + EVENTS[1] as f64, 48_000.0);
    assert!((found - 24_000.0 - EVENTS[1] as f64).abs() < 1.0, "{found}");
}

#[test]
fn stills_are_pictures_without_length() {
    let folder = tempfile::tempdir().expect("a folder");
    for name in ["card.png", "card.jpg"] {
        let path = folder.path().join(name);
        ffmpeg(&["-f", "lavfi", "-i", "testsrc=s=160x90:r=25:d=1", "-frames:v", "1"], &path);
        let facts = probe(&path, &Stop::default()).expect("facts");
        let picture = facts.picture.expect("a picture");
        assert!(picture.still && facts.sound.is_none(), "{name}");
        assert_eq!((picture.width, picture.height), (160, 90));
    }
    // A short clip is none.
    let path = folder.path().join("short.mov");
    ffmpeg(&["-f", "lavfi", "-i", "testsrc=s=160x90:r=25:d=0.08", "-c:v", "mjpeg"], &path);
    assert!(!probe(&path, &Stop::default()).expect("facts").picture.expect("a picture").still);
}

/// The stream that is matched, as listening leaves it in the cache.
fn heard(path: &Path, cache: &Cache) -> Vec<f32> {
    let facts = probe(path, &Stop::default()).expect("facts");
    let cached = cache.clip(&Fingerprint::of(path).expect("a fingerprint"));
    let heard = listen(path, facts.sound.as_ref().expect("sound"), &cached, &Stop::default(), &|_| {})
        .expect("heard");
    assert_eq!(heard.samples, 2 * RATE as u64, "{}", path.display());
    let (samples, _) = StoredSamples::open(&cached, 0).expect("stored");
    let mut all = vec![0.0; usize::try_from(samples.len()).expect("a length")];
    samples.read(0, &mut all);
    all
}

#[test]
fn uncompressed_sound_is_read_as_a_decoder_reads_it() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let source = source(folder.path());
    let source = source.to_str().expect("text");
    for (name, args) in [
        ("16", &["-c:a", "pcm_s16le"][..]),
        ("24", &["-c:a", "pcm_s24le"]),
        ("32", &["-c:a", "pcm_s32le"]),
        ("float", &["-c:a", "pcm_f32le"]),
        ("five", &["-c:a", "pcm_s24le", "-af", "pan=5.0|c0=c0|c1=0.5*c0|c2=c0|c3=c0|c4=c0"]),
        ("rf64", &["-c:a", "pcm_s24le", "-rf64", "always", "-write_bext", "1"]),
        // Forms that only a decoder reads.
        ("law", &["-c:a", "pcm_alaw"]),
        ("double", &["-c:a", "pcm_f64le"]),
    ] {
        let (wav, other) =
            (folder.path().join(format!("{name}.wav")), folder.path().join(format!("{name}.mkv")));
        ffmpeg(&[&["-i", source][..], args].concat(), &wav);
        ffmpeg(&["-i", wav.to_str().expect("text"), "-c:a", "copy"], &other);
        let (a, b) = (heard(&wav, &cache), heard(&other, &cache));
        assert_eq!(a.len(), b.len(), "{name}");
        let worst = a.iter().zip(&b).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(worst <= 1.5 / 32_000.0, "{name}: {worst}");
    }
    // Half a file: what is there is heard, and the header's promise is kept for the health note.
    let whole = fs::read(folder.path().join("24.wav")).expect("read");
    let cut = folder.path().join("cut.wav");
    fs::write(&cut, &whole[..whole.len() / 2]).expect("written");
    let sound = probe(&cut, &Stop::default()).expect("facts").sound.expect("sound");
    assert!((sound.duration_s - 1.0).abs() < 0.01, "{}", sound.duration_s);
    assert!((sound.labelled_s.expect("a label") - 2.0).abs() < 0.01);
}

/// Broadcast WAV has the date and the time of day apart: together they are when it was recorded, by its own clock. What
/// stands between the digits is left open.
#[test]
fn a_broadcast_wave_has_a_day_and_a_clock() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let stop = Stop::default();
    for (day, time) in [("2026-05-14", "09:30:15"), ("2026:05:14", "09-30-15"), ("2026 05 14", "09.30.15")] {
        let path = folder.path().join(format!("{day} {time}.wav"));
        let (date, clock) = (format!("origination_date={day}"), format!("origination_time={time}"));
        let labels = [&date, &clock, "time_reference=48000"].map(|label| ["-metadata", label]);
        let sound = ["-f", "lavfi", "-i", "anullsrc=r=48000:cl=mono", "-t", "1", "-write_bext", "1"];
        ffmpeg(&[&sound[..], &labels.concat()].concat(), &path);
        let read = metaxis_media::facts(&path, &cache.clip(&Fingerprint::of(&path).expect("read")), &stop);
        for facts in [probe(&path, &stop), read] {
            let facts = facts.expect("facts");
            assert_eq!(facts.created.as_deref(), Some("2026-05-14T09:30:15"), "{day} {time}");
            assert_eq!(facts.created_clock_s(), Some(9.0 * 3600.0 + 30.0 * 60.0 + 15.0));
            assert_eq!(facts.created_day().map(|day| day.to_string()).as_deref(), Some("2026-05-14"));
            assert_eq!(facts.time_reference_s(), Some(1.0));
        }
    }
}

/// Some cameras count 25 labels over 50 pictures a second: the track says so, and is believed.
#[test]
fn a_timecode_track_is_counted_at_its_own_rate() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("half.mov");
    let picture =
        ["-f", "lavfi", "-i", "testsrc=r=50:d=1:s=64x48", "-timecode", "09:14:02:24", "-c:v", "libx264"];
    ffmpeg(&picture, &path);
    let label = |path: &Path| probe(path, &Stop::default()).expect("a clip").timecode.expect("timecode");
    assert_eq!((label(&path).to_string(), label(&path).rate.nominal()), ("09:14:02:24".into(), 50));
    // In the track's description: four bytes each of flags, timescale and the length of a frame in it.
    let mut bytes = fs::read(&path).expect("it");
    let names = |at: &usize| &bytes[*at..*at + 4] == b"tmcd" && bytes[at + 4..at + 10] == [0; 6];
    let at = (0..bytes.len() - 40).rev().find(names).expect("a description");
    let length = at + 24..at + 28;
    let frame = u32::from_be_bytes(bytes[length.clone()].try_into().expect("four bytes"));
    bytes[length].copy_from_slice(&(2 * frame).to_be_bytes());
    bytes[at + 28] = 25;
    fs::write(&path, bytes).expect("written");
    let counted = label(&path);
    assert_eq!(counted.rate.to_string(), "25", "{counted:?}");
    // The counter's value is 24 frames of a fiftieth more than it was: at 25 a second it is another time.
    assert_eq!(counted.frames, (9 * 3600 + 14 * 60 + 2) * 50 + 24);
}
