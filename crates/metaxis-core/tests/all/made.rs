//! Documents of sound that was made of a group, and documents together with their media: whatever things are called.

use crate::common::a_group;
use metaxis_core::{
    clip::{ClipFacts, ClipId},
    group::Group,
    line::Line,
    time::{FrameRate, SampleRate, Timecode},
    turnover::{MadeSound, Source, Sources, bundled, made_document, made_lists},
};
use percent_encoding::percent_decode_str;
use proptest::{collection::vec, prelude::*};
use serde_json::{Value, json};
use std::collections::{BTreeMap, BTreeSet};

const HANDLES: i64 = 4_800;

/// Files of a group, each with so many tracks.
fn made(group: &Group, tracks: &[usize]) -> Vec<MadeSound> {
    let samples = group.passed(group.frames).sample(48_000) + 2 * HANDLES;
    let one = |(number, tracks): (usize, &usize)| MadeSound {
        name: format!("01 Größe – {number}.wav"),
        tracks: (0..*tracks).map(|own| format!("Mic {own}")).collect(),
        rate: SampleRate(48_000),
        bits: 24,
        samples,
        handles: HANDLES,
        time_reference: 1_000,
    };
    tracks.iter().enumerate().map(one).collect()
}

fn starting(label: &str, rate: FrameRate) -> Group {
    let (_, group) = a_group();
    Group { start: Timecode::parse(label, rate).expect("a label"), ..group }
}

/// The events of lists: number of the list, channel, reel, and the four labels.
fn events(lists: &[String]) -> Vec<(usize, String, String, Vec<String>)> {
    let of = |(number, text): (usize, &String)| {
        let lines = text.lines().filter(|own| own.starts_with('0')).map(str::to_owned).collect::<Vec<_>>();
        lines.into_iter().map(move |own| {
            let words: Vec<String> = own.split_whitespace().map(str::to_owned).collect();
            (number, words[2].clone(), words[1].clone(), words[4..8].to_vec())
        })
    };
    lists.iter().enumerate().flat_map(of).collect()
}

proptest! {
    /// An event for every track and nothing else, four to a list on channels of their own, each file its reel in all of them.
    #[test]
    fn every_track_has_its_event(tracks in vec(1..9_usize, 1..6)) {
        let group = starting("09:14:00:00", FrameRate::FPS_25);
        let made = made(&group, &tracks);
        let lists = made_lists(&group, &made);
        let all = events(&lists);
        prop_assert_eq!(all.len(), tracks.iter().sum::<usize>());
        prop_assert_eq!(lists.len(), all.len().div_ceil(4));
        for (at, (list, channel, reel, labels)) in all.iter().enumerate() {
            prop_assert_eq!(*list, at / 4);
            prop_assert_eq!(channel.as_str(), ["A", "A2", "A3", "A4"][at % 4]);
            // As long in the source as in the record, from the label at which the group begins.
            prop_assert_eq!(&labels[..2], &labels[2..]);
            prop_assert_eq!(labels[0].as_str(), "09:14:00:00");
            prop_assert!(reel.len() <= 8 && reel.is_ascii(), "{}", reel);
        }
        let of_track: Vec<usize> = tracks.iter().enumerate().flat_map(|(file, own)| vec![file; *own]).collect();
        let mut reels: BTreeMap<&str, usize> = BTreeMap::new();
        for ((_, _, reel, _), file) in all.iter().zip(of_track) {
            prop_assert_eq!(*reels.entry(reel).or_insert(file), file, "{} is two files", reel);
        }
        prop_assert_eq!(reels.len(), tracks.len());
        prop_assert!(lists.concat().lines().all(|own| own.len() <= 80 && own.is_ascii()));
    }

    /// As many sound tracks as there are, under all of the group, cut to it; pictures are those of the line, or the angles.
    #[test]
    fn a_timeline_has_every_track_over_all_of_the_group(tracks in vec(1..6_usize, 1..4), cut in any::<bool>()) {
        let (facts, group) = a_group();
        let known = facts.into_iter().enumerate().map(|(number, facts)| {
            (ClipId(number as i64), Source { facts, ..Source::default() })
        });
        let sources = Sources { clips: known.collect(), ..Sources::default() };
        let line = cut.then(|| Line::new(group.frames, group.angles[0].id));
        let made = made(&group, &tracks);
        let document = made_document(&group, line.as_ref(), &sources, &made);
        let all = document["tracks"]["children"].as_array().expect("tracks");
        let (sounds, pictures): (Vec<&Value>, Vec<&Value>) = all.iter().partition(|own| own["kind"] == "Audio");
        prop_assert_eq!(sounds.len(), tracks.iter().sum::<usize>());
        prop_assert_eq!(pictures.len(), if cut { 1 } else { group.angles.len() });
        let length = group.passed(group.frames).sample(48_000) as f64;
        for own in sounds {
            let [clip] = &own["children"].as_array().expect("clips")[..] else { panic!("{own}") };
            let taken = &clip["source_range"];
            prop_assert_eq!(taken["start_time"]["value"].as_f64(), Some(1_000.0 + HANDLES as f64));
            prop_assert_eq!(taken["duration"]["value"].as_f64(), Some(length));
            let there = &clip["media_references"]["DEFAULT_MEDIA"];
            let name = percent_decode_str(there["target_url"].as_str().expect("an address")).decode_utf8_lossy();
            prop_assert!(made.iter().any(|own| own.name == name), "{}", name);
        }
    }

    /// Media in a bundle: every reference that is to a source points at a name of its own there, whatever files are called.
    #[test]
    fn every_file_has_a_name_of_its_own_in_a_bundle(
        names in vec("[aA]{0,2}(é|#| |%20)?(\\.[mM]ov|\\.wav|)", 1..12), asked in vec(0..14_usize, 1..30)
    ) {
        let url = |number: usize| format!("file:///card{number}/own");
        let known = names.iter().enumerate().map(|(number, name)| {
            let facts = ClipFacts::default();
            (ClipId(number as i64), Source { file_name: name.clone(), url: url(number), facts, ..Source::default() })
        });
        let sources = Sources { clips: known.collect(), ..Sources::default() };
        let reference = |number: &usize| json!({ "deep": [{ "target_url": url(*number), "name": "kept" }] });
        let mut document = json!({ "children": asked.iter().map(reference).collect::<Vec<_>>() });
        let media = bundled(&mut document, &sources);
        // Each that is asked for and known, once.
        let wanted: BTreeSet<usize> = asked.iter().copied().filter(|own| *own < names.len()).collect();
        prop_assert_eq!(media.len(), wanted.len());
        let lower: BTreeSet<String> = media.iter().map(|(_, name)| name.to_lowercase()).collect();
        prop_assert_eq!(lower.len(), media.len(), "{:?}", media);
        for (number, own) in asked.iter().zip(document["children"].as_array().expect("children")) {
            let own = &own["deep"][0];
            let there = own["target_url"].as_str().expect("an address");
            prop_assert_eq!(&own["name"], "kept");
            match media.iter().find(|(clip, _)| clip.0 == *number as i64) {
                Some((_, name)) => {
                    let path = there.strip_prefix("media/").expect("in the bundle");
                    prop_assert_eq!(percent_decode_str(path).decode_utf8_lossy(), name.as_str());
                }
                // What is not of the day is left as it is.
                None => prop_assert_eq!(there, url(*number)),
            }
        }
    }
}

#[test]
fn sound_over_midnight_is_two_lists_and_drop_frame_is_said() {
    let group = starting("23:59:50:00", FrameRate::FPS_25);
    let lists = made_lists(&group, &made(&group, &[1]));
    let all = events(&lists);
    assert_eq!((lists.len(), all.len()), (2, 2), "{lists:?}");
    assert_eq!((all[0].3[1].as_str(), all[1].3[0].as_str()), ("24:00:00:00", "00:00:00:00"));
    let group = starting("10:00:58;00", FrameRate::new(30_000, 1001).expect("a rate"));
    let list = made_lists(&group, &made(&group, &[2])).concat();
    assert!(list.contains("FCM: DROP FRAME") && list.contains("10:00:58;00"), "{list}");
}
