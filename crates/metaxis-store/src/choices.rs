//! What a person chose at intake. An edit is the rows it touches as they become; its inverse the same rows as they were.

use crate::{
    DeviceView, IntakeChange, Part, SlateMarkView, Store, StoreError, StoredLog,
    columns::{document, name, word},
    ids::Only,
    log::{self, Document},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    lut::LutKey,
    sync::TakenOff,
};
use rusqlite::{OptionalExtension, Transaction, params};
use serde::{Deserialize, Deserializer, Serialize};
use std::collections::HashSet;

/// What can be chosen for a clip.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
struct ClipChoice {
    clip: ClipId,
    device: DeviceId,
    part: Part,
    day: Option<String>,
    scene: Option<String>,
    take: Option<String>,
    notes: Option<String>,
    circled: Option<bool>,
    /// First clip of its span.
    span: Option<ClipId>,
    /// A person joined or separated it.
    span_set: bool,
    /// What is marked of its slates; older edits know one mark.
    #[serde(default, alias = "mark", deserialize_with = "one_or_many")]
    marks: Vec<SlateMarkView>,
    /// Its own distance, where it has one.
    #[serde(default)]
    distance_cm: Option<i64>,
}

/// What can be chosen for a device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
struct DeviceChoice {
    device: DeviceId,
    letter: String,
    name: String,
    position: i64,
    #[serde(default)]
    distance_cm: i64,
    /// Older edits took the same off every timecode.
    #[serde(default, alias = "take_off", deserialize_with = "all_or_each")]
    taken_off: TakenOff,
    #[serde(default)]
    lut: Option<LutKey>,
}

fn one_or_many<'de, D: Deserializer<'de>>(from: D) -> Result<Vec<SlateMarkView>, D::Error> {
    #[derive(Deserialize)]
    #[serde(untagged)]
    enum Marks {
        Many(Vec<SlateMarkView>),
        One(SlateMarkView),
    }
    Ok(match Marks::deserialize(from)? {
        Marks::Many(marks) => marks,
        Marks::One(mark) => Some(mark).filter(|mark| !mark.is_empty()).into_iter().collect(),
    })
}

fn all_or_each<'de, D: Deserializer<'de>>(from: D) -> Result<TakenOff, D::Error> {
    #[derive(Deserialize)]
    #[serde(untagged)]
    enum Frames {
        All(i64),
        Each(TakenOff),
    }
    Ok(match Frames::deserialize(from)? {
        Frames::All(frames) => TakenOff { file_timecode: frames, audio_timecode: frames, slate: 0 },
        Frames::Each(each) => each,
    })
}

/// Everything an edit touches, as it becomes.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Touched {
    /// The change in a few words.
    #[serde(default)]
    what: String,
    clips: Vec<ClipChoice>,
    devices: Vec<DeviceChoice>,
    /// Keys of health notes, and whether they are set aside.
    aside: Vec<(String, bool)>,
    /// The slate log, where the edit is about it.
    log: Option<LogChoice>,
}

/// The slate log as it was or became; none is a state too.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct LogChoice {
    log: Option<StoredLog>,
}

impl Store {
    /// Makes a change and keeps it for undo. Nothing is changed where any part of it cannot be.
    ///
    /// # Errors
    /// [`StoreError::Missing`], [`StoreError::Refused`].
    pub fn edit_intake(&self, change: &IntakeChange) -> Result<(), StoreError> {
        self.transaction(|t| {
            let before = touched_by(t, change)?;
            let what = change.said();
            let after = Touched { what, ..changed(t, before, change)? };
            log::edit::<Touched>(t, Only, None, &after)?;
            Ok(())
        })
    }

    /// Keeps the spans that were recognised, unless a person decided for these clips.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_spans(&self, spans: &[Vec<ClipId>]) -> Result<(), StoreError> {
        self.transaction(|t| {
            t.execute("UPDATE clip SET recognised = NULL", [])?;
            for span in spans {
                let Some(first) = span.first() else { continue };
                let free = "SELECT COUNT(*) FROM clip WHERE id = ?1 AND span_set = 1";
                let decided = |clip: &ClipId| t.query_row(free, [clip.0], |row| row.get::<_, i64>(0));
                if span.iter().map(decided).collect::<Result<Vec<_>, _>>()?.iter().any(|count| *count > 0) {
                    continue;
                }
                for clip in span {
                    t.execute("UPDATE clip SET recognised = ?2 WHERE id = ?1", params![clip.0, first.0])?;
                }
            }
            t.execute("UPDATE clip SET span = recognised WHERE span_set = 0", [])?;
            Ok(())
        })
    }
}

impl Document for Touched {
    const KIND: &'static str = "intake";
    type Id = Only;
    type Edit = Self;

    /// Of everything that can be chosen only the rows an edit touches are read.
    fn load(_: &Transaction, _: Only) -> Result<Self, StoreError> {
        Ok(Self::default())
    }

    fn apply(&mut self, t: &Transaction, edit: &Self) -> Result<Option<Self>, StoreError> {
        let was = Self { what: edit.what.clone(), ..edit.now(t)? };
        self.clone_from(edit);
        Ok((was != *edit).then_some(was))
    }

    fn keep(&self, t: &Transaction, _: Only) -> Result<(), StoreError> {
        write(t, self)
    }

    fn said(edit: &Self) -> String {
        edit.what.clone()
    }
}

impl Touched {
    /// The same rows as they are now.
    fn now(&self, t: &Transaction) -> Result<Self, StoreError> {
        Ok(Self {
            what: String::new(),
            clips: self.clips.iter().map(|own| clip_choice(t, own.clip)).collect::<Result<_, _>>()?,
            devices: self.devices.iter().map(|own| device_choice(t, own.device)).collect::<Result<_, _>>()?,
            aside: self
                .aside
                .iter()
                .map(|(key, _)| Ok((key.clone(), is_aside(t, key)?)))
                .collect::<Result<_, StoreError>>()?,
            log: self.log.as_ref().map(|_| taken_log(t).map(|log| LogChoice { log })).transpose()?,
        })
    }
}

fn is_aside(t: &Transaction, key: &str) -> Result<bool, StoreError> {
    Ok(t.query_row("SELECT 1 FROM set_aside WHERE key = ?1", [key], |_| Ok(())).optional()?.is_some())
}

fn touched_by(t: &Transaction, change: &IntakeChange) -> Result<Touched, StoreError> {
    let mut touched = Touched::default();
    // Each once, however often it was named.
    let mut named = HashSet::new();
    for clip in change.clips().iter().filter(|clip| named.insert(**clip)) {
        touched.clips.push(clip_choice(t, *clip)?);
    }
    match change {
        IntakeChange::NameDevice { device, .. }
        | IntakeChange::Distance { device, .. }
        | IntakeChange::TakeOff { device, .. }
        | IntakeChange::SeeThrough { device, .. } => touched.devices.push(device_choice(t, *device)?),
        IntakeChange::MoveDevice { device, .. } => {
            device_choice(t, *device)?;
            let ids: Vec<i64> = t
                .prepare("SELECT id FROM device ORDER BY position")?
                .query_map([], |row| row.get(0))?
                .collect::<Result<_, _>>()?;
            touched.devices =
                ids.into_iter().map(|id| device_choice(t, DeviceId(id))).collect::<Result<_, _>>()?;
        }
        IntakeChange::SetAside { key, .. } => {
            touched.aside.push((key.clone(), is_aside(t, key)?));
        }
        IntakeChange::TakeLog { .. } | IntakeChange::DropLog => {
            touched.log = Some(LogChoice { log: taken_log(t)? })
        }
        // A clip that leaves a span ends what its neighbours shared with it.
        IntakeChange::Separate { .. } | IntakeChange::Join { .. } => {
            let spans: Vec<ClipId> = touched.clips.iter().filter_map(|clip| clip.span).collect();
            for span in spans {
                let mut statement = t.prepare("SELECT id FROM clip WHERE span = ?1")?;
                let ids: Vec<i64> =
                    statement.query_map([span.0], |row| row.get(0))?.collect::<Result<_, _>>()?;
                for id in ids.into_iter().map(ClipId) {
                    if named.insert(id) {
                        touched.clips.push(clip_choice(t, id)?);
                    }
                }
            }
        }
        _ => {}
    }
    Ok(touched)
}

fn changed(t: &Transaction, mut now: Touched, change: &IntakeChange) -> Result<Touched, StoreError> {
    let text = |text: &str| Some(text.trim().to_owned()).filter(|text| !text.is_empty());
    match change {
        IntakeChange::Device { device, .. } => {
            device_choice(t, *device)?;
            now.clips.iter_mut().for_each(|clip| clip.device = *device);
        }
        IntakeChange::Part { part, .. } => {
            now.clips.iter_mut().for_each(|clip| clip.part = *part);
        }
        IntakeChange::Day { day, .. } => now.clips.iter_mut().for_each(|clip| clip.day = text(day)),
        IntakeChange::Slate { scene, take, notes, circled, .. } => {
            for clip in &mut now.clips {
                // Text that is given replaces; empty text goes back to what the file or the log says.
                for (own, given) in
                    [(&mut clip.scene, scene), (&mut clip.take, take), (&mut clip.notes, notes)]
                {
                    if let Some(given) = given {
                        *own = text(given);
                    }
                }
                clip.circled = circled.or(clip.circled);
            }
        }
        IntakeChange::Mark { marks, .. } => now.clips.iter_mut().for_each(|clip| clip.marks = marks.clone()),
        IntakeChange::ClipDistance { distance_cm, .. } => {
            now.clips.iter_mut().for_each(|clip| clip.distance_cm = *distance_cm);
        }
        IntakeChange::Distance { distance_cm, .. } => {
            now.devices.iter_mut().for_each(|device| device.distance_cm = *distance_cm);
        }
        IntakeChange::TakeOff { kind, frames, .. } => {
            now.devices.iter_mut().for_each(|device| device.taken_off.set(*kind, *frames));
        }
        IntakeChange::SeeThrough { lut, .. } => {
            now.devices.iter_mut().for_each(|device| device.lut.clone_from(lut));
        }
        IntakeChange::Join { clips } => join(&mut now, clips)?,
        IntakeChange::Separate { clips } => {
            let clips: HashSet<ClipId> = clips.iter().copied().collect();
            for clip in &mut now.clips {
                if clips.contains(&clip.clip) {
                    (clip.span, clip.span_set) = (None, true);
                }
            }
            mend_spans(&mut now);
        }
        IntakeChange::NameDevice { letter, name, .. } => {
            for device in &mut now.devices {
                letter.clone_into(&mut device.letter);
                name.clone_into(&mut device.name);
            }
        }
        IntakeChange::MoveDevice { device, by } => {
            let from = now.devices.iter().position(|one| one.device == *device).unwrap_or(0);
            let to = from.saturating_add_signed(*by as isize).min(now.devices.len().saturating_sub(1));
            let moved = now.devices.remove(from);
            now.devices.insert(to, moved);
            for (device, position) in now.devices.iter_mut().zip(1..) {
                device.position = position;
            }
            now.devices.sort_by_key(|device| device.device);
        }
        IntakeChange::SetAside { aside, .. } => now.aside.iter_mut().for_each(|(_, own)| *own = *aside),
        IntakeChange::TakeLog { log } => now.log = Some(LogChoice { log: Some(log.clone()) }),
        IntakeChange::DropLog => now.log = Some(LogChoice { log: None }),
    }
    Ok(now)
}

fn join(now: &mut Touched, clips: &[ClipId]) -> Result<(), StoreError> {
    let device = now.clips.first().map(|clip| clip.device);
    let first = clips.first().copied();
    let clips: HashSet<ClipId> = clips.iter().copied().collect();
    if clips.len() < 2
        || now.clips.iter().any(|clip| clips.contains(&clip.clip) && Some(clip.device) != device)
    {
        return Err(StoreError::Refused(
            "a span is two or more clips of one device: choose them together".into(),
        ));
    }
    for clip in &mut now.clips {
        if clips.contains(&clip.clip) {
            (clip.span, clip.span_set) = (first, true);
        }
    }
    mend_spans(now);
    Ok(())
}

/// A span is named by its first clip, and one clip alone is none.
fn mend_spans(now: &mut Touched) {
    let mut spans: Vec<ClipId> = now.clips.iter().filter_map(|clip| clip.span).collect();
    spans.sort_unstable();
    spans.dedup();
    for span in spans {
        let mut members: Vec<&mut ClipChoice> =
            now.clips.iter_mut().filter(|clip| clip.span == Some(span)).collect();
        let first = members.iter().map(|clip| clip.clip).min().filter(|_| members.len() > 1);
        for clip in members.iter_mut().filter(|clip| clip.span != first) {
            (clip.span, clip.span_set) = (first, true);
        }
    }
}

fn write(t: &Transaction, state: &Touched) -> Result<(), StoreError> {
    for clip in &state.clips {
        t.execute(
            "UPDATE clip SET device = ?2, part = ?3, day = ?4, scene = ?5, take = ?6, notes = ?7, circled = ?8,
                             span = CASE WHEN ?10 THEN ?9 ELSE recognised END, span_set = ?10, marks = ?11, distance_cm = ?12 WHERE id = ?1",
            params![
                clip.clip.0, clip.device.0, name(clip.part), clip.day, clip.scene, clip.take, clip.notes, clip.circled,
                clip.span.map(|span| span.0), clip.span_set, serde_json::to_string(&clip.marks)?, clip.distance_cm
            ],
        )?;
    }
    for device in &state.devices {
        t.execute(
            "UPDATE device SET letter = ?2, name = ?3, position = ?4, distance_cm = ?5, taken_off = ?6, lut = ?7 WHERE id = ?1",
            params![
                device.device.0,
                device.letter,
                device.name,
                device.position,
                device.distance_cm,
                serde_json::to_string(&device.taken_off)?,
                device.lut.as_ref().map(|lut| &lut.0)
            ],
        )?;
    }
    for (key, aside) in &state.aside {
        let sql = if *aside {
            "INSERT OR IGNORE INTO set_aside (key) VALUES (?1)"
        } else {
            "DELETE FROM set_aside WHERE key = ?1"
        };
        t.execute(sql, [key])?;
    }
    if let Some(LogChoice { log }) = &state.log {
        t.execute("DELETE FROM slate_log", [])?;
        if let Some(log) = log {
            t.execute("INSERT INTO slate_log (id, document) VALUES (1, ?1)", [serde_json::to_string(log)?])?;
        }
    }
    Ok(())
}

fn clip_choice(t: &Transaction, id: ClipId) -> Result<ClipChoice, StoreError> {
    t.query_row(
        "SELECT device, part, day, scene, take, notes, circled, span, span_set, marks, distance_cm
         FROM clip WHERE id = ?1",
        [id.0],
        |row| {
            Ok(ClipChoice {
                clip: id,
                device: DeviceId(row.get(0)?),
                part: word(row, 1)?,
                day: row.get(2)?,
                scene: row.get(3)?,
                take: row.get(4)?,
                notes: row.get(5)?,
                circled: row.get(6)?,
                span: row.get::<_, Option<i64>>(7)?.map(ClipId),
                span_set: row.get(8)?,
                marks: document(row, 9)?,
                distance_cm: row.get(10)?,
            })
        },
    )
    .optional()?
    .ok_or(StoreError::Missing { what: "clip", id: id.0 })
}

fn device_choice(t: &Transaction, id: DeviceId) -> Result<DeviceChoice, StoreError> {
    let sql = "SELECT letter, name, position, distance_cm, taken_off, lut FROM device WHERE id = ?1";
    t.query_row(sql, [id.0], |row| {
        Ok(DeviceChoice {
            device: id,
            letter: row.get(0)?,
            name: row.get(1)?,
            position: row.get(2)?,
            distance_cm: row.get(3)?,
            taken_off: document(row, 4)?,
            lut: row.get::<_, Option<String>>(5)?.map(LutKey),
        })
    })
    .optional()?
    .ok_or(StoreError::Missing { what: "device", id: id.0 })
}

/// The slate log that was taken, if any.
pub(crate) fn taken_log(t: &Transaction) -> Result<Option<StoredLog>, StoreError> {
    let text: Option<String> =
        t.query_row("SELECT document FROM slate_log", [], |row| row.get(0)).optional()?;
    Ok(text.map(|text| serde_json::from_str(&text)).transpose()?)
}

/// Letter and name of a device, as it is spoken of.
pub(crate) fn called(device: &DeviceView) -> String {
    format!("{} {}", device.letter, device.name)
}

impl IntakeChange {
    /// The clips that it names, as they were given.
    pub fn clips(&self) -> &[ClipId] {
        match self {
            IntakeChange::Device { clips, .. }
            | IntakeChange::Part { clips, .. }
            | IntakeChange::Day { clips, .. }
            | IntakeChange::Slate { clips, .. }
            | IntakeChange::Mark { clips, .. }
            | IntakeChange::ClipDistance { clips, .. }
            | IntakeChange::Join { clips }
            | IntakeChange::Separate { clips } => clips,
            _ => &[],
        }
    }

    /// What it does, in a few words.
    fn said(&self) -> String {
        let clips = match self.clips().iter().collect::<HashSet<_>>().len() {
            1 => "one clip".to_owned(),
            count => format!("{count} clips"),
        };
        match self {
            IntakeChange::Device { .. } => format!("device of {clips}"),
            IntakeChange::Part { part, .. } => format!("{clips} set to {}", name(*part).replace('_', " ")),
            IntakeChange::Day { .. } => format!("shoot day of {clips}"),
            IntakeChange::Slate { .. } => format!("slate of {clips}"),
            IntakeChange::Join { .. } => format!("{clips} joined as a span"),
            IntakeChange::Separate { .. } => format!("{clips} separated"),
            IntakeChange::NameDevice { name, .. } => format!("device named {name}"),
            IntakeChange::MoveDevice { .. } => "order of the devices".into(),
            IntakeChange::Mark { marks, .. } if marks.is_empty() => format!("marks of {clips} taken off"),
            IntakeChange::Mark { .. } => format!("marks of {clips}"),
            IntakeChange::ClipDistance { .. } => format!("distance of {clips}"),
            IntakeChange::Distance { .. } => "distance of a device".into(),
            IntakeChange::SeeThrough { lut: Some(_), .. } => "a device's viewing LUT".into(),
            IntakeChange::SeeThrough { lut: None, .. } => "a device's pictures as recorded".into(),
            IntakeChange::TakeOff { .. } => "frames taken off a device's timecode".into(),
            IntakeChange::SetAside { aside: true, .. } => "health note set aside".into(),
            IntakeChange::SetAside { .. } => "health note brought back".into(),
            IntakeChange::TakeLog { log } => format!("slate log {}", log.name),
            IntakeChange::DropLog => "slate log put away".into(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Undo of an edit that an older program kept must not take marks and frames away.
    #[test]
    fn older_edits_are_read_with_their_one_mark_and_their_frames() {
        let clip = |marks: &str| -> ClipChoice {
            let text = format!(r#"{{"clip":1,"device":1,"part":"sync","span_set":false,{marks}}}"#);
            serde_json::from_str(&text).expect("a choice")
        };
        let one = r#"{"picture_us":2020000,"sound_us":null,"label":null}"#;
        let kept = vec![SlateMarkView { picture_us: Some(2_020_000), ..SlateMarkView::default() }];
        assert_eq!(clip(&format!(r#""mark":{one}"#)).marks, kept);
        assert_eq!(clip(&format!(r#""marks":[{one}]"#)).marks, kept);
        assert_eq!(clip(r#""mark":{"picture_us":null,"sound_us":null,"label":null}"#).marks, vec![]);
        let device = |off: &str| -> TakenOff {
            let text = format!(r#"{{"device":1,"letter":"A","name":"A","position":1{off}}}"#);
            serde_json::from_str::<DeviceChoice>(&text).expect("a choice").taken_off
        };
        let all = TakenOff { file_timecode: 11, audio_timecode: 11, slate: 0 };
        assert_eq!((device(r#","take_off":11"#), device("")), (all, TakenOff::default()));
        let written = serde_json::to_string(&all).expect("text");
        assert_eq!(device(&format!(r#","taken_off":{written}"#)), all);
    }
}
