//! Devices, spans and the slate log, from what files say.

use crate::common::{camera, recorder};
use metaxis_core::{
    clip::{ClipFacts, ClipId},
    intake::{
        LogClip, LogColumn, LogError, SlateRow, SpanClip, find_spans, guess_device, match_log, name_device,
        numbered_name, read_log, span_gaps, take_of_name,
    },
    time::{FrameRate, Timecode},
};

#[test]
fn the_first_naming_folder_is_the_device() {
    for (path, taken, key, day) in [
        ("A_FLOOR/A001.mov", "cards", "A_FLOOR", None),
        ("A_FLOOR/DCIM/100ABCDE/A001.mov", "cards", "A_FLOOR", None),
        ("2026-05-14/Cam B/CARD_02/CLIP/x.mxf", "cards", "Cam B", Some("2026-05-14")),
        ("Day 03/CAMERAS/C gallery/x.mp4", "cards", "C gallery", Some("Day 3")),
        ("SOUND/day.wav", "cards", "SOUND", None),
        ("A001/x.mov", "cards", "A", None),
        ("A014_R1XY/x.mov", "cards", "A", None),
        ("PRIVATE/AVCHD/BDMV/STREAM/00001.MTS", "Pit camera", "Pit camera", None),
        ("DCIM/100ABCDE/P0001.MP4", "20260514", "P", Some("2026-05-14")),
        ("REC0001.WAV", "cards", "REC", None),
        ("B002_C001.mov", "cards", "B", None),
        ("0001.mov", "cards", "Loose files", None),
        ("2026-13-40/x01.mov", "", "2026-13-40", None),
    ] {
        let guess = guess_device(path, taken);
        assert_eq!((guess.key.as_str(), guess.day.as_deref()), (key, day), "{path} in {taken}");
    }
}

#[test]
fn devices_go_by_the_letter_their_folder_says() {
    for (folder, letter, name) in [
        ("CAM_A", "A", "CAM_A"),
        ("CAM B", "B", "CAM B"),
        ("Camera C", "C", "Camera C"),
        ("A-CAM", "A", "A-CAM"),
        ("B_close", "B", "close"),
        ("A_FLOOR", "A", "Floor"),
        ("C gallery wide", "C", "gallery wide"),
        ("cam1", "1", "cam1"),
        ("CAMERA2", "2", "CAMERA2"),
        ("PHONE", "P", "PHONE"),
        ("REC", "R", "REC"),
        ("a", "A", "a"),
        ("22", "A", "22"),
        ("", "A", ""),
    ] {
        assert_eq!(name_device(folder, &[]), (letter.into(), name.into()), "{folder}");
    }
    // The whole day, in the order of its folders: each gets its own, whatever the others took.
    let mut taken: Vec<String> = vec![];
    for folder in ["CAM_A", "CAM_B", "A-CAM", "B_close", "cam1", "PHONE", "REC"] {
        taken.push(name_device(folder, &taken).0);
    }
    assert_eq!(taken, ["A", "B", "C", "L", "1", "P", "R"]);
    for _ in 0..30 {
        taken.push(name_device("CAM_A", &taken).0);
    }
    taken.sort();
    taken.dedup();
    assert_eq!(taken.len(), 37, "no two devices share a letter");
}

/// A file of a camera that writes `frames` frames at 25 fps from a label on.
fn labelled(frames: i64, from: i64, bytes: u64) -> (ClipFacts, u64) {
    let mut facts = camera(frames as f64 / 25.0, 25);
    facts.timecode = Some(Timecode::new(from, FrameRate::FPS_25, false));
    if let Some(picture) = &mut facts.picture {
        picture.frames = Some(frames);
    }
    (facts, bytes)
}

fn chains(files: &[(&str, (ClipFacts, u64))]) -> Vec<Vec<usize>> {
    let clips: Vec<SpanClip> = files
        .iter()
        .map(|(relative, (facts, bytes))| SpanClip { device: 1, relative, bytes: *bytes, facts })
        .collect();
    find_spans(&clips)
}

#[test]
fn files_that_follow_each_other_are_one_recording() {
    let day = [
        ("C/C0001.MP4", labelled(500, 1000, 4_000)),
        ("C/C0002.MP4", labelled(500, 1507, 4_010)),
        ("C/C0003.MP4", labelled(120, 2010, 900)),
        // Another take, begun a minute later.
        ("C/C0004.MP4", labelled(300, 4000, 2_000)),
        ("C/C0005.MP4", labelled(300, 9000, 2_000)),
    ];
    assert_eq!(chains(&day), [vec![0, 1, 2]]);
    // A file missing in the middle ends the chain.
    assert_eq!(chains(&[day[0].clone(), day[2].clone()]), Vec::<Vec<usize>>::new());
    // The next is larger than the first: nothing was full, a person pressed the button again.
    assert!(
        chains(&[("C/C1.MP4", labelled(500, 0, 1000)), ("C/C2.MP4", labelled(500, 500, 2000))]).is_empty()
    );
    // Other names or other formats never join.
    assert!(
        chains(&[("C/C1.MP4", labelled(500, 0, 1000)), ("D/C2.MP4", labelled(500, 500, 900))]).is_empty()
    );
    let mut other = labelled(500, 500, 900);
    if let Some(picture) = &mut other.0.picture {
        picture.width = 1;
    }
    assert!(chains(&[("C/C1.MP4", labelled(500, 0, 1000)), ("C/C2.MP4", other)]).is_empty());
}

#[test]
fn recorders_and_clocks_make_chains_too() {
    let sound = |reference: u64, seconds: f64| {
        let mut facts = recorder(seconds);
        facts.time_reference = Some(reference);
        (facts, 1000)
    };
    let rate = 48_000;
    let day = [
        ("S/T01.WAV", sound(rate * 100, 60.0)),
        ("S/T02.WAV", sound(rate * 160, 20.0)),
        ("S/T03.WAV", sound(rate * 300, 20.0)),
    ];
    assert_eq!(chains(&day), [vec![0, 1]]);
    let clocked = |created: &str, seconds: f64| {
        let mut facts = camera(seconds, 50);
        facts.created = Some(created.into());
        (facts, 500)
    };
    let day = [
        ("C/GAL01.MP4", clocked("2026-05-14T10:00:00Z", 61.2)),
        ("C/GAL02.MP4", clocked("2026-05-14T10:01:02Z", 30.0)),
        ("C/GAL03.MP4", clocked("2026-05-14T10:02:02Z", 30.0)),
    ];
    assert_eq!(chains(&day), [vec![0, 1]]);
    assert_eq!(numbered_name("C/GAL01.MP4"), Some(("C/GAL", 1, 2)));
    assert_eq!(numbered_name("take.wav"), None);
    let gaps = span_gaps(&[Some((0.0, 61.2)), Some((61.38, 91.38)), None], &day[0].1.0);
    assert!((gaps[0].expect("measured").frames.expect("frames") - 9.0).abs() < 1e-6);
    assert_eq!(gaps[1], None);
}

const LOG: &str = "The Tarn Hollow Tenor;;;;;\nScene;Take;Cam;Picture file;Sound file;OK;Comments\n\
                   2;1;A;A002.mov;S-002.wav;x;good\n2;2;A;A003.mov;\"S-003.wav, S-004.wav\";;\n;;;;;;\n";

#[test]
fn a_log_is_read_whatever_its_separator_and_encoding() {
    let expected = |log: &str| read_log(log.as_bytes(), None, None).expect("a log").log.rows;
    let rows = expected(LOG);
    assert_eq!(rows.len(), 2);
    assert_eq!(
        (rows[0].line, rows[0].scene.as_str(), rows[0].take.as_str(), rows[0].camera.as_str()),
        (3, "2", "1", "A")
    );
    assert!(rows[0].circled && !rows[1].circled);
    assert_eq!(rows[1].sounds, ["S-003.wav", "S-004.wav"]);
    let without_title = LOG.split_once('\n').expect("lines").1;
    for separator in ["\t", "|"] {
        let other = without_title.replace(';', separator);
        assert_eq!(
            expected(&other).iter().map(|row| row.take.clone()).collect::<Vec<_>>(),
            ["1", "2"],
            "{separator:?}"
        );
    }
    // Spreadsheets write UTF-16 or the old Western page.
    let text = "Scene,Take,Notes\n4,1,Gießerei – große Glocke\n";
    let utf16: Vec<u8> =
        [0xFF, 0xFE].into_iter().chain(text.encode_utf16().flat_map(u16::to_le_bytes)).collect();
    let bare: Vec<u8> = text.encode_utf16().flat_map(u16::to_le_bytes).collect();
    let western: Vec<u8> = text.chars().map(|c| if c == '–' { 0x96 } else { c as u8 }).collect();
    for (bytes, name) in [
        (utf16, "UTF-16LE"),
        (bare, "UTF-16LE"),
        (western, "windows-1252"),
        (text.as_bytes().to_vec(), "UTF-8"),
    ] {
        let read = read_log(&bytes, None, None).expect("a log");
        assert_eq!(read.encoding, name);
        assert_eq!(read.log.rows[0].notes, "Gießerei – große Glocke", "{name}");
    }
}

#[test]
fn columns_can_be_put_right_and_nonsense_is_refused() {
    let text = "Setup,Nr,Datei\n7,3,A009.mov\n";
    assert!(read_log(text.as_bytes(), None, None).expect("a preview").log.rows.is_empty());
    let columns = [LogColumn::Scene, LogColumn::Take, LogColumn::Picture];
    let read = read_log(text.as_bytes(), Some(&columns), None).expect("a log");
    assert_eq!((read.log.rows[0].scene.as_str(), read.log.rows[0].pictures[0].as_str()), ("7", "A009.mov"));
    assert_eq!(read_log(b"", None, None), Err(LogError::Empty));
    assert_eq!(read_log(b" \n;;\n", None, None), Err(LogError::Empty));
    assert_eq!(
        read_log(&[0x50, 0x4B, 3, 4, 0, 0, 1, 0, 0, 9, 0], None, None).map(|_| ()),
        Err(LogError::NotText)
    );
    assert!(matches!(read_log(&vec![b'a'; 9 << 20], None, None), Err(LogError::TooLarge(_))));
}

fn clip(id: i64, name: &str, letter: &str, own: Option<(&str, &str)>) -> LogClip {
    let own = own.map(|(scene, take)| (scene.to_owned(), take.to_owned()));
    LogClip { id: ClipId(id), file_name: name.into(), letter: letter.into(), own }
}

#[test]
fn the_log_names_takes_and_clashes_are_told() {
    let log = read_log(LOG.as_bytes(), None, None).expect("a log").log;
    let clips = [
        clip(1, "A002.MOV", "A", None),
        clip(2, "A003.mov", "A", None),
        // The recorder numbered take 2 as take 1.
        clip(3, "S-003.wav", "R", Some(("2", "1"))),
        clip(4, "S-002.wav", "R", Some(("02", "01"))),
    ];
    let found = match_log(&log, &clips);
    assert_eq!(
        found.takes.iter().map(|(id, row)| (id.0, row.take.as_str())).collect::<Vec<_>>(),
        [(1, "1"), (2, "2"), (3, "2"), (4, "1")]
    );
    assert_eq!(found.missing, [(4, "S-004.wav".to_owned())]);
    assert_eq!(found.clashes.len(), 1, "{:?}", found.clashes);
    assert_eq!(found.clashes[0].clips, [ClipId(3)]);
    assert!(found.clashes[0].message.contains("S-003.wav") && found.clashes[0].message.contains("take 1"));
}

#[test]
fn of_equal_names_the_camera_in_the_log_decides() {
    let row = SlateRow {
        line: 2,
        scene: "1".into(),
        take: "1".into(),
        camera: "B".into(),
        pictures: vec!["C0001".into()],
        ..SlateRow::default()
    };
    let log = metaxis_core::intake::SlateLog { rows: vec![row] };
    let clips = [clip(1, "C0001.MP4", "A", None), clip(2, "C0001.MP4", "B", None)];
    assert_eq!(match_log(&log, &clips).takes[0].0, ClipId(2));
    for (name, take) in [
        ("2-T03.wav", Some(("2", "03"))),
        ("S04_T2.wav", Some(("04", "2"))),
        ("scene 4 take 2.wav", Some(("4", "2"))),
        ("A001.mov", None),
        ("S-001.wav", None),
        ("title.png", None),
    ] {
        let found = take_of_name(name);
        assert_eq!(found.as_ref().map(|(s, t)| (s.as_str(), t.as_str())), take, "{name}");
    }
}

/// Containers write the time of their making in more than one way, and a clock that was never set writes its first day.
#[test]
fn a_clip_was_made_on_a_day_and_at_a_time() {
    let read = |created: &str| {
        let facts = ClipFacts { created: Some(created.into()), ..ClipFacts::default() };
        (facts.created_day().map(|day| day.to_string()), facts.created_clock_s())
    };
    let day = || Some("2026-05-14".to_owned());
    let half_past = Some(9.5 * 3600.0);
    for (created, expected) in [
        ("2026-05-14T09:30:00.000000Z", (day(), half_past)),
        ("2026-05-14 09:30:00", (day(), half_past)),
        ("2026-05-14T09:30:00+02:00", (day(), half_past)),
        ("2026-05-14", (day(), None)),
        ("T09:30:00", (None, half_past)),
        ("1904-01-01T00:00:00.000000Z", (None, Some(0.0))),
        ("2026-13-14T09:30:00", (None, None)),
        ("2026-05-14T29:30:00", (None, None)),
        ("yesterday", (None, None)),
        ("", (None, None)),
    ] {
        assert_eq!(read(created), expected, "{created}");
    }
}

#[test]
fn a_folder_that_says_its_letter_is_known_from_one_that_does_not() {
    for folder in ["A_FLOOR", "CAM_A", "CAM B", "Camera C", "A-CAM", "cam1"] {
        assert!(metaxis_core::intake::says_letter(folder), "{folder}");
    }
    for folder in ["CLIP", "Sound Day 1", "REC", "PHONE", "100MEDIA", ""] {
        assert!(!metaxis_core::intake::says_letter(folder), "{folder}");
    }
}
