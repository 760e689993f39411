//! Documents read back: what was written is what is read, and what somebody changed elsewhere is seen.

use crate::common::{a_group, camera};
use metaxis_core::{
    clip::ClipId,
    film::{Film, Seen},
    group::{AngleId, Group},
    line::{Layer, Line, LineEdit, Marker, MarkerColour, Speed},
    time::FrameRate,
    turnover::{
        ReadBack, ReadError, Source, Sources, choices_document, cut_lists, line_document, nested_document,
        read_line,
    },
};
use proptest::prelude::*;
use serde_json::{Value, json};

const NAMES: [&str; 4] = ["TH-001.wav", "A001C03.mov", "GAL_0181.mp4", "GAL 0182ü.mp4"];

fn setting() -> (Group, Line, Sources) {
    let (facts, group) = a_group();
    let mut sources = Sources::default();
    for (number, (facts, name)) in facts.into_iter().zip(NAMES).enumerate() {
        let url = format!("file:///cards/{}", name.replace(' ', "%20"));
        let source = Source { file_name: name.into(), url, facts, ..Source::default() };
        sources.clips.insert(ClipId(number as i64), source);
    }
    let line = Line::new(group.frames, AngleId(1));
    (group, line, sources)
}

fn lists(group: &Group, line: &Line, sources: &Sources) -> Vec<u8> {
    let lists = cut_lists(group, line, sources);
    assert_eq!(lists.len(), 1);
    lists.concat().into_bytes()
}

/// What is read, made of `own`.
fn read(document: &[u8], (group, own, sources): (&Group, &Line, &Sources)) -> (Line, ReadBack) {
    let read = read_line(document, group, own, sources).unwrap_or_else(|e| panic!("{e}"));
    let mut line = own.clone();
    let _ = line.apply(&read.edit);
    (line, read)
}

fn bytes(document: &Value) -> Vec<u8> {
    serde_json::to_vec(document).expect("JSON")
}

/// What is seen at each frame of a line where nothing dissolves in `line`, without the last two of clips: documents ask for no frame
/// of which not all is there, and say nothing of what only a dissolve would show.
fn seen((group, sources): (&Group, &Sources), own: &Line, line: &Line) -> Vec<Vec<Seen>> {
    let facts = |clip: ClipId| sources.clips.get(&clip).map(|own| &own.facts);
    let film = Film::of_line(group.clone(), own.clone(), facts);
    let ends: Vec<i64> = group.angles.iter().flat_map(|own| &own.parts).map(|own| own.to_frame).collect();
    let is_last = |frame: i64| ends.iter().any(|end| (end - 2..*end).contains(&frame));
    let frames = (0..group.frames).filter(|own| !is_last(*own) && line.on_air(*own).coming.is_none());
    frames.map(|frame| film.seen(frame)).collect()
}

fn an_edit() -> impl Strategy<Value = LineEdit> {
    // Slow ones have a place of their own: of one whose head is cut off within a frame no document says so.
    let own_pace = (0_i64..500, 1_i64..90, Just((1, 1)));
    let slow = (Just(600), Just(100), prop::sample::select(vec![(1, 2), (5, 24)]));
    let layer = (prop_oneof![own_pace, slow], 1_i64..4, 0_i64..100);
    let layer = layer.prop_map(|((at, frames, (num, den)), clip, from)| Layer {
        at,
        frames,
        clip: ClipId(clip),
        from,
        skip: 0,
        speed: Speed::new(num, den).expect("a speed"),
        blended: false,
        own_sound: false,
    });
    let angle = prop::sample::select(vec![AngleId::BLACK, AngleId(1), AngleId(2)]);
    prop_oneof![
        6 => (0_i64..750, angle).prop_map(|(at, angle)| LineEdit::take(at, angle)),
        2 => (1_usize..6, 1_i64..40).prop_map(|(index, frames)| LineEdit::Dissolve { index, frames }),
        1 => layer.prop_map(|layer| LineEdit::Lay { layer }),
        2 => a_marker().prop_map(|marker| LineEdit::PutMarker { marker }),
    ]
}

fn a_marker() -> impl Strategy<Value = Marker> {
    let colour = prop::sample::select(vec![
        MarkerColour::Brass,
        MarkerColour::Moss,
        MarkerColour::Plum,
        MarkerColour::Slate,
    ]);
    (0_i64..750, colour, "([a-zA-Z0-9?ü%]{1,9} ){0,12}[a-z]").prop_map(|(at, colour, note)| Marker {
        at,
        colour,
        note,
    })
}

fn made(frames: i64, edits: &[LineEdit]) -> Line {
    let mut line = Line::new(frames, AngleId(1));
    for edit in edits {
        let _ = line.apply(edit);
    }
    line
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]
    /// A line that goes out and comes back without a change is the line, whatever the group's own has become meanwhile; of a list
    /// that is so without what lies over the line, which it flattens.
    #[test]
    fn what_was_written_is_what_is_read(
        edits in prop::collection::vec(an_edit(), 0..12), meanwhile in prop::collection::vec(an_edit(), 0..4)
    ) {
        let (group, _, sources) = setting();
        let line = made(group.frames, &edits);
        let with = (&group, &sources);
        for (name, document) in [
            ("line", bytes(&line_document(&group, &line, &sources, None))),
            ("choices", bytes(&choices_document(&group, &line, &sources))),
            ("nested", bytes(&nested_document(&group, &line, &sources, None))),
            ("list", lists(&group, &line.bare(), &sources)),
        ] {
            let line = if name == "line" || name == "nested" { line.clone() } else { line.bare() };
            let shown = seen(with, &line, &line);
            for own in [&line, &made(group.frames, &meanwhile)] {
                let told = match read_line(&document, &group, own, &sources) {
                    // Of black alone there is nothing to be read.
                    Err(ReadError::Empty) if shown.iter().all(Vec::is_empty) => continue,
                    told => told.expect("a line"),
                };
                let mut read = own.clone();
                let _ = read.apply(&told.edit);
                prop_assert_eq!(seen(with, &read, &line), shown.clone(), "{}", name);
                // Where it has none, those of the group stay. A list has no colours, and not all letters: whoever has it, knows it.
                let markers = if line.markers().is_empty() { own.markers() } else { line.markers() };
                prop_assert_eq!(told.markers, line.markers().len(), "{}: {:?}", name, told.remarks);
                if name != "list" || own == &line {
                    prop_assert_eq!(read.markers(), markers, "{}", name);
                } else {
                    let moments = |all: &[Marker]| all.iter().map(|own| own.at).collect::<Vec<i64>>();
                    prop_assert_eq!(moments(read.markers()), moments(markers));
                }
                // A list has black that comes out of black as one, and no dissolve longer than what comes.
                if own == &line && name != "list" {
                    prop_assert_eq!(read.switches(), line.switches(), "{}: {:?}", name, told.remarks);
                }
            }
        }
    }

    /// Whatever somebody gives it, it answers.
    #[test]
    fn nothing_that_is_given_breaks_it(
        text in "\\PC{0,300}", at in 0_usize..4000, put in any::<u8>(), number in prop::sample::select(vec![
            json!(1e308), json!(-1e300), json!(i64::MAX), json!(0), json!(null), json!("many"), json!([]),
        ]), path in prop::sample::select(vec!["value", "rate", "time_scalar", "children", "source_range"])
    ) {
        let (group, own, sources) = setting();
        let _ = read_line(text.as_bytes(), &group, &own, &sources);
        let line = made(group.frames, &[LineEdit::take(300, AngleId(2))]);
        let mut document = line_document(&group, &line, &sources, None);
        change(&mut document, &mut |own| if let Some(there) = own.get_mut(path) { *there = number.clone(); });
        let _ = read_line(&bytes(&document), &group, &own, &sources);
        for mut whole in [lists(&group, &line, &sources), bytes(&line_document(&group, &line, &sources, None))] {
            if let Some(own) = whole.get_mut(at) {
                *own = put;
            }
            let _ = read_line(&whole, &group, &own, &sources);
        }
    }
}

/// Does something to every object of a document.
fn change(value: &mut Value, with: &mut dyn FnMut(&mut Value)) {
    if value.is_object() {
        with(value);
    }
    match value {
        Value::Object(all) => all.values_mut().for_each(|own| change(own, with)),
        Value::Array(all) => all.iter_mut().for_each(|own| change(own, with)),
        _ => {}
    }
}

/// A line that cuts from A to B at 300 and back at 500.
fn cut() -> Vec<LineEdit> {
    vec![LineEdit::take(300, AngleId(2)), LineEdit::take(500, AngleId(1))]
}

fn picture_track(document: &mut Value) -> &mut Vec<Value> {
    document["tracks"]["children"][0]["children"].as_array_mut().expect("items")
}

fn start_of(time: &mut Value) -> f64 {
    time["value"].as_f64().expect("a number")
}

#[test]
fn a_cut_that_was_moved_elsewhere_is_moved_here() {
    let (group, own, sources) = setting();
    let line = made(group.frames, &cut());
    let mut document = line_document(&group, &line, &sources, None);
    // Somebody lets A stand ten frames longer, and takes them from B.
    let items = picture_track(&mut document);
    let at = items.iter().position(|own| own["name"] == NAMES[1]).expect("A");
    let longer = start_of(&mut items[at]["source_range"]["duration"]) + 10.0;
    items[at]["source_range"]["duration"]["value"] = json!(longer);
    let range = &mut items[at + 1]["source_range"];
    let rate = range["start_time"]["rate"].as_f64().expect("a rate");
    range["start_time"]["value"] = json!(start_of(&mut range["start_time"]) + 10.0 * rate / 25.0);
    range["duration"]["value"] = json!(start_of(&mut range["duration"]) - 10.0);
    // It begins with an hour there, as it does with many.
    document["global_start_time"] = json!({ "OTIO_SCHEMA": "RationalTime.1", "value": 90_000, "rate": 25 });
    let (read, told) = read(&bytes(&document), (&group, &own, &sources));
    let wanted = made(group.frames, &[LineEdit::take(310, AngleId(2)), LineEdit::take(500, AngleId(1))]);
    assert_eq!(read.switches(), wanted.switches());
    assert!(
        told.remarks.len() == 1 && told.remarks[0].contains("begins at 09:14:00:00"),
        "{:?}",
        told.remarks
    );
}

#[test]
fn what_is_not_at_its_moment_lies_over_the_line_and_what_is_unknown_is_said() {
    let (group, own, sources) = setting();
    let line = made(group.frames, &cut());
    let mut document = line_document(&group, &line, &sources, None);
    let items = picture_track(&mut document);
    let of = |items: &[Value], name: &str| items.iter().position(|own| own["name"] == name).expect("a shot");
    // The second of A is slipped by 20 frames; that of B is another's file.
    let second = items.iter().rposition(|own| own["name"] == NAMES[1]).expect("A again");
    assert!(second > of(items, NAMES[1]));
    let start = &mut items[second]["source_range"]["start_time"];
    start["value"] = json!(start_of(start) - 20.0);
    let b = of(items, NAMES[2]);
    items[b]["name"] = json!("other.mov");
    for what in ["name", "target_url"] {
        items[b]["media_references"]["DEFAULT_MEDIA"][what] = json!("http://nowhere.example/other.mov");
    }
    let (read, told) = read(&bytes(&document), (&group, &own, &sources));
    assert_eq!((read.angle_at(100), read.angle_at(320)), (AngleId(1), AngleId::BLACK));
    let [layer] = read.layers() else { panic!("{:?}", read.layers()) };
    assert_eq!((layer.clip, layer.at, layer.from), (ClipId(1), 500, 430));
    let said = told.remarks.join("; ");
    assert!(said.contains("1 shot is of a file that is not in this day (“other.mov”)"), "{said}");
    assert!(said.contains("1 shot is not what an angle shows at that moment"), "{said}");
}

#[test]
fn what_others_write_is_read_too() {
    let (group, own, sources) = setting();
    let time =
        |value: f64, rate: f64| json!({ "OTIO_SCHEMA": "RationalTime.1", "value": value, "rate": rate });
    let range = |from: f64, length: f64, rate: f64| json!({ "OTIO_SCHEMA": "TimeRange.1", "start_time": time(from, rate), "duration": time(length, rate) });
    // Labels of the file, no range of what is available, an older clip, a dissolve about the cut, a track that is off, one above.
    let label = (((9 * 60 + 14) * 60) + 2) as f64 * 25.0;
    let clip = |name: &str, from: f64, length: f64, rate: f64| {
        json!({
            "OTIO_SCHEMA": "Clip.1", "name": "shot", "source_range": range(from, length, rate),
            "media_reference": { "OTIO_SCHEMA": "ExternalReference.1", "target_url": format!("D:\\cards\\{name}"), "available_range": null },
        })
    };
    let dissolve =
        json!({ "OTIO_SCHEMA": "Transition.1", "in_offset": time(6.0, 25.0), "out_offset": time(6.0, 25.0) });
    let track = |kind: &str, enabled: bool, children: Value| json!({ "OTIO_SCHEMA": "Track.1", "kind": kind, "enabled": enabled, "children": children });
    let nested = json!({
        "OTIO_SCHEMA": "Stack.1", "source_range": range(50.0, 100.0, 25.0),
        "children": [track("Video", true, json!([clip("a001c03.MOV", label, 200.0, 25.0)]))],
    });
    let document = json!({
        "OTIO_SCHEMA": "Timeline.1", "name": "Cut", "global_start_time": null,
        "tracks": { "OTIO_SCHEMA": "Stack.1", "children": [
            track("Video", false, json!([clip("gone.mov", 0.0, 900.0, 25.0)])),
            track("Video", true, json!([nested, dissolve, clip("GAL_0181.mp4", 200.0, 100.0, 50.0)])),
            track("Audio", true, json!([clip("gone.wav", 0.0, 900.0, 25.0)])),
            track("Video", true, json!([
                { "OTIO_SCHEMA": "Gap.1", "source_range": range(0.0, 30.0, 25.0) }, clip("GAL 0182%C3%BC.mp4", 10.0, 40.0, 50.0),
            ])),
        ] },
    });
    let (read, told) = read(&bytes(&document), (&group, &own, &sources));
    // A's frame 50 is on screen at frame 100 of the group; B's 200 of 50 four seconds after it began, at 200.
    assert_eq!(
        (read.angle_at(99), read.angle_at(100), read.angle_at(193)),
        (AngleId::BLACK, AngleId(1), AngleId(1))
    );
    assert_eq!(read.angle_at(150), AngleId(1));
    let into = read.switches().iter().find(|own| own.angle == AngleId(2)).expect("B");
    assert_eq!((into.at, into.dissolve), (194, 12), "{:?} {:?}", read.switches(), told);
    let [layer] = read.layers() else { panic!("{:?}", read.layers()) };
    assert_eq!((layer.clip, layer.at, layer.frames, layer.from), (ClipId(3), 130, 20, 10));
}

#[test]
fn markers_that_were_put_elsewhere_are_put_here() {
    let (group, own, mut sources) = setting();
    if let Some(source) = sources.clips.get_mut(&ClipId(1)) {
        source.origin.marks = vec![(4.0, "slate 12/1".into())];
    }
    let line = made(group.frames, &cut());
    let mut document = line_document(&group, &line, &sources, None);
    let mark = |value: f64, rate: f64, name: &str, comment: &str, colour: &str| {
        let time = |value: f64| json!({ "OTIO_SCHEMA": "RationalTime.1", "value": value, "rate": rate });
        let range = json!({ "OTIO_SCHEMA": "TimeRange.1", "start_time": time(value), "duration": time(0.0) });
        json!({ "OTIO_SCHEMA": "Marker.2", "name": name, "comment": comment, "color": colour, "marked_range": range })
    };
    document["tracks"]["markers"] =
        json!([mark(2.0, 1.0, "Look", "", "GREEN"), mark(9e9, 1.0, "never", "", "RED")]);
    let items = picture_track(&mut document);
    let b = items.iter().position(|own| own["name"] == NAMES[2]).expect("B");
    let start = &items[b]["source_range"]["start_time"];
    let (value, rate) = (start["value"].as_f64().expect("a value"), start["rate"].as_f64().expect("a rate"));
    // A second behind its cut, by its own time; one before it, which is not seen; and one twice at a frame.
    items[b]["markers"] = json!([
        mark(value + rate, rate, "Softer", "than\nthe other", "MAGENTA"),
        mark(value - rate, rate, "not seen", "", "RED"),
        mark(value + rate, rate, "Softer", "Softer, please", "WHITE"),
    ]);
    let (read, told) = read(&bytes(&document), (&group, &own, &sources));
    let there = |at: i64, colour: MarkerColour, note: &str| Marker { at, colour, note: note.into() };
    let wanted = [
        there(50, MarkerColour::Moss, "Look"),
        there(325, MarkerColour::Plum, "Softer / than the other / Softer, please"),
    ];
    assert_eq!((read.markers(), told.markers), (&wanted[..], 2), "{:?}", told.remarks);
    // Where the group has markers too, going there keeps both, however often.
    let mut ours = own.clone();
    for own in [there(50, MarkerColour::Brass, "ours"), there(7, MarkerColour::Brass, "alone")] {
        ours.apply(&LineEdit::PutMarker { marker: own }).expect("a marker");
    }
    let both = ours.markers_with(&read);
    let notes: Vec<(i64, &str)> = both.iter().map(|own| (own.at, own.note.as_str())).collect();
    assert_eq!(notes, [(7, "alone"), (50, "ours / Look"), (325, wanted[1].note.as_str())]);
    let mut again = ours.clone();
    again
        .apply(&LineEdit::Restore {
            switches: ours.switches().to_vec(),
            markers: Some(both.clone()),
            layers: None,
            sound: None,
        })
        .expect("a line");
    assert_eq!(again.markers_with(&read), both);
}

#[test]
fn lists_of_others_are_read_by_reel_and_label() {
    let (group, own, mut sources) = setting();
    let facts = &mut sources.clips.get_mut(&ClipId(1)).expect("a clip").facts;
    facts.reel = Some("A001R1".into());
    let list = "TITLE: CUT\nFCM: NON-DROP FRAME\n\n\
        001  A001R1   V     C        09:14:04:00 09:14:08:00 01:00:00:00 01:00:04:00\n\
        002  A001R1   V     C        09:14:08:00 09:14:08:00 01:00:04:00 01:00:04:00\n\
        002  GAL      V     D    012 00:00:04:00 00:00:08:00 01:00:04:00 01:00:08:00\n\
        * FROM CLIP NAME: A001\n* TO CLIP NAME: gal_0181\n\
        003  AX       AA/V  C        00:00:00:00 00:00:01:00 01:00:08:00 01:00:09:00\n\
        * FROM CLIP NAME: title\n\
        004  A001R1   A     C        09:14:04:00 09:14:08:00 01:00:00:00 01:00:04:00\n";
    let (read, told) = read(list.as_bytes(), (&group, &own, &sources));
    assert_eq!((read.angle_at(100), read.angle_at(199)), (AngleId(1), AngleId(1)));
    let into = read.switches().iter().find(|own| own.angle == AngleId(2)).expect("B");
    assert_eq!((into.at, into.dissolve, told.shots), (200, 12, 2), "{:?} {told:?}", read.switches());
    let said = told.remarks.join("; ");
    assert!(said.contains("1 event is of sound") && said.contains("“title”"), "{said}");
}

#[test]
fn what_cannot_be_read_is_said() {
    let (group, own, sources) = setting();
    let why = |document: &[u8]| read_line(document, &group, &own, &sources).expect_err("refused");
    assert!(matches!(why(b""), ReadError::Unknown(_)));
    assert!(matches!(why(&[0xff, 0xfe, 0x00]), ReadError::Unknown(_)));
    assert!(matches!(why(b"{\"OTIO_SCHEMA\": \"Clip.2\"}"), ReadError::Unknown(_)));
    assert!(matches!(why(b"<xml/>"), ReadError::Unknown(_)));
    let empty =
        json!({ "OTIO_SCHEMA": "Timeline.1", "tracks": { "OTIO_SCHEMA": "Stack.1", "children": [] } });
    assert_eq!(why(&bytes(&empty)), ReadError::Empty);
    let several = json!({ "OTIO_SCHEMA": "SerializableCollection.1", "children": [empty, empty] });
    assert!(why(&bytes(&several)).to_string().contains("2 timelines"));
    // Deeper than anybody nests, and deeper than a reader of JSON goes.
    let mut deep = json!({ "OTIO_SCHEMA": "Stack.1", "children": [] });
    for _ in 0..40 {
        deep = json!({ "OTIO_SCHEMA": "Stack.1", "children": [deep] });
    }
    let document = json!({ "OTIO_SCHEMA": "Timeline.1", "tracks": deep });
    assert!(why(&bytes(&document)).to_string().contains("16 deep"));
    assert!(matches!(why("{\"a\":".repeat(100_000).as_bytes()), ReadError::Unknown(_)));
    let mut other = line_document(&group, &own, &Sources::default(), None);
    assert!(matches!(why(&bytes(&other)), ReadError::Empty), "of a day without files nothing is written");
    let facts = camera(20.0, 25);
    let foreign = Sources {
        clips: [(ClipId(1), Source { file_name: "else.mov".into(), facts, ..Source::default() })].into(),
        ..Sources::default()
    };
    other = line_document(&group, &own, &foreign, None);
    assert_eq!(why(&bytes(&other)), ReadError::Foreign(1, "else.mov".into()));
    assert_eq!(FrameRate::FPS_25, group.rate());
}
