//! Documents, as a cutting room reads them.

use crate::common::{a_group, at, camera, placed_clips, ran_together, recorder};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    group::{AngleId, Group},
    line::{Layer, Line, LineEdit, Marker, MarkerColour, Speed},
    sound::{Along, Correction, Fill, Handling, Recording, Samples, SoundHabit, plan_sound},
    sync::Stretch,
    time::{FrameRate, SampleRate, Tick, Timecode},
    turnover::{
        AssembledPart, LaidSound, Source, Sources, assembly_document, assembly_lists, choices_document,
        cut_lists, group_document, line_document,
    },
};
use proptest::prelude::*;
use serde_json::{Value, json};

fn setting() -> (metaxis_core::group::Group, Line, Sources) {
    let (facts, group) = a_group();
    let names = ["TH-001.wav", "A001C03.mov", "GAL_0181.mp4", "GAL_0182.mp4"];
    let mut sources = Sources::default();
    for (i, (facts, name)) in facts.into_iter().zip(names).enumerate() {
        let source = Source {
            file_name: name.into(),
            url: format!("file:///cards/{name}"),
            facts,
            ..Source::default()
        };
        sources.clips.insert(ClipId(i as i64), source);
    }
    for (id, name) in [(1, "Floor"), (2, "Gallery"), (9, "Recorder")] {
        sources.devices.insert(DeviceId(id), (name[..1].into(), name.into()));
    }
    let mut line = Line::new(group.frames, AngleId(1));
    line.apply(&LineEdit::take(300, AngleId(2))).expect("a take");
    (group, line, sources)
}

/// The one list that holds it all.
fn the_list(group: &Group, line: &Line, sources: &Sources) -> String {
    let lists = cut_lists(group, line, sources);
    assert_eq!(lists.len(), 1);
    lists.concat()
}

#[test]
fn the_list_follows_the_form_and_links_to_the_originals() {
    let (group, line, mut sources) = setting();
    let recorder = sources.clips.get_mut(&ClipId(0)).expect("a clip");
    recorder.facts.time_reference = Some((9 * 60 + 14) * 60 * 48_000);
    let text = the_list(&group, &line, &sources);
    let of = |name: &str| [format!("* FROM CLIP NAME: {name}"), format!("* SOURCE FILE: {name}")];
    let unlabelled = ["* NO TIMECODE IN THE FILE: COUNTED FROM ITS FIRST FRAME".to_owned()];
    let line = |text: &str| [text.to_owned()];
    let expected = [
        &line("TITLE: Group 1")[..],
        &line("FCM: NON-DROP FRAME"),
        &line(""),
        &line("001  BL       V     C        00:00:00:00 00:00:02:00 09:14:00:00 09:14:02:00"),
        &line("002  TH001    A     C        09:14:00:00 09:14:30:00 09:14:00:00 09:14:30:00"),
        &of("TH-001.wav"),
        &line("003  A001C03  V     C        09:14:02:00 09:14:12:00 09:14:02:00 09:14:12:00"),
        &of("A001C03.mov"),
        &line("004  GAL0181  V     C        00:00:08:00 00:00:09:24 09:14:12:00 09:14:13:24"),
        &of("GAL_0181.mp4"),
        &unlabelled,
        &line("005  BL       V     C        00:00:00:00 00:00:00:02 09:14:13:24 09:14:14:01"),
        &line("006  GAL0182  V     C        00:00:00:00 00:00:09:24 09:14:14:01 09:14:24:00"),
        &of("GAL_0182.mp4"),
        &unlabelled,
        &line("007  BL       V     C        00:00:00:00 00:00:06:00 09:14:24:00 09:14:30:00"),
        &line(""),
    ]
    .concat();
    assert_eq!(text.split("\r\n").collect::<Vec<_>>(), expected);
}

#[test]
fn a_drop_frame_day_goes_out_in_drop_frame() {
    let rate = FrameRate::new(30_000, 1001).expect("a rate");
    let counting = |drop: bool| {
        let mut facts = camera(60.0, 30);
        facts.picture.as_mut().expect("a picture").rate = rate;
        let start = if drop { "10:00:58;28" } else { "09:59:58:00" };
        facts.timecode = Some(Timecode::parse(start, rate).expect("a label"));
        let zero = facts.timecode.expect("a label").since_midnight();
        let placed = [at(0.0, 60.0, 0.0)];
        let clips = placed_clips(std::slice::from_ref(&facts), &placed, &[1], None);
        let group = ran_together(&clips, zero, &[DeviceId(1)]).remove(0);
        let mut sources = Sources::default();
        let source = Source {
            file_name: "A001.mov".into(),
            url: "file:///A001.mov".into(),
            facts: facts.clone(),
            ..Source::default()
        };
        sources.clips.insert(ClipId(0), source);
        let mut line = Line::new(group.frames, AngleId(1));
        line.apply(&LineEdit::take(32, AngleId(2))).expect("a take");
        let labels = the_list(&group, &line, &sources);
        let start = group_document(&group, &sources, None)["metadata"]["metaxis"]["start"].to_string();
        (labels.lines().take(4).collect::<Vec<_>>().join("|"), start)
    };
    // Two labels are left out at the turn of a minute.
    let (list, start) = counting(true);
    assert!(list.contains("FCM: DROP FRAME") && start.contains("10:00:58;28"), "{list} {start}");
    assert!(list.ends_with("10:00:58;28 10:01:00;02 10:00:58;28 10:01:00;02"), "{list}");
    let (list, start) = counting(false);
    assert!(list.contains("FCM: NON-DROP FRAME") && start.contains("09:59:58:00"), "{list} {start}");
    assert!(list.ends_with("09:59:58:00 09:59:59:02 09:59:58:00 09:59:59:02"), "{list}");
}

/// All lists of a line, each as its form is: numbered from one on, no line too long, no letter but ASCII.
fn well_formed(group: &Group, line: &Line, sources: &Sources) -> Vec<String> {
    let lists = cut_lists(group, line, sources);
    for list in &lists {
        for line in list.split("\r\n") {
            assert!(line.len() <= 80 && line.is_ascii() && !line.contains(['\r', '\n']), "{line}");
        }
        let numbers: Vec<usize> = list
            .lines()
            .filter(|line| line.starts_with(|c: char| c.is_ascii_digit()) && !line.contains(" D  "))
            .map(|line| line[..3].parse().expect("a number"))
            .collect();
        assert!(numbers.iter().copied().eq(1..=numbers.len()) && numbers.len() <= 999, "{numbers:?}");
    }
    lists
}

#[test]
fn what_a_list_cannot_hold_goes_into_another() {
    // A cut at each of a thousand frames.
    let (group, mut sources) = any_group([25; 3], [0.0; 3], [0.0; 3]);
    sources.clips.get_mut(&ClipId(2)).expect("a clip").facts.reel = Some("GALLERY_0181".into());
    let mut line = Line::new(group.frames, AngleId(1));
    for at in 1..1000 {
        line.apply(&LineEdit::take(at, AngleId(1 + at % 2))).expect("a take");
    }
    let lists = well_formed(&group, &line, &sources);
    assert_eq!(lists.len(), 2);
    assert!(lists[1].starts_with(&format!("TITLE: {} 2 OF 2\r\n", group.name)), "{}", lists[1]);
    // Together they are the line, without a hole; every reel is said in the list that it is in.
    let all: Vec<_> = lists.iter().flat_map(|list| events(list)).collect();
    assert_eq!((all[0].1[2], all[all.len() - 1].1[3]), (group.label(0), group.label(group.frames)));
    assert!(all.windows(2).all(|pair| pair[0].1[3] == pair[1].1[2]));
    for list in lists.iter().filter(|list| list.contains("  GALLERY0 ")) {
        assert!(list.contains("* REEL GALLERY0 IS GALLERY_0181"), "{list}");
    }
    // What dissolves has what it comes out of in the same list.
    for index in (2..line.switches().len()).step_by(2) {
        line.apply(&LineEdit::Dissolve { index, frames: 1 }).expect("a dissolve");
    }
    for list in well_formed(&group, &line, &sources) {
        assert!(!list.contains("BEFORE THIS LIST"));
        let dissolves = list.lines().filter(|line| line.contains(" V     D    001 "));
        assert!(dissolves.count() * 4 > events(&list).len(), "{list}");
    }
}

#[test]
fn nothing_in_a_list_ends_before_it_begins() {
    let (mut group, _, mut sources) = setting();
    // The day turns in the middle of the list, the camera's label earlier.
    let start = Timecode::parse("23:59:45:00", FrameRate::FPS_25).expect("a label");
    group.axis_zero = group.axis_zero + (start.since_midnight() - group.start.since_midnight());
    group.start = start;
    let floor = sources.clips.get_mut(&ClipId(1)).expect("a clip");
    floor.facts.timecode = Some(Timecode::parse("23:59:56:00", FrameRate::FPS_25).expect("a label"));
    let lists = well_formed(&group, &Line::new(group.frames, AngleId(1)), &sources);
    assert_eq!(lists.len(), 2);
    let of = |list: &str, what: &str| -> Vec<String> {
        let lines = list.lines().filter(|line| line.contains(what));
        lines.map(|line| line.split_whitespace().skip(4).collect::<Vec<_>>().join(" ")).collect()
    };
    assert_eq!(
        of(&lists[0], "A001C03  V"),
        [
            "23:59:56:00 24:00:00:00 23:59:47:00 23:59:51:00",
            "00:00:00:00 00:00:09:00 23:59:51:00 24:00:00:00",
        ]
    );
    assert_eq!(of(&lists[1], "A001C03  V"), ["00:00:09:00 00:00:16:00 00:00:00:00 00:00:07:00"]);
    assert_eq!(of(&lists[0], "TH001    A")[0][24..], *"23:59:45:00 24:00:00:00");
    assert_eq!(of(&lists[1], "TH001    A")[0][24..], *"00:00:00:00 00:00:15:00");
}

#[test]
fn a_list_says_how_each_source_counts() {
    let rate = FrameRate::new(30_000, 1001).expect("a rate");
    let camera = |label: &str| {
        let mut own = camera(30.0, 25);
        own.picture.as_mut().expect("a picture").rate = rate;
        own.timecode = Some(Timecode::parse(label, rate).expect("a label"));
        own
    };
    let facts = [camera("10:00:00:00"), camera("10:00:58;00"), camera("10:00:00:00")];
    let placed = [0.0; 3].map(|start_s| at(start_s, 30.0, 0.0));
    let clips = placed_clips(&facts, &placed, &[1, 2, 3], None);
    let group = ran_together(&clips, Tick::from_seconds(36_000.0), &[1, 2, 3].map(DeviceId)).remove(0);
    let mut sources = Sources::default();
    for (id, facts) in (0..).map(ClipId).zip(facts) {
        sources.clips.insert(
            id,
            Source { file_name: format!("c{}.mov", id.0), url: String::new(), facts, ..Source::default() },
        );
    }
    let mut line = Line::new(group.frames, AngleId(1));
    line.apply(&LineEdit::take(100, AngleId(2))).expect("a take");
    line.apply(&LineEdit::take(200, AngleId(3))).expect("a take");
    let list = well_formed(&group, &line, &sources).concat();
    let counting: Vec<&str> =
        list.lines().filter(|line| line.starts_with("FCM") || line.contains(" V ")).collect();
    let said = |own: &str| own.starts_with("FCM: DROP");
    let drop = counting.iter().position(|line| line.contains("10:01:01;12")).expect("the event");
    assert!(said(counting[drop - 1]) && counting[drop + 1] == "FCM: NON-DROP FRAME", "{list}");
}

#[test]
fn the_sound_of_a_line_is_in_its_list() {
    let (group, mut line, mut sources) = setting();
    let sound = sources.clips[&ClipId(0)].facts.sound.clone();
    let gallery = sources.clips.get_mut(&ClipId(2)).expect("a clip");
    gallery.facts.sound = sound.map(|own| metaxis_core::clip::SoundFacts { channels: 4, ..own });
    line.apply(&LineEdit::Sound { edit: Box::new(LineEdit::take(275, AngleId(2))) }).expect("a take");
    line.apply(&LineEdit::Sound { edit: Box::new(LineEdit::take(325, AngleId::BLACK)) }).expect("a take");
    line.apply(&LineEdit::PutMarker {
        marker: Marker { at: 310, colour: MarkerColour::default(), note: "Gl\u{fc}ck".into() },
    })
    .expect("a marker");
    let list = well_formed(&group, &line, &sources).concat();
    let heard: Vec<String> = list
        .lines()
        .filter(|line| line.starts_with('0') && !line.contains(" V "))
        .map(|line| line.split_whitespace().skip(1).collect::<Vec<_>>().join(" "))
        .collect();
    assert_eq!(
        heard,
        [
            "TH001 A C 00:00:00:00 00:00:11:00 09:14:00:00 09:14:11:00",
            "GAL0181 AA C 00:00:07:00 00:00:09:00 09:14:11:00 09:14:13:00",
            "TH001 A C 00:00:13:00 00:00:30:00 09:14:13:00 09:14:30:00",
        ]
    );
    assert!(list.contains("* 4 CHANNELS IN THE FILE\r\n"), "{list}");
    assert!(list.contains("* MARKER 09:14:12:10 Gl_ck\r\n"), "{list}");
}

#[test]
fn documents_hold_every_frame_of_the_group_once() {
    let (group, line, sources) = setting();
    for (document, tracks) in
        [(group_document(&group, &sources, None), 5), (line_document(&group, &line, &sources, None), 3)]
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
            assert!((length - 30.0).abs() < 1e-9, "{} is {length} s", track["name"]);
        }
        assert_eq!(document["global_start_time"]["value"], group.start.frames as f64);
    }
}

#[test]
fn a_clock_that_bends_is_no_cut_and_a_break_is_one() {
    let facts = [recorder(30.0), camera(20.0, 25)];
    // The rate changes in the middle; the axis goes on, or jumps by half a second.
    let documents = |jump_s: f64| {
        let mut bent = at(2.0, 20.0, 12.0);
        bent.stretches[0].clip_end_s = 9.0;
        let joint = bent.stretches[0].end_s() + jump_s;
        let second = Stretch {
            clip_start_s: 9.0,
            clip_end_s: 20.0,
            start_s: joint,
            rate_ppm: 4.0,
            ..bent.stretches[0]
        };
        bent.stretches.push(second);
        let placed = [at(0.0, 30.0, 0.0), bent];
        let clips = placed_clips(&facts, &placed, &[9, 1], Some(0));
        let group = ran_together(&clips, Tick(0), &[DeviceId(1), DeviceId(9)]).remove(0);
        let (_, _, mut sources) = setting();
        for (i, facts) in facts.iter().enumerate() {
            sources.clips.get_mut(&ClipId(i as i64)).expect("a source").facts = facts.clone();
        }
        let angle = group.angles.iter().find(|angle| angle.id == AngleId(1)).expect("the camera");
        assert_eq!(angle.parts.len(), 2, "the map keeps both rates");
        let line = Line::new(group.frames, AngleId(1));
        the_list(&group, &line, &sources).matches("SOURCE FILE: A001C03.mov").count()
    };
    assert_eq!((documents(0.0), documents(0.5)), (1, 2));
}

#[test]
fn what_was_recorded_at_another_speed_carries_it() {
    // Performed to a track at 125 %: sixteen seconds of the camera are twenty of the track.
    let facts = [recorder(30.0), camera(16.0, 25)];
    let document = |rate_ppm: f64| {
        let placed = [at(0.0, 30.0, 0.0), at(2.0, 16.0, rate_ppm)];
        let clips = placed_clips(&facts, &placed, &[9, 1], Some(0));
        let group = ran_together(&clips, Tick(0), &[DeviceId(1), DeviceId(9)]).remove(0);
        let (_, _, mut sources) = setting();
        for (i, facts) in facts.iter().enumerate() {
            sources.clips.get_mut(&ClipId(i as i64)).expect("a source").facts = facts.clone();
        }
        let line = Line::new(group.frames, AngleId(1));
        let list = the_list(&group, &line, &sources);
        (line_document(&group, &line, &sources, None), list)
    };
    let picture = |document: &Value| {
        let items = document["tracks"]["children"][0]["children"].as_array().expect("items").clone();
        items.into_iter().find(|item| item["OTIO_SCHEMA"] == "Clip.2").expect("the camera")
    };
    let (timeline, list) = document(-200_000.0);
    let clip = picture(&timeline);
    assert_eq!(clip["effects"][0]["OTIO_SCHEMA"], "LinearTimeWarp.1");
    assert!((clip["effects"][0]["time_scalar"].as_f64().expect("a speed") - 0.8).abs() < 1e-12);
    // It lasts twenty seconds of the line, of which it gives sixteen of its own.
    assert_eq!(clip["source_range"]["duration"]["value"], 500.0);
    let event = "003  A001C03  V     C        00:00:00:00 00:00:16:00 00:00:02:00 00:00:22:00\r\n\
                 M2   A001C03  020.0                 00:00:00:00\r\n";
    assert!(list.contains(event), "{list}");
    // What a clock drifts is no speed.
    let (timeline, list) = document(120.0);
    assert_eq!(picture(&timeline)["effects"], Value::Array(vec![]));
    assert!(!list.contains("M2"), "{list}");
}

#[test]
fn names_cannot_break_the_form() {
    let (mut group, line, mut sources) = setting();
    group.name = "1 / 1\r\n001  EVIL".into();
    sources.clips.get_mut(&ClipId(1)).expect("a clip").file_name = "-r\u{e4}d \"x\"\n.mov".into();
    let text = the_list(&group, &line, &sources);
    assert!(text.starts_with("TITLE: 1 / 1  001  EVIL\r\n"));
    assert!(
        text.contains("RDX      V     C") && text.contains("\r\n* FROM CLIP NAME: -r_d \"x\" .mov\r\n"),
        "{text}"
    );
    // What the form has no letters for stands below, as in an address; what is too long goes on in another line.
    assert!(text.contains("* REEL RDX IS -r%C3%A4d \"x\"%0A\r\n"), "{text}");
    let long = "x".repeat(100);
    sources.clips.get_mut(&ClipId(1)).expect("a clip").file_name = format!("{long}.mov");
    let text = well_formed(&group, &line, &sources).concat();
    let legend: Vec<&str> =
        text.lines().filter(|line| line.contains(" IS ") || line.starts_with("*  +")).collect();
    let legend = legend.concat().replace("*  +", "");
    assert!(legend.contains(&format!("* FILE {} IS {long}.mov", "x".repeat(24))), "{text}");
}

/// A group of three cameras at rates of their own and a recorder, with their sources.
fn any_group(rates: [i64; 3], starts: [f64; 3], ppm: [f64; 3]) -> (metaxis_core::group::Group, Sources) {
    let mut facts = vec![recorder(60.0)];
    facts.extend(rates.iter().map(|&fps| camera(40.0, fps)));
    let mut placed = vec![at(0.0, 60.0, 0.0)];
    placed.extend((0..3).map(|i| at(starts[i], 40.0, ppm[i])));
    let clips = placed_clips(&facts, &placed, &[0, 1, 2, 3], Some(0));
    let order: Vec<DeviceId> = (0..4).map(DeviceId).collect();
    let group = ran_together(&clips, Tick::from_seconds(36_000.0), &order).remove(0);
    let mut sources = Sources::default();
    for (i, facts) in facts.into_iter().enumerate() {
        let name = format!("clip-{i}.mov");
        let source =
            Source { url: format!("file:///cards/{name}"), file_name: name, facts, ..Source::default() };
        sources.clips.insert(ClipId(i as i64), source);
    }
    (group, sources)
}

fn seconds(time: &Value) -> f64 {
    time["value"].as_f64().expect("a value") / time["rate"].as_f64().expect("a rate")
}

/// Fields of an event: its reel and the four labels.
fn events(list: &str) -> Vec<(String, [Timecode; 4])> {
    let event = |line: &str| {
        let fields: Vec<&str> = line.split_whitespace().collect();
        let label = |i: usize| Timecode::parse(fields[i], FrameRate::FPS_25).expect("a label");
        let labels = [4, 3, 2, 1].map(|behind| label(fields.len() - behind));
        (fields[1].to_owned(), labels)
    };
    let is_picture = |line: &&str| line.starts_with(|c: char| c.is_ascii_digit()) && line.contains(" V ");
    list.lines().filter(is_picture).map(event).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]
    #[test]
    fn any_line_is_handed_on_whole_and_in_step(
        others in prop::collection::vec(prop::sample::select(vec![24_i64, 25, 30, 50, 60]), 2),
        starts in prop::collection::vec(0.0..15.0_f64, 3),
        ppm in prop::collection::vec(-120.0..120.0_f64, 3),
        takes in prop::collection::vec((0.0..1.0_f64, 1..4_i64), 0..120),
    ) {
        // The recorder and two more decide: the group counts at 25.
        let rates = [25, others[0], 25];
        let (group, sources) = any_group(rates, [starts[0], starts[1], starts[2]], [ppm[0], ppm[1], ppm[2]]);
        prop_assume!(group.rate() == FrameRate::FPS_25);
        let mut line = Line::new(group.frames, AngleId(1));
        for (share, angle) in takes {
            let frame = (share * group.frames as f64) as i64;
            let _ = line.apply(&LineEdit::take(frame, AngleId(angle)));
        }
        let list = events(&the_list(&group, &line, &sources));
        // The list runs from the first frame to the last without a gap, each event as long in the source as in the record.
        prop_assert_eq!(list[0].1[2], group.label(0));
        prop_assert_eq!(list[list.len() - 1].1[3], group.label(group.frames));
        prop_assert!(list.windows(2).all(|pair| pair[0].1[3] == pair[1].1[2]));
        for (reel, [from, to, begin, end]) in &list {
            prop_assert_eq!(to.frames - from.frames, end.frames - begin.frames, "{}", reel);
        }
        // So do the tracks of both documents, exactly, and each clip shows the frame of its moment.
        for document in [line_document(&group, &line, &sources, None), group_document(&group, &sources, None)] {
            for track in document["tracks"]["children"].as_array().expect("tracks") {
                let mut at_s = 0.0;
                for item in track["children"].as_array().expect("items") {
                    let range = &item["source_range"];
                    if item["OTIO_SCHEMA"] == "Clip.2" && track["kind"] == "Video" {
                        let clip = item["metadata"]["metaxis"]["clip_id"].as_i64().expect("a clip");
                        let i = clip as usize - 1;
                        let own_s = (group.frame_start(0).seconds() + at_s + 0.02 - starts[i]) * (1.0 + ppm[i] * 1e-6);
                        let late_s = own_s - seconds(&range["start_time"]);
                        prop_assert!(late_s > -0.02 && late_s < 1.0 / rates[i] as f64 + 1e-6, "{} s for {}", late_s, own_s);
                        let available = &item["media_references"]["DEFAULT_MEDIA"]["available_range"];
                        let last_s = seconds(&range["start_time"]) + seconds(&range["duration"]);
// The last frame that is shown is there.
                        prop_assert!(last_s <= seconds(&available["duration"]) + 0.04 + 1e-6, "{} s", last_s);
                    }
                    at_s += seconds(&range["duration"]);
                }
                prop_assert!((at_s - group.frames as f64 / 25.0).abs() < 1e-6, "{} s", at_s);
            }
        }
    }
}

/// An hour of a camera and a recorder whose clocks run so much faster than the group's.
fn an_hour(camera_ppm: f64, recorder_ppm: f64, habit: SoundHabit) -> (Group, Sources, LaidSound) {
    let facts = [recorder(3600.0), camera(3600.0, 25), recorder(3600.0)];
    let placed = [at(0.0, 3600.0, 0.0), at(1.013, 3600.0, camera_ppm), at(2.0, 3600.0, recorder_ppm)];
    let clips = placed_clips(&facts, &placed, &[9, 1, 2], Some(0));
    let group = ran_together(&clips, Tick(0), &[DeviceId(1), DeviceId(9), DeviceId(2)]).remove(0);
    let mut sources = Sources { habit, ..Sources::default() };
    for (id, facts) in (0..).map(ClipId).zip(&facts) {
        let name = format!("clip-{}", id.0);
        sources.clips.insert(
            id,
            Source { file_name: name, url: String::new(), facts: facts.clone(), ..Source::default() },
        );
    }
    let rate = SampleRate(48_000);
    let leading = [Stretch::whole(group.frames as f64 / 25.0, group.frame_start(0).seconds())];
    let along = Along { leading: &leading, from_s: 0.0, samples: group.frames * 1920, rate };
    let recording = Recording {
        clip: ClipId(2),
        device: DeviceId(2),
        facts: &facts[2],
        channels: &[],
        stretches: &placed[2].stretches,
    };
    let mut plan = plan_sound(&along, 0.04, &[recording], &sources.habit);
    let Ok(()) = plan.correct(0, &mut Silence, None);
    (group, sources, LaidSound { plan, grid: None, clips: vec![Some(ClipId(2))] })
}

struct Silence;

impl Samples for Silence {
    type Error = std::convert::Infallible;

    fn channels(&self) -> usize {
        1
    }

    fn read(&mut self, _: i64, out: &mut [Vec<f32>]) -> Result<(), Self::Error> {
        out.iter_mut().for_each(|channel| channel.fill(0.0));
        Ok(())
    }
}

fn all(correction: Correction) -> SoundHabit {
    SoundHabit {
        all: Handling { correction: Some(correction), fill: Fill::Silence },
        ..SoundHabit::default()
    }
}

/// The clips of a track, with the moment at which each begins, seconds.
fn clips_of(track: &Value) -> Vec<(f64, Value)> {
    let mut at_s = 0.0;
    let mut found = vec![];
    for item in track["children"].as_array().expect("items") {
        if item["OTIO_SCHEMA"] == "Clip.2" {
            found.push((at_s, item.clone()));
        }
        at_s += seconds(&item["source_range"]["duration"]);
    }
    found
}

#[test]
fn a_picture_with_another_clock_is_cut_anew_by_whole_frames() {
    let (group, sources, _) = an_hour(100.0, 0.0, SoundHabit::default());
    let angle = group.angles.iter().find(|angle| angle.id == AngleId(1)).expect("the camera");
    let document = group_document(&group, &sources, None);
    let pieces = clips_of(&document["tracks"]["children"][0]);
    // 100 ppm of an hour are nine frames.
    assert!((9..=11).contains(&pieces.len()), "{}", pieces.len());
    let mut frames = 0;
    for (at_s, piece) in &pieces {
        let (begin, first) =
            ((at_s * 25.0).round() as i64, piece["source_range"]["start_time"]["value"].as_f64());
        let length = piece["source_range"]["duration"]["value"].as_f64().expect("a length") as i64;
        for frame in begin..begin + length {
            let shown = first.expect("a frame") as i64 + frame - begin;
            let part = group.part_at(AngleId(1), frame).expect("it runs");
            // Within a twentieth of its turn.
            let into = group.clip_position(part, frame) - shown as f64;
            assert!((-0.051..1.051).contains(&into), "frame {frame} shows {shown}, {into}");
        }
        assert_eq!(
            (&piece["effects"], &piece["metadata"]["metaxis"]["correction"]),
            (&json!([]), &json!("recut"))
        );
        frames += length;
    }
    assert_eq!(frames, angle.parts.iter().map(|part| part.to_frame - part.from_frame).sum::<i64>());

    // Played a little slower instead, or left as it is: one piece.
    for (correction, speed) in [(Correction::Resample, Some(1.0001)), (Correction::Leave, None)] {
        let (group, sources, _) = an_hour(100.0, 0.0, all(correction));
        let pieces = clips_of(&group_document(&group, &sources, None)["tracks"]["children"][0]);
        assert_eq!(pieces.len(), 1);
        let warp = pieces[0].1["effects"].get(0).map(|warp| warp["time_scalar"].as_f64().expect("a speed"));
        assert_eq!(warp.map(|own| (own * 1e9).round()), speed.map(|own: f64| (own * 1e9).round()));
    }
}

#[test]
fn a_recorders_sound_goes_out_as_it_is_corrected() {
    let sound = |correction: Correction| {
        let (group, sources, laid) = an_hour(0.0, 100.0, all(correction));
        let document = group_document(&group, &sources, Some(&laid));
        let tracks = document["tracks"]["children"].as_array().expect("tracks").clone();
        let track = tracks.into_iter().find(|track| track["kind"] == "Audio").expect("the sound");
        let whole: f64 = track["children"]
            .as_array()
            .expect("items")
            .iter()
            .map(|item| seconds(&item["source_range"]["duration"]))
            .sum();
        assert!((whole - group.frames as f64 / 25.0).abs() < 1e-9);
        clips_of(&track)
    };
    /// The furthest that a piece is from where the recorder has its moment, milliseconds.
    fn off_ms(pieces: &[(f64, Value)]) -> f64 {
        let off = |(at_s, piece): &(f64, Value)| {
            let speed =
                piece["effects"].get(0).map_or(1.0, |warp| warp["time_scalar"].as_f64().expect("a speed"));
            let length_s = seconds(&piece["source_range"]["duration"]);
            let own_s = seconds(&piece["source_range"]["start_time"]);
            let ends = [(*at_s, own_s), (at_s + length_s, own_s + length_s * speed)];
            ends.map(|(at_s, own_s)| 1e3 * (own_s - (at_s - 2.0) * 1.0001).abs())
                .into_iter()
                .fold(0.0, f64::max)
        };
        pieces.iter().map(off).fold(0.0, f64::max)
    }
    let resampled = sound(Correction::Resample);
    assert_eq!(
        (resampled.len(), resampled[0].1["metadata"]["metaxis"]["correction"].clone()),
        (1, json!("resample"))
    );
    assert!(off_ms(&resampled) < 0.1, "{}", off_ms(&resampled));
    let recut = sound(Correction::Recut);
    assert!(recut.len() > 15 && recut.iter().all(|(_, piece)| piece["effects"] == json!([])));
    assert!(off_ms(&recut) < 10.1, "{}", off_ms(&recut));
    let left = sound(Correction::Leave);
    assert_eq!((left.len(), left[0].1["effects"].clone()), (1, json!([])));
    assert!((off_ms(&left) - 360.0).abs() < 1.0, "{}", off_ms(&left));
    let why = left[0].1["metadata"]["metaxis"]["why"].as_str().expect("a reason");
    assert!(why.contains("+100.0 ppm ends 9.0 frames late: resample"), "{why}");
}

#[test]
fn dissolves_and_markers_go_out() {
    let (group, mut line, sources) = setting();
    line.apply(&LineEdit::Dissolve { index: 1, frames: 12 }).expect("a dissolve");
    let marker = Marker { at: 40, colour: MarkerColour::Plum, note: "the bell".into() };
    line.apply(&LineEdit::PutMarker { marker }).expect("a marker");
    let list = the_list(&group, &line, &sources);
    let events: Vec<&str> = list.lines().filter(|own| own.starts_with("004")).collect();
    // What it comes out of stands there with no length, at the label where it ended.
    assert_eq!(
        events,
        [
            "004  A001C03  V     C        09:14:12:00 09:14:12:00 09:14:12:00 09:14:12:00",
            "004  GAL0181  V     D    012 00:00:08:00 00:00:09:24 09:14:12:00 09:14:13:24",
        ]
    );
    let document = line_document(&group, &line, &sources, None);
    let picture = &document["tracks"]["children"][0];
    let kinds: Vec<&str> = picture["children"]
        .as_array()
        .expect("items")
        .iter()
        .filter_map(|own| own["OTIO_SCHEMA"].as_str())
        .collect();
    assert_eq!(&kinds[..4], ["Gap.1", "Clip.2", "Transition.1", "Clip.2"]);
    let dissolve = &picture["children"][2];
    assert_eq!(
        (&dissolve["in_offset"]["value"], &dissolve["out_offset"]["value"]),
        (&json!(0.0), &json!(12.0))
    );
    assert_eq!(document["metadata"]["metaxis"].get("heard"), None);
    let sound = LineEdit::Sound { edit: Box::new(LineEdit::take(100, AngleId(2))) };
    line.apply(&sound).expect("other sound");
    let other = line_document(&group, &line, &sources, None);
    let heard = &other["metadata"]["metaxis"]["heard"];
    assert_eq!(heard[1]["from"], 100);
    // As cuts: the recorder is cut out from there on, and the camera's own sound lies above it.
    let length = |own: &Value| seconds(&own["source_range"]["duration"]);
    let tracks = other["tracks"]["children"].as_array().expect("tracks");
    let [own, grid] = ["Heard with the line", "R Recorder"].map(|name| {
        let found = tracks.iter().find(|own| own["name"] == name).expect("a track");
        found["children"].as_array().expect("items").clone()
    });
    assert_eq!((grid[0]["OTIO_SCHEMA"].as_str(), length(&grid[0])), (Some("Clip.2"), 4.0));
    assert!(grid[1..].iter().all(|own| own["OTIO_SCHEMA"] == "Gap.1"));
    assert_eq!((own[0]["OTIO_SCHEMA"].as_str(), length(&own[0])), (Some("Gap.1"), 4.0));
    assert_eq!(own[1]["name"], "GAL_0181.mp4");
    for items in [&own, &grid] {
        assert!((items.iter().map(length).sum::<f64>() - 30.0).abs() < 1e-6);
    }
    assert_eq!((heard[0]["angle"].clone(), heard[1]["angle"].is_string()), (Value::Null, true));
    let own = &picture["markers"][0];
    assert_eq!((&own["name"], &own["color"]), (&json!("the bell"), &json!("PURPLE")));
    assert_eq!(own["marked_range"]["start_time"]["value"], 40.0);
}

#[test]
fn slow_motion_over_the_line_goes_out_with_its_speed_and_moves_nothing() {
    let (group, mut line, sources) = setting();
    let fast = FrameRate::new(50, 1).expect("a rate");
    let speed = Speed::frame_by_frame(fast, group.rate()).expect("a speed");
    let own = Layer {
        at: 100,
        frames: 50,
        clip: ClipId(2),
        from: 40,
        skip: 0,
        speed,
        blended: false,
        own_sound: false,
    };
    line.apply(&LineEdit::Lay { layer: own.clone() }).expect("a layer");
    let list = the_list(&group, &line, &sources);
    let own_events: Vec<&str> =
        list.lines().filter(|own| !own.starts_with('*') && !own.contains(" A ")).collect();
    assert_eq!(
        &own_events[4..8],
        [
            "003  A001C03  V     C        09:14:02:00 09:14:04:00 09:14:02:00 09:14:04:00",
            "004  GAL0181  V     C        00:00:00:20 00:00:01:20 09:14:04:00 09:14:06:00",
            "M2   GAL0181  012.5                 00:00:00:20",
            "005  A001C03  V     C        09:14:06:00 09:14:12:00 09:14:06:00 09:14:12:00",
        ],
        "{list}"
    );
    assert!(!list.contains("BLENDED"));

    // A track above the line's, which is as it was.
    let document = line_document(&group, &line, &sources, None);
    let bare = line_document(&group, &line.bare(), &sources, None);
    let tracks = |own: &Value| own["tracks"]["children"].as_array().expect("tracks").clone();
    assert_eq!(tracks(&document)[0], tracks(&bare)[0]);
    assert_eq!(tracks(&document).len(), tracks(&bare).len() + 1);
    let over = &tracks(&document)[1]["children"];
    assert_eq!(
        (over[0]["OTIO_SCHEMA"].as_str(), over[1]["name"].as_str()),
        (Some("Gap.1"), Some("GAL_0181.mp4"))
    );
    assert_eq!(over[1]["source_range"]["start_time"]["value"], 40.0);
    assert_eq!(over[1]["effects"][0]["time_scalar"], 0.5);
    assert_eq!(over[1]["metadata"]["metaxis"]["frames_between"], "whole");

    // As a part it shows the same frames as by its own count, at the speed that its frames carry.
    let facts = &sources.clips[&ClipId(2)].facts;
    let part = own.part(&group, facts.picture.as_ref().expect("a picture"), facts.picture_delay_s());
    for frame in 100..150 {
        assert_eq!(group.clip_frame(&part, frame), own.clip_frame(frame, fast, group.rate()));
        assert_eq!(group.clip_frame(&part, frame), 40 + frame - 100);
    }
    let picture = facts.picture.as_ref().expect("a picture");
    let long = Layer { frames: 10_000, ..own.clone() };
    assert_eq!(long.fitted(picture, group.rate()).map(|own| own.frames), Some(460));
    assert_eq!(Layer { from: 500, ..own }.fitted(picture, group.rate()), None);
}

#[test]
fn lines_one_behind_another_are_recorded_without_holes() {
    let (group, line, sources) = setting();
    let line =
        |range| AssembledPart { group: group.clone(), line: line.clone(), range, sound: None, is_gap: false };
    let speed = Speed::new(1, 2).expect("a speed");
    let slow = Layer {
        at: 7,
        frames: 25,
        clip: ClipId(2),
        from: 50,
        skip: 0,
        speed,
        blended: true,
        own_sound: false,
    };
    let rate = group.rate();
    let parts =
        [line((290, 310)), AssembledPart::gap(10, rate), AssembledPart::clip(&slow, rate), line((0, 60))];
    let start = Timecode::parse("01:00:00:00", rate).expect("a label");
    let list = assembly_lists("Both", start, &parts, &sources).concat();
    let events: Vec<&str> = list.lines().filter(|own| own.starts_with('0') && own.contains(" V ")).collect();
    assert_eq!(
        events,
        [
            "001  A001C03  V     C        09:14:11:15 09:14:12:00 01:00:00:00 01:00:00:10",
            "003  GAL0181  V     C        00:00:08:00 00:00:08:10 01:00:00:10 01:00:00:20",
            "004  BL       V     C        00:00:00:00 00:00:00:10 01:00:00:20 01:00:01:05",
            "005  GAL0181  V     C        00:00:01:00 00:00:01:13 01:00:01:05 01:00:02:05",
            "006  BL       V     C        00:00:00:00 00:00:02:00 01:00:02:05 01:00:04:05",
            "008  A001C03  V     C        09:14:02:00 09:14:02:10 01:00:04:05 01:00:04:15",
        ],
        "{list}"
    );
    assert!(list.contains("M2   GAL0181  012.5") && list.contains("BLENDED"));

    let document = assembly_document("Both", start, &parts, &sources);
    let items = document["tracks"]["children"][0]["children"].as_array().expect("items");
    let kinds: Vec<&str> = items.iter().filter_map(|own| own["OTIO_SCHEMA"].as_str()).collect();
    assert_eq!(kinds, ["Stack.1", "Gap.1", "Stack.1", "Stack.1"]);
    let length: f64 = items.iter().map(|own| seconds(&own["source_range"]["duration"])).sum();
    assert!((length - 115.0 / 25.0).abs() < 1e-9);
    assert_eq!(items[0]["source_range"]["start_time"]["value"], 290.0);
}

#[test]
fn a_list_names_sources_by_the_labels_on_their_files() {
    // Cameras whose labels run otherwise than the clock: pulled down, and drop-frame, in a list of 25 frames a second.
    for (num, den, label, expected) in [
        (24_000, 1001, "10:00:00:00", ["10:00:04:04", "10:00:08:04"]),
        (30_000, 1001, "10:00:58;00", ["10:01:02:04", "10:01:06:04"]),
        (50, 1, "23:59:58:00", ["00:00:02:04", "00:00:06:04"]),
    ] {
        let rate = FrameRate::new(num, den).expect("a rate");
        let mut own = camera(40.0, 25);
        own.picture.as_mut().expect("a picture").rate = rate;
        own.timecode = Some(Timecode::parse(label, rate).expect("a label"));
        let facts = [recorder(40.0), camera(40.0, 25), camera(40.0, 25), own];
        let placed = [0.0; 4].map(|start_s| at(start_s, 40.0, 0.0));
        let clips = placed_clips(&facts, &placed, &[9, 1, 2, 3], Some(0));
        let order = [1, 2, 3, 9].map(DeviceId);
        let group = ran_together(&clips, Tick::from_seconds(36_000.0), &order).remove(0);
        assert_eq!(group.rate(), FrameRate::FPS_25);
        let mut sources = Sources::default();
        for (id, facts) in (0..).map(ClipId).zip(facts) {
            let source = Source {
                file_name: format!("clip-{}", id.0),
                url: String::new(),
                facts,
                ..Source::default()
            };
            sources.clips.insert(id, source);
        }
        let mut line = Line::new(group.frames, AngleId(1));
        line.apply(&LineEdit::take(104, AngleId(3))).expect("a take");
        line.apply(&LineEdit::take(204, AngleId(2))).expect("a take");
        let list = the_list(&group, &line, &sources);
        let event = list.lines().filter(|own| own.contains(" V ")).nth(1).expect("an event");
        let fields: Vec<&str> = event.split_whitespace().collect();
        // Four seconds and four frames in, as near as the list's frames are.
        let seconds = |text: &str| text[..8].to_owned();
        for (field, expected) in [(fields[4], expected[0]), (fields[5], expected[1])] {
            let off = (Timecode::parse(field, FrameRate::FPS_25).expect("a label").frames
                - Timecode::parse(expected, FrameRate::FPS_25).expect("a label").frames)
                .abs();
            assert!(off <= 1 && seconds(field) == seconds(expected), "{num}/{den}: {event}, not {expected}");
        }
    }
}

#[test]
fn no_two_sources_have_one_reel() {
    let (group, line, sources) = setting();
    let reels = |names: [(&str, Option<&str>); 3]| -> (Vec<String>, String) {
        let mut sources = sources.clone();
        for (clip, (name, reel)) in (1..).zip(names) {
            let own = sources.clips.get_mut(&ClipId(clip)).expect("a clip");
            own.file_name = format!("{name}.mov");
            own.facts.reel = reel.map(Into::into);
        }
        let list = the_list(&group, &line, &sources);
        let own = list.lines().filter(|own| own.starts_with('0') && own.contains(" V "));
        let own = own.filter_map(|own| own.split_whitespace().nth(1)).filter(|own| *own != "BL");
        (own.map(str::to_owned).collect(), list.clone())
    };
    let file = |name: &'static str| (name, None);
    // Equal names, names that shorten alike, names without a letter of the form, a name that means black.
    let (own, _) = reels([file("CLIP0001"), file("CLIP0001"), file("\u{93c4}")]);
    assert_eq!(own, ["CLIP0001", "CLIP0002", "R1"]);
    let (own, list) = reels([file("CAMERA_A_0001"), file("CAMERA_A_0002"), file("BL")]);
    assert_eq!(own, ["CAMERAA0", "CAMERAA1", "BL1"]);
    assert!(
        list.ends_with(
            "* REEL CAMERAA0 IS CAMERA_A_0001\r\n* REEL CAMERAA1 IS CAMERA_A_0002\r\n* REEL BL1 IS BL\r\n"
        ),
        "{list}"
    );
    // What a device wrote on one reel is one.
    let (own, _) = reels([("a", Some("TAPE7")), ("b", Some("TAPE7")), ("c", Some("TAPE8"))]);
    assert_eq!(own, ["TAPE7", "TAPE7", "TAPE8"]);
}

#[test]
fn every_angle_of_a_shot_can_be_chosen_at_the_same_moment() {
    let (group, sources) = any_group([25, 50, 25], [0.0, 1.0, 2.5], [0.0, 0.0, 0.0]);
    let mut line = Line::new(group.frames, AngleId(1));
    line.apply(&LineEdit::take(200, AngleId(2))).expect("a take");
    line.apply(&LineEdit::take(400, AngleId(3))).expect("a take");
    line.apply(&LineEdit::take(600, AngleId(1))).expect("a take");
    let document = choices_document(&group, &line, &sources);
    let items = document["tracks"]["children"][0]["children"].as_array().expect("items");
    let shots: Vec<&Value> = items.iter().filter(|own| own["OTIO_SCHEMA"] == "Clip.2").collect();
    let active: Vec<i64> = shots
        .iter()
        .map(|own| {
            let active = own["active_media_reference_key"].as_str().expect("a name");
            own["media_references"][active]["metadata"]["metaxis"]["clip_id"].as_i64().expect("a clip")
        })
        .collect();
    assert_eq!(active, [1, 2, 3, 1]);
    // Where all of them ran.
    for own in &shots[1..3] {
        let all = own["media_references"].as_object().expect("angles");
        assert_eq!(all.len(), 3, "{all:?}");
        let range = &own["source_range"];
        for reference in all.values() {
            let clip = ClipId(reference["metadata"]["metaxis"]["clip_id"].as_i64().expect("a clip"));
            // By the labels of the group, what each shows at the head of the shot is what the group shows.
            let into_s = seconds(&range["start_time"]) - seconds(&reference["available_range"]["start_time"]);
            let angle = group.angles.iter().find(|own| own.parts[0].clip == clip).expect("the angle");
            let head = (seconds(&range["start_time"]) * 25.0).round() as i64 - group.start.frames;
            let part = group.part_at(angle.id, head).expect("a part");
            let shown = (into_s * part.rate.as_f64() + 1e-6).floor() as i64;
            assert_eq!(shown, group.clip_frame(part, head), "{reference}");
        }
    }
}
