//! Written WAV, as ffprobe and this program read it; files read back from any sample on.

use metaxis_core::{
    clip::SoundFacts,
    sound::{Depth, Samples},
    time::{FrameRate, SampleRate},
    turnover::WaveNotes,
};
use metaxis_media::{MediaError, SoundFile, Stop, WaveForm, WaveWriter, facts, find_chunk, written_uid};
use std::{
    fs::{self, File},
    io::{Seek, SeekFrom, Write},
    path::Path,
    process::Command,
};

fn notes(tracks: usize, uid: &str) -> WaveNotes {
    WaveNotes {
        project: "P".into(),
        scene: None,
        take: None,
        tape: None,
        circled: false,
        notes: None,
        belongs_to: "A001.mov".into(),
        created: None,
        timecode: Some((FrameRate::FPS_25, false)),
        rate: SampleRate(48_000),
        bits: 24,
        time_reference: 48_000,
        tracks: (1..=tracks).map(|number| format!("Track {number}")).collect(),
        uid: uid.into(),
        set: None,
        history: vec![],
    }
}

/// A value for every sample of every track that 24 bits hold exactly.
fn value(track: usize, sample: usize) -> f32 {
    let steps = ((sample * 7_919 + track * 104_729) % 16_000_000) as f32 - 8_000_000.0;
    steps / 8_388_608.0
}

fn write(path: &Path, tracks: usize, samples: usize, depth: Depth) -> Result<(), MediaError> {
    let form = WaveForm { rate: 48_000, channels: tracks as u16, depth, samples: samples as u64 };
    let notes = notes(tracks, "the uid");
    let mut writer = WaveWriter::create(path, form, &notes.bext(), &notes.ixml(), false)?;
    for from in (0..samples).step_by(1_000) {
        let count = 1_000.min(samples - from);
        let all: Vec<Vec<f32>> =
            (0..tracks).map(|track| (from..from + count).map(|i| value(track, i)).collect()).collect();
        writer.write(&all)?;
    }
    writer.finish(false).map(|_| ())
}

fn sound_of(path: &Path) -> SoundFacts {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = metaxis_media::Cache::open(folder.path()).expect("a cache");
    let print = metaxis_media::Fingerprint::of(path).expect("a file");
    facts(path, &cache.clip(&print), &Stop::default()).expect("facts").sound.expect("sound")
}

fn read(sound: &mut SoundFile, from: i64, count: usize) -> Result<Vec<Vec<f32>>, MediaError> {
    let mut out = vec![vec![9.0; count]; sound.channels()];
    sound.read(from, &mut out)?;
    Ok(out)
}

#[test]
fn what_is_written_is_read_back_to_the_bit() {
    let folder = tempfile::tempdir().expect("a folder");
    for (name, tracks, depth) in
        [("24.wav", 5, Depth::Pcm24), ("f.wav", 1, Depth::Float32), ("odd.wav", 1, Depth::Pcm24)]
    {
        let path = folder.path().join("below").join(name);
        write(&path, tracks, 4_321, depth).expect("written");
        let facts = sound_of(&path);
        assert_eq!((facts.channels as usize, facts.rate.0), (tracks, 48_000));
        assert_eq!(facts.channel_names.len(), tracks);
        let mut sound = SoundFile::open(&path, &facts, &Stop::default()).expect("opened");
        let all = read(&mut sound, -10, 4_341).expect("read");
        for (track, all) in all.iter().enumerate() {
            let expected = |i: usize| if (10..4_331).contains(&i) { value(track, i - 10) } else { 0.0 };
            assert!(all.iter().enumerate().all(|(i, own)| *own == expected(i)), "{name}");
        }
        let form = WaveForm { rate: 48_000, channels: tracks as u16, depth, samples: 4_321 };
        assert_eq!(written_uid(&path, form).as_deref(), Some("the uid"));
        assert_eq!(written_uid(&path, WaveForm { samples: 4_322, ..form }), None);
    }
}

#[test]
fn a_name_that_is_taken_and_a_writer_that_is_dropped_leave_everything_as_it_was() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("a.wav");
    fs::write(&path, b"mine").expect("written");
    assert!(matches!(write(&path, 1, 100, Depth::Pcm24), Err(MediaError::Taken { .. })));
    assert_eq!(fs::read(&path).expect("read"), b"mine");
    let form = WaveForm { rate: 48_000, channels: 1, depth: Depth::Pcm24, samples: 100 };
    let other = folder.path().join("b.wav");
    let writer = WaveWriter::create(&other, form, &[], &[], false).expect("begun");
    // Two at once is one too many.
    assert!(matches!(WaveWriter::create(&other, form, &[], &[], true), Err(MediaError::Write { .. })));
    drop(writer);
    // It comes up while the file is being written.
    let writer = WaveWriter::create(&other, form, &[], &[], false).expect("begun");
    fs::write(&other, b"faster").expect("written");
    assert!(matches!(writer.finish(false), Err(MediaError::Taken { .. })));
    assert_eq!(fs::read(&other).expect("read"), b"faster");
    assert_eq!(fs::read_dir(folder.path()).expect("a folder").count(), 2);
    // What a program that was killed left behind is in nobody's way.
    let third = folder.path().join("c.wav");
    fs::write(folder.path().join("c.wav.part"), vec![1; 100_000]).expect("written");
    write(&third, 1, 100, Depth::Pcm24).expect("written");
    assert_eq!((sound_of(&third).duration_s * 48_000.0).round(), 100.0);
    // A name that no disk takes is refused before anything is written.
    let long = folder.path().join(format!("{}.wav", "n".repeat(252)));
    let said = write(&long, 1, 100, Depth::Pcm24).expect_err("refused").to_string();
    assert!(said.contains("cannot be written") && said.contains("does not take such a name"), "{said}");
}

#[test]
fn what_is_too_loud_is_cut_off_and_counted() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("loud.wav");
    let form = WaveForm { rate: 48_000, channels: 1, depth: Depth::Pcm24, samples: 4 };
    let mut writer = WaveWriter::create(&path, form, &[], &[], false).expect("begun");
    writer.write(&[vec![1.5, -1.0, -2.0, 0.5]]).expect("written");
    let written = writer.finish(false).expect("finished");
    assert_eq!((written.clipped, &written.peaks[..]), (2, &[2.0][..]));
    let mut sound = SoundFile::open(&path, &sound_of(&path), &Stop::default()).expect("opened");
    assert_eq!(read(&mut sound, 0, 4).expect("read")[0], [8_388_607.0 / 8_388_608.0, -1.0, -1.0, 0.5]);
}

#[test]
fn beyond_four_gigabytes_it_is_rf64_and_read_by_others() {
    // A file of nothing but its beginning and its length: the disk holds no zeros.
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("long.wav");
    let samples = 200_000_000_u64;
    let form = WaveForm { rate: 48_000, channels: 8, depth: Depth::Pcm24, samples };
    let notes = notes(8, "long");
    let head = metaxis_media::wave_head(form, &notes.bext(), &notes.ixml());
    let mut file = File::create(&path).expect("a file");
    file.write_all(&head).expect("written");
    file.set_len(head.len() as u64 + form.data_bytes()).expect("as long");
    file.seek(SeekFrom::End(-24)).expect("sought");
    file.write_all(&[1; 24]).expect("written");
    drop(file);
    assert_eq!(&head[..4], b"RF64");
    let probe = Command::new("ffprobe")
        .args([
            "-v",
            "error",
            "-of",
            "csv=p=0",
            "-show_entries",
            "stream=duration_ts,channels:format_tags=time_reference",
        ])
        .arg(&path)
        .output()
        .expect("ffprobe");
    assert_eq!(String::from_utf8_lossy(&probe.stdout), "8,200000000\n48000\n");
    let facts = sound_of(&path);
    let mut sound = SoundFile::open(&path, &facts, &Stop::default()).expect("opened");
    let last = read(&mut sound, samples as i64 - 2, 3).expect("read");
    assert!(last.iter().all(|track| track[0] == 0.0 && track[1] > 0.0 && track[2] == 0.0));
    assert!(find_chunk(&path, *b"iXML", 1 << 20).expect("read").is_some());
    // One sample less than what plain RIFF holds is plain.
    let most = u64::from(u32::MAX) / 24 - 1_000;
    assert_eq!(&metaxis_media::wave_head(WaveForm { samples: most, ..form }, &[], &[])[..4], b"RIFF");
}

#[test]
fn coded_sound_is_read_from_any_sample_and_says_where_it_ends() {
    let folder = tempfile::tempdir().expect("a folder");
    let plain = folder.path().join("plain.wav");
    write(&plain, 2, 300_000, Depth::Pcm24).expect("written");
    let coded = folder.path().join("coded.flac");
    let made = Command::new("ffmpeg")
        .args(["-nostdin", "-loglevel", "error", "-i"])
        .arg(&plain)
        .args(["-c:a", "flac"])
        .arg(&coded)
        .status()
        .expect("ffmpeg");
    assert!(made.success());
    let facts = sound_of(&coded);
    let mut sound = SoundFile::open(&coded, &facts, &Stop::default()).expect("opened");
    // On, back a little, back to the beginning, and beyond the end.
    for from in [100_i64, 90_000, 80_000, 250_000, 0, 299_990] {
        let piece = read(&mut sound, from, 20).expect("read");
        for (track, piece) in piece.iter().enumerate() {
            let expected = |i: usize| if i < 300_000 { value(track, i) } else { 0.0 };
            assert!(piece.iter().enumerate().all(|(i, own)| *own == expected(from as usize + i)), "{from}");
        }
    }
    // Cut off behind a container that promises more.
    let bytes = fs::read(&coded).expect("read");
    let half = folder.path().join("half.flac");
    fs::write(&half, &bytes[..bytes.len() / 2]).expect("written");
    let mut sound = SoundFile::open(&half, &facts, &Stop::default()).expect("opened");
    let said = (0..30)
        .find_map(|piece| read(&mut sound, piece * 10_000, 10_000).err())
        .expect("an error")
        .to_string();
    assert!(
        said.contains("half.flac") && (said.contains("its sound ends after") || said.contains("failed on")),
        "{said}"
    );
    // A plain file that lost its end since it was taken in.
    let bytes = fs::read(&plain).expect("read");
    let facts = sound_of(&plain);
    fs::write(&plain, &bytes[..bytes.len() - 600]).expect("written");
    assert!(matches!(SoundFile::open(&plain, &facts, &Stop::default()), Err(MediaError::Changed { .. })));
}
