//! A day as tables, read back by a reader of such tables.

use crate::common::{at, camera, recorder};
use metaxis_core::{
    sync::Verdict,
    time::Tick,
    turnover::{LoggedClip, Origin, channels_log, clips_log, starts, sync_log, takes_log},
};
use std::collections::HashMap;

fn rows(text: &str) -> Vec<HashMap<String, String>> {
    let text = text.strip_prefix('\u{feff}').expect("the mark of UTF-8");
    csv::Reader::from_reader(text.as_bytes()).deserialize().collect::<Result<_, _>>().expect("rows")
}

fn day() -> Vec<LoggedClip> {
    let taken = |take: &str, circled: bool| Origin {
        scene: Some("12A".into()),
        take: Some(take.into()),
        notes: Some("the bell, \"again\"\nlouder".into()),
        circled,
        placed: Some((Verdict::Solid, 0.998)),
        ..Origin::default()
    };
    vec![
        LoggedClip {
            path: "A_FLOOR/=A001.mov".into(),
            device: "Floor".into(),
            facts: camera(100.0, 50),
            origin: taken("1", false),
            placement: Some(at(2.0, 100.0, 400.0)),
            ..LoggedClip::default()
        },
        LoggedClip {
            path: "R/Größe.wav".into(),
            device: "@R".into(),
            facts: recorder(30.0),
            origin: taken("1", true),
            ..LoggedClip::default()
        },
        LoggedClip { path: "-1.wav".into(), facts: recorder(30.0), ..LoggedClip::default() },
    ]
}

#[test]
fn tables_hold_what_is_known_and_nothing_runs_out_of_them() {
    let clips = rows(&clips_log(&day()));
    assert_eq!(clips.len(), 3);
    assert_eq!((clips[0]["Rate"].as_str(), clips[0]["Sample rate"].as_str()), ("50", "48000"));
    assert_eq!(clips[1]["File"], "R/Größe.wav");
    assert_eq!(clips[0]["Notes"], "the bell, \"again\"\nlouder");
    // What a spreadsheet would reckon is text.
    assert_eq!((clips[1]["Device"].as_str(), clips[2]["File"].as_str()), ("'@R", "'-1.wav"));

    let sync = rows(&sync_log(&day()));
    assert_eq!((sync[0]["Verdict"].as_str(), sync[1]["Verdict"].as_str()), ("solid", "takes no part"));
    // 400 ppm of 100 seconds are 40 ms: two frames of 50 a second; a number stays one.
    let number = |cell: &str| cell.parse::<f64>().expect("a number");
    assert!((number(&sync[0]["End off frames"]) - 2.0).abs() < 0.01, "{:?}", sync[0]);
    assert_eq!(number(&sync[0]["Start s"]), 2.0);

    // Counted as its pictures are, from the time of day at the axis's zero on.
    let camera = &day()[0];
    let begins =
        starts(camera.placement.as_ref().expect("a place"), Tick::from_seconds(3600.0), &camera.facts);
    assert_eq!(begins.as_deref(), Some("01:00:02:00"));

    let takes = rows(&takes_log(&day()));
    assert_eq!(takes.len(), 1);
    assert_eq!((takes[0]["Scene"].as_str(), takes[0]["Circled"].as_str()), ("12A", "yes"));
    assert_eq!(
        (takes[0]["Pictures"].as_str(), takes[0]["Sounds"].as_str()),
        ("A_FLOOR/=A001.mov", "R/Größe.wav")
    );

    let channels = rows(&channels_log(&day()));
    assert_eq!((channels.len(), channels[0]["Of"].as_str()), (3, "1"));
}
