//! Documents, as a cutting room reads them.

mod common;

use common::a_group;
use metaxis_core::{
    clip::{ClipId, DeviceId},
    line::{Line, LineEdit},
    turnover::{CutListError, Source, Sources, cut_list, group_document, line_document},
};

fn setting() -> (metaxis_core::group::Group, Line, Sources) {
    let (facts, group) = a_group();
    let names = ["TH-001.wav", "A001C03.mov", "GAL_0181.mp4", "GAL_0182.mp4"];
    let mut sources = Sources::default();
    for (i, (facts, name)) in facts.into_iter().zip(names).enumerate() {
        let source = Source { file_name: name.into(), url: format!("file:///cards/{name}"), facts };
        sources.clips.insert(ClipId(i as i64), source);
    }
    for (id, name) in [(1, "Floor"), (2, "Gallery"), (9, "Recorder")] {
        sources.devices.insert(DeviceId(id), (name[..1].into(), name.into()));
    }
    let mut line = Line::new(group.frames, DeviceId(1));
    line.apply(&LineEdit::Take { at: 300, angle: DeviceId(2) }).expect("a take");
    (group, line, sources)
}

#[test]
fn the_list_follows_the_form_and_links_to_the_originals() {
    let (group, line, sources) = setting();
    let text = cut_list(&group, &line, &sources).expect("a list");
    let expected = [
        "TITLE: Group 1",
        "FCM: NON-DROP FRAME",
        "",
        "001  BL       V     C        00:00:00:00 00:00:02:00 09:14:00:00 09:14:02:00",
        "002  A001C03  V     C        09:14:02:00 09:14:12:00 09:14:02:00 09:14:12:00",
        "* SOURCE FILE: A001C03.mov",
        "003  GAL0181  V     C        00:00:08:00 00:00:10:00 09:14:12:00 09:14:14:00",
        "* SOURCE FILE: GAL_0181.mp4",
        "004  BL       V     C        00:00:00:00 00:00:00:01 09:14:14:00 09:14:14:01",
        "005  GAL0182  V     C        00:00:00:00 00:00:10:00 09:14:14:01 09:14:24:01",
        "* SOURCE FILE: GAL_0182.mp4",
        "006  BL       V     C        00:00:00:00 00:00:05:24 09:14:24:01 09:14:30:00",
        "",
    ];
    assert_eq!(text.split("\r\n").collect::<Vec<_>>(), expected);
}

#[test]
fn a_list_has_at_most_999_events() {
    let (mut group, _, sources) = setting();
    group.frames = 3000;
    let mut line = Line::new(3000, DeviceId(1));
    for at in 1..=1000 {
        line.apply(&LineEdit::Take { at, angle: DeviceId(1 + at % 2) }).ok();
    }
    assert!(matches!(cut_list(&group, &line, &sources), Err(CutListError::TooMany(count)) if count > 999));
}

#[test]
fn documents_hold_every_frame_of_the_group_once() {
    let (group, line, sources) = setting();
    for (document, tracks) in
        [(group_document(&group, &sources), 3), (line_document(&group, &line, &sources), 2)]
    {
        let children = document["tracks"]["children"].as_array().expect("tracks");
        assert_eq!(children.len(), tracks);
        for track in children {
            let length: f64 = track["children"]
                .as_array()
                .expect("items")
                .iter()
                .map(|item| {
                    let duration = &item["source_range"]["duration"];
                    duration["value"].as_f64().expect("a value") / duration["rate"].as_f64().expect("a rate")
                })
                .sum();
            assert!((length - 30.0).abs() < 0.021, "{} is {length} s", track["name"]);
        }
        assert_eq!(document["global_start_time"]["value"], group.start.frames as f64);
    }
}

#[test]
fn names_cannot_break_the_form() {
    let (mut group, line, mut sources) = setting();
    group.name = "1 / 1\r\n001  EVIL".into();
    sources.clips.get_mut(&ClipId(1)).expect("a clip").file_name = "-r\u{e4}d \"x\"\n.mov".into();
    let text = cut_list(&group, &line, &sources).expect("a list");
    assert!(text.starts_with("TITLE: 1 / 1  001  EVIL\r\n"));
    assert!(text.contains("RDX      V     C") && text.lines().count() == 12, "{text}");
}
