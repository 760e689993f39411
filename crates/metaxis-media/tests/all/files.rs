//! Reading files: good, bad and hostile ones.

use metaxis_core::{
    clip::{ColourFacts, SpeedLabels},
    signal::LISTEN_RATE,
    sync::SampleSource,
};
use metaxis_media::{
    Cache, Fingerprint, Ixml, MediaError, Stop, StoredSamples, Tool, append_chunk, channel_piece, facts,
    find_chunk, listen, make_proxy, make_small, parse_ixml, probe, still_holds, unconfined, walk,
};
use std::{
    fs,
    os::unix::fs::symlink,
    path::{Path, PathBuf},
    process::Command,
};

/// A second of a click at a tenth of a second in noise, as 16-bit WAV at `rate` with `channels`.
fn wav(path: &Path, rate: u32, channels: u32) {
    let source = format!("aevalsrc=exprs='if(between(n,{0},{0}),0.9,0)':s={rate}:d=1", rate / 10);
    let status = Command::new("ffmpeg")
        .args([
            "-nostdin",
            "-loglevel",
            "error",
            "-y",
            "-f",
            "lavfi",
            "-i",
            &source,
            "-ac",
            &channels.to_string(),
        ])
        .arg(format!("file:{}", path.display()))
        .status()
        .expect("ffmpeg");
    assert!(status.success());
}

/// A piece of one channel is what the whole of it has there, whatever the coder and wherever it begins.
#[test]
fn a_piece_of_a_channel_lies_where_the_channel_lies() {
    let folder = tempfile::tempdir().expect("a folder");
    let rate = LISTEN_RATE as usize;
    for (name, extra) in [
        ("two.wav", &[][..]),
        ("two.m4a", &["-c:a", "aac", "-b:a", "256k"][..]),
        ("two.mkv", &["-c:a", "pcm_s16le", "-output_ts_offset", "0.7"][..]),
    ] {
        let path = folder.path().join(name);
        // Left a sweep, right silence with a click at 2.5 s.
        let source = "aevalsrc=exprs='0.4*sin(400*t*t)|0.9*between(n,120000,120040)':s=48000:d=4";
        let status = Command::new("ffmpeg")
            .args(["-nostdin", "-loglevel", "error", "-y", "-f", "lavfi", "-i", source])
            .args(extra)
            .arg(format!("file:{}", path.display()))
            .status()
            .expect("ffmpeg");
        assert!(status.success());
        let facts = probe(&path, &Stop::default()).expect("facts");
        let sound = facts.sound.expect("sound");
        let piece = |channel: usize, from_s: f64, count: usize| {
            channel_piece(&path, &sound, channel, (from_s, count), &Stop::default()).expect("a piece")
        };
        let whole = piece(0, 0.0, 4 * rate).expect("the left");
        for from in [0, 7, 20_000, 41_000] {
            let part = piece(0, from as f64 / rate as f64, 4_000).expect("the left");
            // At the edges of a piece the filter that makes the lower rate knows less.
            let off = (100..3_900).map(|i| (part[i] - whole[from + i]).abs()).fold(0.0, f32::max);
            // Matroska counts milliseconds: there a seek is no more exact than half of one.
            assert!(off < 2e-3 || name.ends_with("mkv"), "{name} from {from}: {off}");
        }
        let click = piece(1, 2.25, rate / 2).expect("the right");
        let peak =
            (0..click.len()).max_by(|&a, &b| click[a].abs().total_cmp(&click[b].abs())).expect("a peak");
        assert!(peak.abs_diff(rate / 4) < 20, "{name}: {peak}");
        // Silence before it begins and after it ends; no channel that is not there.
        let before = piece(0, -0.5, rate).expect("the left");
        assert!(before[..rate / 2 - 8].iter().all(|value| *value == 0.0), "{name}");
        let off = (100..7_900).map(|i| (before[rate / 2 + i] - whole[i]).abs()).fold(0.0, f32::max);
        assert!(off < 2e-3, "{name}: {off}");
        assert!(piece(0, 9.0, 100).expect("the left").iter().all(|value| *value == 0.0));
        assert_eq!(piece(2, 0.0, 100), None);
    }
}

#[test]
fn the_listening_stream_lies_where_the_sound_lies() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    for (rate, channels) in [(48_000, 1), (44_100, 2), (96_000, 1), (16_000, 1)] {
        let path = folder.path().join(format!("{rate}.wav"));
        wav(&path, rate, channels);
        let facts = probe(&path, &Stop::default()).expect("facts");
        let sound = facts.sound.clone().expect("sound");
        assert_eq!((sound.rate.0, sound.channels), (rate, channels));
        let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
        let heard = listen(&path, &sound, &cached, &Stop::default(), &|_| {}).expect("heard");
        assert_eq!(heard.samples, u64::from(rate));
        let (samples, bands) = StoredSamples::open(&cached, 0).expect("stored");
        assert_eq!(samples.len(), u64::from(LISTEN_RATE), "as long as the file at {rate}");
        assert!((99..=101).contains(&bands.frames()), "{}", bands.frames());
        let mut all = vec![0.0; LISTEN_RATE as usize + 200];
        samples.read(-100, &mut all);
        let peak = (0..all.len()).max_by(|&a, &b| all[a].abs().total_cmp(&all[b].abs())).expect("a peak");
        // Centre of gravity about the peak: where the click is to a fraction of a sample.
        let around = peak - 8..=peak + 8;
        let weight: f64 = around.clone().map(|i| f64::from(all[i]).powi(2)).sum();
        let centre = around.map(|i| f64::from(all[i]).powi(2) * i as f64).sum::<f64>() / weight - 100.0;
        assert!((centre - 1600.0).abs() < 0.1, "{rate}: {centre}");
        // The second time nothing is decoded: the file may even be gone.
        fs::remove_file(&path).expect("removed");
        assert_eq!(listen(&path, &sound, &cached, &Stop::default(), &|_| {}).expect("from the cache"), heard);
    }
}

#[test]
fn hostile_names_are_only_names() {
    let folder = tempfile::tempdir().expect("a folder");
    for name in ["-i.wav", "a b.wav", "q\"uo'te$(touch x).wav", "ünï☃.wav", "concat:x|y.wav", "100%d.wav"]
    {
        let path = folder.path().join(name);
        wav(&path, 48_000, 1);
        let facts = probe(&path, &Stop::default()).unwrap_or_else(|e| panic!("{name}: {e}"));
        assert!((facts.duration_s - 1.0).abs() < 1e-6, "{name}");
    }
    assert_eq!(fs::read_dir(folder.path()).expect("a folder").count(), 6, "nothing was executed");
}

#[test]
fn bad_files_are_errors_that_name_the_file() {
    let folder = tempfile::tempdir().expect("a folder");
    let put = |name: &str, bytes: &[u8]| -> PathBuf {
        let path = folder.path().join(name);
        fs::write(&path, bytes).expect("written");
        path
    };
    let probe = |path: &Path| probe(path, &Stop::default()).expect_err("bad");
    let empty = probe(&put("empty.mov", b""));
    assert!(matches!(empty, MediaError::Empty { .. }) && empty.to_string().contains("empty.mov"));
    let text = probe(&put("text.wav", b"This is no sound at all.\n"));
    assert!(matches!(text, MediaError::Damaged { .. }) && text.to_string().contains("text.wav"), "{text}");
    let cut = probe(&put("cut.mp4", &[0, 0, 0, 24, b'f', b't', b'y', b'p', b'i', b's', b'o', b'm', 0, 0]));
    assert!(matches!(cut, MediaError::Damaged { .. }), "{cut}");
    assert!(matches!(probe(&folder.path().join("gone.wav")), MediaError::Read { .. }));
}

#[test]
fn a_stop_ends_a_running_tool() {
    let stop = Stop::default();
    stop.stop();
    let endless =
        Tool::ffmpeg(Path::new("none")).args(["-re", "-f", "lavfi", "-i", "anullsrc", "-f", "null", "-"]);
    assert!(matches!(endless.output(10, &stop), Err(MediaError::Stopped)));
}

#[test]
fn a_walk_finds_what_is_there_and_follows_no_link_out() {
    let folder = tempfile::tempdir().expect("a folder");
    let outside = tempfile::tempdir().expect("a folder");
    fs::write(outside.path().join("secret.wav"), b"x").expect("written");
    let root = folder.path();
    fs::create_dir_all(root.join("A_CAM/DCIM/100")).expect("made");
    for name in ["A_CAM/DCIM/100/one.MOV", "A_CAM/notes.txt", ".hidden.wav", "single.wav"] {
        fs::write(root.join(name), b"x").expect("written");
    }
    symlink(outside.path(), root.join("B_CAM")).expect("a link");
    symlink(outside.path().join("secret.wav"), root.join("link.wav")).expect("a link");
    let found = walk(root);
    let media: Vec<(&str, &str)> =
        found.media.iter().map(|e| (e.relative.as_str(), e.device_guess())).collect();
    assert_eq!(media, [("A_CAM/DCIM/100/one.MOV", "A_CAM"), ("single.wav", "single.wav")]);
    let skipped: Vec<&str> = found.skipped.iter().map(|(path, _)| path.as_str()).collect();
    assert_eq!(skipped, ["A_CAM/notes.txt", "B_CAM", "link.wav"]);
}

#[test]
fn ixml_is_read_and_found_in_its_chunk() {
    let text = "<?xml version=\"1.0\"?><BWFXML><SCENE>2 &amp; 3</SCENE><TAKE>1</TAKE><CIRCLED>TRUE</CIRCLED><TAPE>R1</TAPE><FILE_UID>7</FILE_UID>\
                <TRACK_LIST><TRACK><NAME>Mix L</NAME></TRACK><TRACK><NAME>Boom</NAME></TRACK></TRACK_LIST></BWFXML>\0\0";
    let expected = Ixml {
        scene: Some("2 & 3".into()),
        take: Some("1".into()),
        notes: None,
        tape: Some("R1".into()),
        uid: Some("7".into()),
        circled: true,
        tracks: vec!["Mix L".into(), "Boom".into()],
        speed: SpeedLabels::default(),
    };
    assert_eq!(parse_ixml(text.as_bytes()), expected);
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("a.wav");
    wav(&path, 48_000, 1);
    append_chunk(&path, *b"iXML", text.as_bytes()).expect("appended");
    assert_eq!(find_chunk(&path, *b"iXML", 10_000).expect("read").as_deref(), Some(text.as_bytes()));
    assert_eq!(find_chunk(&path, *b"iXML", 10).expect("read"), None, "too long for the limit");
    assert!((probe(&path, &Stop::default()).expect("still a WAV").duration_s - 1.0).abs() < 1e-6);
}

/// Two channels of noise, the same or not.
fn stereo(path: &Path, left: &str, right: &str) {
    // It comes and goes: steady noise is nothing to match.
    let noise = |seed: &str| format!("anoisesrc=r=48000:d=3:c=pink:a=0.3:s={seed},tremolo=f=2:d=0.9");
    let status = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-y", "-f", "lavfi", "-i", &noise(left)])
        .args(["-f", "lavfi", "-i", &noise(right), "-filter_complex", "[0][1]amerge"])
        .arg(format!("file:{}", path.display()))
        .status()
        .expect("ffmpeg");
    assert!(status.success());
}

#[test]
fn channels_that_hear_different_things_are_sounds_of_their_own_on_disk() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    for (name, right, sounds) in [("same.wav", "1", 1), ("other.wav", "2", 3)] {
        let path = folder.path().join(name);
        stereo(&path, "1", right);
        let sound = probe(&path, &Stop::default()).expect("facts").sound.expect("sound");
        let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
        let heard = listen(&path, &sound, &cached, &Stop::default(), &|_| {}).expect("heard");
        assert_eq!((heard.mixes.len(), &heard.used[..]), (sounds, &[0, 1][..]), "{name}");
        for sound in 0..sounds {
            let (samples, _) = StoredSamples::open(&cached, sound).expect("stored");
            assert_eq!(samples.len(), 3 * u64::from(LISTEN_RATE));
        }
        assert!(StoredSamples::open(&cached, sounds).is_err());
    }
}

/// A channel is written from where there is something on it; what begins late is heard all the same.
#[test]
fn a_microphone_plugged_in_late_takes_part() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let path = folder.path().join("late.wav");
    let late = "aevalsrc=exprs=0|'if(gt(t,21),0.3*sin(2*PI*t*(300+200*sin(t*7))),0)':s=16000:d=24";
    let status = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-y", "-f", "lavfi", "-i", late])
        .arg(&path)
        .status()
        .expect("ffmpeg");
    assert!(status.success());
    let sound = probe(&path, &Stop::default()).expect("facts").sound.expect("sound");
    let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
    let heard = listen(&path, &sound, &cached, &Stop::default(), &|_| {}).expect("heard");
    assert_eq!((heard.mixes.len(), &heard.used[..], heard.samples), (1, &[1][..], 24 * 16_000));
    let (samples, _) = StoredSamples::open(&cached, 0).expect("stored");
    let mut end = vec![0.0; 16_000];
    samples.read(22 * 16_000, &mut end);
    assert!(end.iter().any(|value| value.abs() > 0.2), "it is in what is matched");
}

#[test]
fn a_cache_that_lost_a_part_is_made_again() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let path = folder.path().join("a.wav");
    wav(&path, 48_000, 1);
    let sound = probe(&path, &Stop::default()).expect("facts").sound.expect("sound");
    let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
    let hear = || listen(&path, &sound, &cached, &Stop::default(), &|_| {}).expect("heard");
    let first = hear();
    // As an older release left it: what was heard, but not where it lies now.
    fs::remove_file(cached.samples(0)).expect("removed");
    assert_eq!(hear(), first);
    assert!(StoredSamples::open(&cached, 0).is_ok());
    // As after a power cut: the name is there, its bytes are not.
    for spoilt in [cached.samples(0), cached.bands(0), cached.levels(), cached.peaks(0)] {
        let whole = fs::read(&spoilt).expect("a file");
        fs::write(&spoilt, b"").expect("emptied");
        assert_eq!(hear(), first);
        assert_eq!(fs::read(&spoilt).expect("a file"), whole, "{}", spoilt.display());
    }
    // The same length with other bytes: found before anything is matched.
    let whole = fs::read(cached.samples(0)).expect("a file");
    assert!(still_holds(&cached));
    fs::write(cached.samples(0), vec![0; whole.len()]).expect("zeroed");
    assert!(!still_holds(&cached));
    assert_eq!(hear(), first);
    assert_eq!(fs::read(cached.samples(0)).expect("a file"), whole);
}

#[test]
fn a_light_copy_that_is_not_whole_is_made_again() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let path = folder.path().join("a.mov");
    let made = Command::new("ffmpeg")
        .args(["-v", "error", "-f", "lavfi", "-i", "testsrc=size=64x48:rate=25:duration=1"])
        .arg(&path)
        .status();
    assert!(made.expect("ffmpeg").success());
    let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
    make_proxy(&path, &ColourFacts::default(), &cached, &Stop::default()).expect("made");
    assert!(cached.is_whole(&cached.proxy()));
    let whole = fs::read(cached.proxy()).expect("a file");
    fs::write(cached.proxy(), &whole[..whole.len() / 2]).expect("cut off");
    assert!(!cached.is_whole(&cached.proxy()));
    make_proxy(&path, &ColourFacts::default(), &cached, &Stop::default()).expect("made again");
    assert!(cached.is_whole(&cached.proxy()));
    assert_eq!(fs::read(cached.proxy()).expect("a file").len(), whole.len());
}

#[test]
fn a_smaller_copy_has_the_same_frames_at_the_same_times() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let path = folder.path().join("a.mp4");
    // At varying times: every third frame is missing.
    let made = Command::new("ffmpeg")
        .args(["-v", "error", "-f", "lavfi", "-i", "testsrc=size=960x540:rate=30:duration=2"])
        .args(["-vf", "select=mod(n\\,3)", "-fps_mode", "vfr"])
        .arg(&path)
        .status();
    assert!(made.expect("ffmpeg").success());
    let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
    let stop = Stop::default();
    make_small(&cached, &stop).expect("nothing to do");
    assert!(!cached.small().exists(), "there is nothing to make it of");
    make_proxy(&path, &ColourFacts::default(), &cached, &stop).expect("made");
    make_small(&cached, &stop).expect("made");
    assert!(cached.is_whole(&cached.small()));
    let said = |path: &Path, what: &str| {
        let out = Command::new("ffprobe")
            .args(["-v", "error", "-select_streams", "v", "-of", "csv=p=0", "-show_entries", what])
            .arg(path)
            .output()
            .expect("ffprobe");
        String::from_utf8(out.stdout).expect("text")
    };
    let times = said(&cached.proxy(), "frame=pts_time");
    let lines = times.lines().map(|own| own.trim_end_matches(',')).filter(|own| !own.is_empty());
    let times_s: Vec<f64> = lines.map(|own| own.parse().expect("a time")).collect();
    let steps = || times_s.windows(2).map(|pair| pair[1] - pair[0]);
    assert!(times_s.len() >= 40 && steps().any(|own| own > 0.05) && steps().any(|own| own < 0.04), "{times}");
    assert_eq!(said(&cached.small(), "frame=pts_time"), times);
    assert_eq!(said(&cached.small(), "stream=width,height").trim(), "320,180");
}

#[test]
fn what_a_file_says_is_asked_once_for_each_content() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let path = folder.path().join("a.wav");
    wav(&path, 48_000, 1);
    let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
    let first = facts(&path, &cached, &Stop::default()).expect("facts");
    // The answer is there though the file is not.
    let gone = folder.path().join("gone.wav");
    assert_eq!(facts(&gone, &cached, &Stop::default()).expect("kept"), first);
    // An answer that cannot be read is asked for again.
    cached.keep("facts", &"of another release").expect("written");
    assert_eq!(facts(&path, &cached, &Stop::default()).expect("asked again"), first);
    cached.keep("facts", &"of another release").expect("written");
    assert!(matches!(facts(&gone, &cached, &Stop::default()), Err(MediaError::Read { .. })));
}

#[test]
fn what_reads_a_file_reads_no_other() {
    let folder = tempfile::tempdir().expect("a folder");
    let (own, other) = (folder.path().join("own.wav"), folder.path().join("other.wav"));
    wav(&own, 48_000, 1);
    wav(&other, 48_000, 1);
    let decode = |named: &Path, opened: &Path| {
        let tool = Tool::ffmpeg(named).args(["-i"]).file(opened);
        tool.args(["-f", "s16le", "pipe:1"]).output(1 << 20, &Stop::default())
    };
    assert!(decode(&own, &own).is_ok_and(|samples| !samples.is_empty()));
    match unconfined() {
        // As if a fault in a decoder, or a trick in a file, had made it open what it wants.
        None => assert!(decode(&own, &other).is_err(), "it read another file than the one it was given"),
        Some(why) => eprintln!("not tested: {why}"),
    }
}
