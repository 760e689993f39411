//! What follows from the rows of a day: takes from the slate log, spans, health notes. All rules are the core's.

use crate::{
    ClipView, DayView, HealthView, NoteView, Part, PassView, PlacementView, SlateSource, SpanView,
    StoreError, choices,
};
use metaxis_core::{
    clip::{ClipId, NoteCode},
    intake::{
        HealthClip, HealthDevice, HealthKind, HealthNote, HeardTake, LogClip, SeenTake, SpanGap, Weight,
        health, match_log, sound_notes, span_gaps,
    },
    sync::{Placement, Verdict},
};
use rusqlite::Transaction;
use std::collections::{BTreeMap, HashMap, HashSet};

/// Fills in what follows from the rest.
pub(crate) fn conclude(
    t: &Transaction,
    day: &mut DayView,
    pass: Option<&PassView>,
    placements: &[PlacementView],
) -> Result<(), StoreError> {
    let mut notes: Vec<HealthNote> = day.notes.iter().filter_map(of_file).collect();
    if let Some(stored) = choices::taken_log(t)? {
        notes.extend(take_from_log(&stored.log, day));
        day.slate_log = Some(stored.name);
    }
    day.spans = spans(day, placements);
    notes.extend(span_notes(day));
    notes.extend(heard_notes(day, pass, placements));
    notes.extend(day_health(t, day, pass, placements)?);
    notes.sort_by_key(|note| note.weight);
    let mut statement = t.prepare("SELECT key FROM set_aside")?;
    let aside: HashSet<String> = statement.query_map([], |row| row.get(0))?.collect::<Result<_, _>>()?;
    day.health =
        notes.into_iter().map(|note| HealthView { aside: aside.contains(&note.key), note }).collect();
    Ok(())
}

/// A file that could not be read.
fn of_file(note: &NoteView) -> Option<HealthNote> {
    let (kind, weight, means) = match note.code {
        NoteCode::Damaged => (HealthKind::Damaged, Weight::Fault, "Nothing of it can be used as it is."),
        NoteCode::Empty => (HealthKind::Damaged, Weight::Fault, "The copy made the file but nothing in it."),
        NoteCode::Unreadable => (HealthKind::Damaged, Weight::Fault, "It was not looked at."),
        NoteCode::Changed => {
            (HealthKind::Changed, Weight::Hurts, "Its places before the last pass are those of another file.")
        }
        _ => return None,
    };
    // The message ends with what to do.
    let (what, todo) =
        note.message.rsplit_once("; ").unwrap_or((&note.message, "copy it from the card again"));
    let text = [what.to_owned(), means.to_owned(), sentence(todo)];
    Some(HealthNote::new(kind, weight, &note.path, &[], text))
}

fn sentence(text: &str) -> String {
    let mut letters = text.chars();
    let first: String = letters.next().into_iter().flat_map(char::to_uppercase).collect();
    format!("{first}{}.", letters.as_str().trim_end_matches('.'))
}

fn take_from_log(log: &metaxis_core::intake::SlateLog, day: &mut DayView) -> Vec<HealthNote> {
    let letters: HashMap<_, _> =
        day.devices.iter().map(|device| (device.id, device.letter.clone())).collect();
    let known: Vec<LogClip> = day
        .clips
        .iter()
        .map(|clip| LogClip {
            id: clip.id,
            file_name: clip.file_name.clone(),
            letter: letters.get(&clip.device).cloned().unwrap_or_default(),
            own: clip.facts.scene.clone().map(|scene| (scene, clip.facts.take.clone().unwrap_or_default())),
        })
        .collect();
    let found = match_log(log, &known);
    let mut rows: HashMap<ClipId, _> = found.takes.into_iter().collect();
    let filled = |text: String| Some(text).filter(|text| !text.is_empty());
    for clip in &mut day.clips {
        if clip.slate_source == Some(SlateSource::Hand) {
            continue;
        }
        if let Some(row) = rows.remove(&clip.id) {
            clip.scene = filled(row.scene).or(clip.scene.take());
            clip.take = filled(row.take).or(clip.take.take());
            clip.notes = clip.notes.take().or(filled(row.notes));
            clip.circled |= row.circled;
            clip.slate_source = Some(SlateSource::Log);
        }
    }
    day.log_missing = found.missing.into_iter().map(|(line, name)| format!("{name} (line {line})")).collect();
    found
        .clashes
        .into_iter()
        .map(|clash| {
            let text = [
                clash.message,
                "One of them is wrong: sound and picture would be paired by the wrong number.".into(),
                "Listen to the second before the clap, then set the right scene and take at the clip.".into(),
            ];
            let about: Vec<String> = clash.clips.iter().map(|clip| clip.0.to_string()).collect();
            HealthNote::new(HealthKind::SlateClash, Weight::Hurts, &about.join("+"), &clash.clips, text)
        })
        .collect()
}

/// Where a placed clip lies on the axis: start and end in seconds.
fn extent(places: &HashMap<ClipId, &Placement>, clip: &ClipView) -> Option<(f64, f64)> {
    let placement = places.get(&clip.id)?;
    let (first, last) = (placement.stretches.first()?, placement.stretches.last()?);
    Some((first.axis_s(0.0), last.axis_s(clip.facts.duration_s)))
}

fn spans(day: &DayView, placements: &[PlacementView]) -> Vec<SpanView> {
    let places = placements.iter().map(|placed| (placed.clip, &placed.placement)).collect();
    let mut members: BTreeMap<ClipId, Vec<&ClipView>> = BTreeMap::new();
    for clip in &day.clips {
        if let Some(span) = clip.span {
            members.entry(span).or_default().push(clip);
        }
    }
    members
        .into_values()
        .filter(|clips| clips.len() > 1)
        .map(|mut clips| {
            clips.sort_by(|a, b| a.relative.cmp(&b.relative));
            let placed: Vec<Option<(f64, f64)>> = clips.iter().map(|clip| extent(&places, clip)).collect();
            let gaps: Vec<Option<SpanGap>> = span_gaps(&placed, &clips[0].facts);
            SpanView {
                clips: clips.iter().map(|clip| clip.id).collect(),
                gaps_s: gaps.iter().map(|gap| gap.map(|gap| gap.seconds)).collect(),
                gaps_frames: gaps.iter().map(|gap| gap.and_then(|gap| gap.frames)).collect(),
            }
        })
        .collect()
}

/// Half a frame is what a measurement may be off.
const GAP_FRAMES: f64 = 0.5;

fn span_notes(day: &DayView) -> Vec<HealthNote> {
    let names: HashMap<ClipId, &str> =
        day.clips.iter().map(|clip| (clip.id, clip.file_name.as_str())).collect();
    let name = |id: ClipId| names.get(&id).copied().unwrap_or_default();
    let mut notes = vec![];
    for span in &day.spans {
        for (i, frames) in span.gaps_frames.iter().enumerate() {
            let (Some(frames), pair) =
                (frames.filter(|frames| frames.abs() > GAP_FRAMES), &span.clips[i..i + 2])
            else {
                continue;
            };
            let seconds = span.gaps_s[i].unwrap_or(0.0);
            let way = if frames > 0.0 { "missing" } else { "recorded twice" };
            let text = [
                format!(
                    "between {} and {} {:.1} frames ({:.0} ms) are {way}",
                    name(pair[0]),
                    name(pair[1]),
                    frames.abs(),
                    seconds.abs() * 1000.0
                ),
                "The camera lost them while it changed files; the two do not simply follow each other."
                    .into(),
                "Nothing: each file is placed where it belongs. The gap shows as black in its angle.".into(),
            ];
            let about = format!("{}+{}", pair[0].0, pair[1].0);
            notes.push(HealthNote::new(HealthKind::SpanGap, Weight::Know, &about, pair, text));
        }
    }
    notes
}

/// Pictures that no recorder ran with, or not to their end. Takes made to a track have no recorder of their own.
fn heard_notes(day: &DayView, pass: Option<&PassView>, placements: &[PlacementView]) -> Vec<HealthNote> {
    let origin = pass.and_then(|pass| day.clips.iter().find(|clip| clip.id == pass.facts.origin));
    if origin.is_none_or(|clip| clip.part == Part::Playback) {
        return vec![];
    }
    let places: HashMap<ClipId, &Placement> =
        placements.iter().map(|placed| (placed.clip, &placed.placement)).collect();
    let (mut pictures, mut sounds) = (vec![], vec![]);
    for clip in &day.clips {
        let (Some(extent_s), Some(placed)) = (extent(&places, clip), places.get(&clip.id)) else { continue };
        let component = placed.component;
        match &clip.facts.picture {
            None if clip.part == Part::Sync => sounds.push(HeardTake { component, extent_s }),
            Some(picture) if !picture.still && matches!(clip.part, Part::Sync | Part::Silent) => {
                let slated = clip.scene.is_some() && clip.take.is_some();
                pictures.push(SeenTake { id: clip.id, name: &clip.file_name, slated, component, extent_s });
            }
            _ => {}
        }
    }
    sound_notes(&pictures, &sounds)
}

fn day_health(
    t: &Transaction,
    day: &DayView,
    pass: Option<&PassView>,
    placements: &[PlacementView],
) -> Result<Vec<HealthNote>, StoreError> {
    let mut statement = t.prepare("SELECT id, fingerprint FROM clip")?;
    let prints: HashMap<i64, String> =
        statement.query_map([], |row| Ok((row.get(0)?, row.get(1)?)))?.collect::<Result<_, _>>()?;
    let zero_s = pass.map_or(0.0, |pass| pass.facts.axis_zero.seconds());
    let sure: HashMap<ClipId, f64> = placements
        .iter()
        .filter(|placed| matches!(placed.placement.verdict, Verdict::Solid | Verdict::ByHand))
        .filter_map(|placed| Some((placed.clip, zero_s + placed.placement.stretches.first()?.axis_s(0.0))))
        .collect();
    let clips: Vec<HealthClip> = day
        .clips
        .iter()
        .map(|clip| HealthClip {
            id: clip.id,
            device: clip.device,
            name: &clip.file_name,
            facts: &clip.facts,
            fingerprint: prints.get(&clip.id.0).map_or("", String::as_str),
            takes_part: matches!(clip.part, Part::Sync | Part::Wild | Part::Silent),
            heard: clip.channels.as_deref().zip(clip.samples),
            lost: &clip.lost,
            timing: clip.timing,
            placed_clock_s: sure.get(&clip.id).copied(),
        })
        .collect();
    let devices: Vec<HealthDevice> = day
        .devices
        .iter()
        .map(|device| HealthDevice { id: device.id, called: choices::called(device) })
        .collect();
    Ok(health(&clips, &devices))
}
