//! Films: coded in every way that is offered, read back by ffprobe and frame by frame; broken off and gone on with.

use metaxis_core::{
    clip::{ClipFacts, PictureFacts},
    film::{Codec, FilmForm, Grade, Wrapper},
    lut::Lut,
    time::FrameRate,
};
use metaxis_media::{
    Coded, Copied, FilmSpec, FilmWriter, FilmWritten, FrameTimes, Joined, MediaError, Pictures, Pixels,
    SoundTrack, Stop, codecs_offered, probe, written_picture_uid,
};
use std::{
    cell::Cell,
    fs,
    path::{Path, PathBuf},
    process::Command,
};

const SIZE: (u32, u32) = (320, 240);
const FRAMES: i64 = 60;

/// A frame whose brightness says its number: bits as blocks of 32 pixels.
fn frame(number: i64, pixels: Pixels) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(pixels.bytes());
    let mut put = |own: u16| {
        if pixels.deep { bytes.extend((own << 2).to_le_bytes()) } else { bytes.push(own as u8) }
    };
    let (width, height) = (pixels.width as usize, pixels.height as usize);
    for _ in 0..height {
        for x in 0..width {
            put(if number >> (x / 32) & 1 == 1 { 200 } else { 40 });
        }
    }
    let rows = if pixels.every_row { height } else { height / 2 };
    for _ in 0..2 * (width / 2) * rows {
        put(128);
    }
    bytes
}

/// The number that a frame of brightness says.
fn number(luma: &[u8]) -> i64 {
    (0..10).filter(|bit| luma[bit * 32 + 16] > 120).map(|bit| 1 << bit).sum()
}

fn numbers(path: &Path) -> Vec<i64> {
    let (width, height) = SIZE;
    let args =
        ["-v", "error", "-i", path.to_str().expect("text"), "-map", "0:V:0", "-fps_mode", "passthrough"];
    let out = Command::new("ffmpeg")
        .args(args)
        .args(["-vf", "scale=out_range=tv,format=gray", "-f", "rawvideo", "-"])
        .output()
        .expect("a run");
    assert!(out.status.success(), "{}", String::from_utf8_lossy(&out.stderr));
    out.stdout.chunks_exact((width * height) as usize).map(number).collect()
}

fn said(path: &Path, what: &str) -> String {
    let args =
        ["-v", "error", "-of", "default=nw=1:nk=1", "-show_entries", what, path.to_str().expect("text")];
    let out = Command::new("ffprobe").args(args).output().expect("a run");
    String::from_utf8_lossy(&out.stdout).trim().to_owned()
}

/// Three channels of a click every half second, each at its own loudness.
fn wave(folder: &Path) -> PathBuf {
    let path = folder.join("own.wav");
    let expression = "if(lt(mod(t\\,0.5)\\,0.002)\\,A\\,0)+0.02*sin(2*PI*(300+200*t)*t)";
    let channel = |loud: &str| expression.replace('A', loud);
    let source = format!(
        "aevalsrc={}|{}|{}:s=48000:d={}",
        channel("0.8"),
        channel("0.5"),
        channel("-0.4"),
        FRAMES as f64 / 25.0
    );
    let done = Command::new("ffmpeg")
        .args(["-v", "error", "-f", "lavfi", "-i", &source, "-c:a", "pcm_s24le"])
        .arg(&path)
        .output()
        .expect("a run");
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    path
}

fn spec(form: FilmForm, sound: Option<PathBuf>) -> FilmSpec {
    let tracks = vec![
        SoundTrack { name: "Mix".into(), channels: 0..2 },
        SoundTrack { name: "Größe".into(), channels: 2..3 },
    ];
    FilmSpec {
        form,
        size: SIZE,
        rate: FrameRate::FPS_25,
        frames: FRAMES,
        timecode: Some("10:11:12:13".into()),
        notes: vec![("title".into(), "1 / 1".into())],
        sound: sound.map(|path| (path, tracks)),
        uid: format!("uid of {form:?}"),
        piece_s: 1.0,
        profile: None,
    }
}

fn write_piece(film: &FilmWriter, number: usize) -> Result<(), MediaError> {
    let (from, to) = film.pieces()[number];
    let mut piece = film.piece_writer(number)?;
    for own in from..to {
        piece.write(&frame(own, film.pixels()))?;
    }
    piece.finish(vec![format!("piece {number}")])
}

/// Joins a film of which nothing is copied, or all that is to be copied can be.
fn joined(film: &FilmWriter) -> Result<FilmWritten, MediaError> {
    match film.join(&|_| {}, &|| Ok(()))? {
        Joined::Whole(own) => Ok(own),
        Joined::NotCopied(pieces) => panic!("{pieces:?} were not copied"),
    }
}

#[test]
fn every_codec_that_is_offered_goes_into_everything_that_holds_it() {
    let folder = tempfile::tempdir().expect("a folder");
    let sound = wave(folder.path());
    let offered = codecs_offered();
    assert!(offered.contains(&Codec::H264), "{offered:?}");
    for codec in offered {
        for wrapper in codec.wrappers().iter().copied() {
            let form = FilmForm { codec, wrapper, ..FilmForm::default() };
            let target = folder.path().join(format!("{codec:?} {wrapper:?}.{}", wrapper.extension()));
            let film = FilmWriter::begin(&target, spec(form, Some(sound.clone())), false, &Stop::default())
                .expect("a film");
            assert_eq!(film.pieces(), [(0, 25), (25, 50), (50, 60)]);
            (0..3).for_each(|number| write_piece(&film, number).expect("a piece"));
            let written = joined(&film).unwrap_or_else(|e| panic!("{codec:?} in {wrapper:?}: {e}"));
            let apart = apart_of(&target, wrapper);
            let all: u64 =
                apart.iter().chain([&target]).map(|own| fs::metadata(own).expect("there").len()).sum();
            assert_eq!(written.bytes, all);
            let all: Vec<i64> = (0..FRAMES).collect();
            assert_eq!(numbers(&target), all, "{codec:?} in {wrapper:?}");
            let facts = probe(&target, &Stop::default()).expect("facts");
            let picture = facts.picture.as_ref().expect("a picture");
            assert_eq!((picture.rate, picture.width, picture.height), (FrameRate::FPS_25, 320, 240));
            assert!(picture.constant_rate && (picture.duration_s - 2.4).abs() < 0.002, "{picture:?}");
            assert_eq!(
                facts.timecode.map(|own| own.to_string()).as_deref(),
                Some("10:11:12:13"),
                "{wrapper:?}"
            );
            let channels = |facts: &ClipFacts| facts.sound.as_ref().map_or(0, |own| own.channels);
            let beside: u32 = apart
                .iter()
                .map(|own| {
                    let facts = probe(own, &Stop::default()).expect("facts");
                    assert!(said(own, "format_tags").contains("10:11:12:13") && facts.picture.is_none());
                    channels(&facts)
                })
                .sum();
            assert_eq!(channels(&facts) + beside, 3, "{codec:?} in {wrapper:?}");
            assert_eq!(apart.len(), if wrapper == Wrapper::Atom { 3 } else { 0 }, "{apart:?}");
            let uid = written_picture_uid(&target, &Stop::default());
            assert_eq!(uid.as_deref(), Some(film.uid()), "{codec:?} in {wrapper:?}");
            if !wrapper.is_mxf() {
                assert!(said(&target, "stream_tags").contains("Größe"), "{wrapper:?}");
            }
            // Nothing is left beside it.
            let hidden = |own: &fs::DirEntry| own.file_name().to_string_lossy().starts_with('.');
            assert!(!fs::read_dir(folder.path()).expect("a folder").flatten().any(|own| hidden(&own)));
        }
    }
}

/// The sound that lies beside a film, where what holds that holds one thing alone.
fn apart_of(target: &Path, wrapper: Wrapper) -> Vec<PathBuf> {
    let stem = target.file_stem().and_then(|own| own.to_str()).expect("text");
    let beside = fs::read_dir(target.parent().expect("a folder")).expect("a folder").flatten();
    let is_its = |own: &PathBuf| {
        let name = own.file_name().and_then(|own| own.to_str()).unwrap_or_default();
        wrapper == Wrapper::Atom && name.starts_with(&format!("{stem} A0"))
    };
    beside.map(|own| own.path()).filter(is_its).collect()
}

#[test]
fn what_was_made_before_it_was_broken_off_is_taken_over() {
    let folder = tempfile::tempdir().expect("a folder");
    let target = folder.path().join("line.mov");
    let begin = || {
        FilmWriter::begin(&target, spec(FilmForm::default(), None), false, &Stop::default()).expect("a film")
    };
    let film = begin();
    write_piece(&film, 0).expect("a piece");
    let (from, _) = film.pieces()[1];
    let mut broken = film.piece_writer(1).expect("a piece");
    broken.write(&frame(from, film.pixels())).expect("a frame");
    drop(broken);
    drop(film);
    assert!(!target.exists(), "half a film has the name of a whole one");
    let film = begin();
    assert_eq!([0, 1, 2].map(|number| film.is_there(number)), [true, false, false]);
    write_piece(&film, 1).expect("a piece");
    write_piece(&film, 2).expect("a piece");
    // What was to be said of a piece is said, whoever made it.
    assert_eq!(film.remarks(), ["piece 0", "piece 1", "piece 2"]);
    joined(&film).expect("a film");
    assert_eq!(numbers(&target), (0..FRAMES).collect::<Vec<_>>());
    // Another film is not made of its pieces, and takes its name only where that is wanted.
    let fine = FilmForm { grade: Grade::Fine, ..FilmForm::default() };
    let again = FilmWriter::begin(&target, spec(fine, None), false, &Stop::default());
    assert!(matches!(again.err(), Some(MediaError::Taken { .. })));
    let again = FilmWriter::begin(&target, spec(fine, None), true, &Stop::default()).expect("a film");
    assert!(!again.is_there(0));
    // Nobody wants it any more: nothing of it is left, and what is there stays.
    FilmWriter::forget(&target);
    let left: Vec<_> =
        fs::read_dir(folder.path()).expect("a folder").flatten().map(|own| own.path()).collect();
    assert_eq!(left, [target]);
}

#[test]
fn a_piece_that_is_not_what_was_made_gets_no_name() {
    let folder = tempfile::tempdir().expect("a folder");
    let target = folder.path().join("line.mov");
    let film =
        FilmWriter::begin(&target, spec(FilmForm::default(), None), false, &Stop::default()).expect("a film");
    (0..3).for_each(|number| write_piece(&film, number).expect("a piece"));
    // Somebody puts one piece in the place of another: as long, and not the same.
    let piece = |number: usize| film.folder().join(format!("{number:04}.mov"));
    fs::copy(piece(1), piece(0)).expect("a copy");
    let refused = joined(&film).err().map(|e| e.to_string()).expect("refused");
    assert!(refused.contains("its frame 0 is not the one that was made"), "{refused}");
    assert!(!target.exists());
}

/// A clip of 60 frames that says their numbers, by ffmpeg's own hand.
fn clip(folder: &Path, name: &str, more: &[&str]) -> (PathBuf, PictureFacts) {
    let path = folder.join(name);
    let pixels = Pixels { width: 320, height: 240, deep: false, every_row: false };
    let raw: Vec<u8> = (0..FRAMES).flat_map(|own| frame(own, pixels)).collect();
    let source = folder.join("raw");
    fs::write(&source, raw).expect("written");
    let done = Command::new("ffmpeg")
        .args([
            "-v", "error", "-y", "-f", "rawvideo", "-pix_fmt", "yuv420p", "-s", "320x240", "-r", "25", "-i",
        ])
        .arg(&source)
        .args(more)
        .arg(&path)
        .output()
        .expect("a run");
    assert!(done.status.success(), "{}", String::from_utf8_lossy(&done.stderr));
    let picture = probe(&path, &Stop::default()).expect("facts").picture.expect("a picture");
    (path, picture)
}

/// What codes a clip so that what is coded here fits beside it.
fn like_a_camera(codec: Codec) -> &'static [&'static str] {
    match codec {
        Codec::H264 => &["-c:v", "libx264", "-preset", "fast", "-g", "12", "-bf", "2", "-sc_threshold", "0"],
        Codec::H265 => {
            &["-c:v", "libx265", "-preset", "fast", "-x265-params", "log-level=error:keyint=12:open-gop=0"]
        }
        Codec::Av1 => &["-c:v", "libsvtav1", "-preset", "10"],
        Codec::Vc3 => &["-pix_fmt", "yuv422p", "-c:v", "dnxhd", "-profile:v", "dnxhr_sq"],
        Codec::Rdd36 => &["-pix_fmt", "yuv422p10le", "-c:v", "prores_ks", "-profile:v", "lt"],
        Codec::Ffv1 => &[
            "-pix_fmt",
            "yuv422p10le",
            "-c:v",
            "ffv1",
            "-level",
            "3",
            "-g",
            "1",
            "-slices",
            "16",
            "-slicecrc",
            "1",
        ],
    }
}

/// A hash of each picture of a file.
fn hashes(path: &Path) -> Vec<String> {
    let args =
        ["-v", "error", "-i", path.to_str().expect("text"), "-map", "0:V:0", "-fps_mode", "passthrough"];
    let out = Command::new("ffmpeg").args(args).args(["-f", "framemd5", "-"]).output().expect("a run");
    let lines = String::from_utf8_lossy(&out.stdout).into_owned();
    lines
        .lines()
        .filter(|own| !own.starts_with('#'))
        .filter_map(|own| Some(own.rsplit_once(' ')?.1.to_owned()))
        .collect()
}

#[test]
fn what_is_copied_is_the_recorded_frame_to_the_last_bit_between_what_is_coded() {
    let folder = tempfile::tempdir().expect("a folder");
    let stop = Stop::default();
    let mut copied_codecs = 0;
    for codec in codecs_offered() {
        let held = if codec == Codec::Av1 { "mp4" } else { "mov" };
        let (path, facts) =
            clip(folder.path(), "camera.mov", &[like_a_camera(codec), &["-f", held]].concat());
        let own = Coded::of(&path, &stop).expect("said");
        for wrapper in codec.wrappers().iter().copied() {
            let form = FilmForm { codec, wrapper, grade: Grade::Recorded, ..FilmForm::default() };
            let target = folder.path().join(format!("{codec:?} {wrapper:?}.{}", wrapper.extension()));
            let mut film = FilmWriter::begin(&target, spec(form, None), false, &stop).expect("a film");
            film.with_profile(own.profile(codec));
            let why = own.why_apart(codec, FrameRate::FPS_25, &film.coded().expect("coded"));
            if codec == Codec::Av1 {
                assert!(why.is_some_and(|own| own.contains("another coder")));
                continue;
            }
            assert_eq!(why, None, "{codec:?}");
            let wanted = Copied { from: 7, frames: 46, path: path.clone(), facts: facts.clone(), first: 7 };
            let cut = film.can_be_copied(std::slice::from_ref(&wanted)).expect("looked at").remove(0);
            if matches!(codec, Codec::H264 | Codec::H265) {
                assert!(cut.from == 12 && cut.first == 12 && (cut.frames - 41).abs() <= 5, "{cut:?}");
            } else {
                assert_eq!(cut, wanted);
            }
            let (from, to) = (cut.from, cut.from + cut.frames);
            film.with_copied(vec![cut]);
            assert_eq!(film.pieces(), [(0, from), (from, to), (to, FRAMES)]);
            write_piece(&film, 0).expect("a piece");
            write_piece(&film, 2).expect("a piece");
            let copied = Cell::new(0);
            let whole = film
                .join(&|own| copied.set(copied.get() + own), &|| Ok(()))
                .unwrap_or_else(|e| panic!("{codec:?} in {wrapper:?}: {e}"));
            assert!(matches!(whole, Joined::Whole(_)), "{codec:?} in {wrapper:?}: {whole:?}");
            assert_eq!(copied.get(), to - from);
            assert_eq!(numbers(&target), (0..FRAMES).collect::<Vec<_>>(), "{codec:?} in {wrapper:?}");
            let (from, to) = (from as usize, to as usize);
            assert_eq!(hashes(&target)[from..to], hashes(&path)[from..to], "{codec:?} in {wrapper:?}");
            copied_codecs += 1;
        }
    }
    assert!(copied_codecs >= 6, "{copied_codecs}");
}

/// A camera's file of a codec, and a film beside it that is to be as it was recorded.
fn recorded(folder: &Path, codec: Codec, stop: &Stop) -> (PathBuf, PictureFacts, FilmWriter) {
    let (path, facts) = clip(folder, "camera.mov", like_a_camera(codec));
    let form = FilmForm { codec, grade: Grade::Recorded, ..FilmForm::default() };
    let film = FilmWriter::begin(&folder.join("line.mov"), spec(form, None), false, stop).expect("a film");
    (path, facts, film)
}

/// Which pieces of a film cannot be copied as they were to be.
fn not_copied(film: &FilmWriter) -> Vec<usize> {
    match film.join(&|_| {}, &|| Ok(())).expect("joined") {
        Joined::NotCopied(own) => own.into_iter().collect(),
        Joined::Whole(_) => vec![],
    }
}

#[test]
fn what_can_be_copied_no_more_is_left_to_be_coded() {
    let folder = tempfile::tempdir().expect("a folder");
    let stop = Stop::default();
    let (path, facts, mut film) = recorded(folder.path(), Codec::H264, &stop);
    let target = folder.path().join("line.mov");
    let whole = fs::read(&path).expect("read");
    let part =
        |from, path: &Path| Copied { from, frames: 12, path: path.into(), facts: facts.clone(), first: from };
    let other = folder.path().join("other.mov");
    fs::write(&other, &whole).expect("written");
    film.with_copied(vec![part(0, &other), part(12, &path), part(24, &path), part(36, &other)]);
    write_piece(&film, 4).expect("a piece");
    // Cut off, no film at all, and gone: all that was to be copied of it, and nothing else.
    for broken in [Some(&whole[..whole.len() / 2]), Some(b"nothing of the kind"), None] {
        match broken {
            Some(bytes) => fs::write(&path, bytes).expect("written"),
            None => fs::remove_file(&path).expect("gone"),
        }
        assert_eq!(not_copied(&film), [1, 2], "{:?} bytes", broken.map(<[u8]>::len));
        assert!(!target.exists());
    }
    [1, 2].iter().for_each(|own| write_piece(&film, *own).expect("a piece"));
    assert_eq!([0, 1, 2, 3].map(|own| film.copied(own).is_some()), [true, false, false, true]);
    joined(&film).expect("a film");
    assert_eq!(numbers(&target), (0..FRAMES).collect::<Vec<_>>());
}

#[test]
fn what_is_cut_out_at_another_place_than_it_should_be_is_not_copied() {
    let folder = tempfile::tempdir().expect("a folder");
    let stop = Stop::default();
    let (path, facts, mut film) = recorded(folder.path(), Codec::Rdd36, &stop);
    // The file begins elsewhere than it was said to, or has fewer frames than it should.
    let late = PictureFacts { start_s: facts.start_s + 0.4, ..facts.clone() };
    let beyond = Copied { from: 0, frames: FRAMES, path: path.clone(), facts: facts.clone(), first: 20 };
    let late = Copied { facts: late, first: 0, ..beyond.clone() };
    for own in [late, beyond] {
        film.with_copied(vec![own]);
        assert_eq!(not_copied(&film), [0]);
        assert!(!folder.path().join("line.mov").exists());
    }
}

#[test]
fn a_film_that_is_stopped_while_it_is_copied_or_whose_source_changed_has_no_name() {
    let folder = tempfile::tempdir().expect("a folder");
    let stop = Stop::default();
    let (path, facts, mut film) = recorded(folder.path(), Codec::H264, &stop);
    let target = folder.path().join("line.mov");
    film.with_copied(vec![Copied { from: 0, frames: FRAMES, path: path.clone(), facts, first: 0 }]);
    let changed = || Err(MediaError::Write { path: path.clone(), detail: "another one".into() });
    assert!(film.join(&|_| {}, &changed).is_err_and(|own| own.to_string().contains("another one")));
    assert!(!target.exists());
    let stopped = film.join(&|_| stop.stop(), &|| Ok(()));
    assert!(matches!(stopped, Err(MediaError::Stopped)), "{stopped:?}");
    assert!(!target.exists());
}

#[test]
fn pictures_are_those_of_their_moment_wherever_one_goes() {
    let folder = tempfile::tempdir().expect("a folder");
    let pixels = Pixels { width: 320, height: 240, deep: false, every_row: false };
    let long = ["-c:v", "libx264", "-preset", "fast", "-g", "48", "-bf", "3"];
    let late = [&long[..], &["-output_ts_offset", "3.2"]].concat();
    // Every third frame comes half a frame late.
    let wandering = [
        &long[..],
        &[
            "-vf",
            "setpts='(N+0.5*eq(mod(N,3),1))/25/TB'",
            "-fps_mode",
            "vfr",
            "-video_track_timescale",
            "600",
        ],
    ]
    .concat();
    for (name, more) in [("steady.mov", long.to_vec()), ("late.mkv", late), ("wandering.mp4", wandering)] {
        let (path, facts) = clip(folder.path(), name, &more);
        let times = FrameTimes::of(&path, &facts, &Stop::default()).expect("times");
        let mut pictures = Pictures::open(&path, &facts, &times, pixels, None, &Stop::default());
        let moment = |own: i64| (own as f64 + 0.75) / 25.0;
        // Onwards, far on, back, by one back, to one that stands by itself, and to the last.
        for own in [0_i64, 1, 2, 3, 2, 40, 41, 10, 9, 10, 48, 49, 47, 58, 59, 0] {
            let at_s = moment(own);
            let seen = pictures.at(at_s).expect("read").map(number);
            assert_eq!(seen, Some(own), "{name} at {at_s}");
        }
        assert_eq!(pictures.take_lost(), 0);
        // What was begun to be read up to there is read beyond it too, and before it.
        for (first, last) in [(48, 50), (20, 22), (0, 1), (30, 30), (40, 35)] {
            pictures.begin_at(moment(first), moment(last)).expect("begun");
            for own in (first..last + 4).chain([first - 1]).filter(|own| *own >= 0) {
                let seen = pictures.at(moment(own)).expect("read").map(number);
                assert_eq!(seen, Some(own), "{name}: {own} from {first} to {last}");
            }
        }
        assert_eq!(pictures.take_lost(), 0);
        // Behind its end the last one stands.
        pictures.begin_at(moment(58), moment(70)).expect("begun");
        assert_eq!(pictures.at(61.0 / 25.0).expect("read").map(number), Some(59), "{name}");
    }
}

#[test]
fn pictures_are_seen_through_a_viewing_lut_by_any_name_of_their_folder() {
    let folder = tempfile::tempdir().expect("a folder");
    let odd = folder.path().join("it's, 50%: [a;b]");
    fs::create_dir_all(&odd).expect("a folder");
    let (path, facts) = clip(&odd, "steady.mov", &["-c:v", "ffv1", "-f", "mov"]);
    let times = FrameTimes::of(&path, &facts, &Stop::default()).expect("times");
    let inverted = Lut::sampled(9, |colour| colour.map(|own| 1.0 - own));
    let cube = odd.join("seen-0.cube");
    fs::write(&cube, inverted.to_text()).expect("written");
    for pixels in [
        Pixels { width: 320, height: 240, deep: false, every_row: false },
        Pixels { width: 320, height: 240, deep: true, every_row: true },
    ] {
        let mut plain = Pictures::open(&path, &facts, &times, pixels, None, &Stop::default());
        let mut seen = Pictures::open(&path, &facts, &times, pixels, Some(&cube), &Stop::default());
        let luma = |bytes: &[u8]| {
            let of = |at: usize| {
                if pixels.deep {
                    u16::from_le_bytes([bytes[2 * at], bytes[2 * at + 1]]) / 4
                } else {
                    u16::from(bytes[at])
                }
            };
            // A dark block and a bright one.
            [of(16), of(48)]
        };
        // The seventh frame says 6: dark, bright, bright.
        let plain = luma(plain.at(6.5 / 25.0).expect("read").expect("a picture"));
        let seen = luma(seen.at(6.5 / 25.0).expect("read").expect("a picture"));
        assert_eq!(plain, [40, 200], "{pixels:?}");
        // Black and white of a screen are 16 and 235.
        for (own, other) in plain.into_iter().zip(seen) {
            assert!((16 + 235 - own).abs_diff(other) <= 1, "{own} became {other}: {pixels:?}");
        }
    }
}
