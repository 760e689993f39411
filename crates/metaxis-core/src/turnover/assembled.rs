//! Lines one behind another, as documents.

use super::{
    LaidSound, Sources,
    items::{Kind, gap, range, stack, time, track},
    line_document,
};
use crate::{
    group::{AngleId, Group},
    line::{Layer, Line, LineEdit},
    time::{FrameRate, Tick, Timecode},
};
use serde_json::{Value, json};

/// A part of an assembly with all that is in it.
#[derive(Debug, Clone)]
pub struct AssembledPart {
    /// The group, as it is shown.
    pub group: Group,
    /// Its line.
    pub line: Line,
    /// From and up to which frame.
    pub range: (i64, i64),
    /// Its recorders' sound, where it is known.
    pub sound: Option<LaidSound>,
    /// Nothing is in it.
    pub is_gap: bool,
}

impl AssembledPart {
    /// Nothing for so many frames.
    pub fn gap(frames: i64, rate: FrameRate) -> Self {
        let group = Group {
            name: String::new(),
            start: Timecode::new(0, rate, false),
            axis_zero: Tick(0),
            // That of no island: nothing that was recorded runs with it.
            component: u32::MAX,
            frames,
            width: 0,
            height: 0,
            angles: vec![],
            sound: None,
            window: None,
            removed: vec![],
            seams: vec![],
            grid: None,
        };
        let line = Line::new(frames, AngleId::BLACK);
        Self { group, line, range: (0, frames), sound: None, is_gap: true }
    }

    /// A clip's pictures and nothing else.
    pub fn clip(layer: &Layer, rate: FrameRate) -> Self {
        let mut own = Self { is_gap: false, ..Self::gap(layer.frames, rate) };
        // It covers all of a black line of its length.
        let layer = Layer { at: 0, ..layer.clone() };
        let _ = own.line.apply(&LineEdit::Lay { layer });
        own
    }

    /// How many frames it has.
    pub fn frames(&self) -> i64 {
        self.range.1 - self.range.0
    }
}

/// The assembly as OpenTimelineIO: a track of lines, each a stack of its own, so that it can still be taken apart.
pub fn assembly_document(name: &str, start: Timecode, parts: &[AssembledPart], sources: &Sources) -> Value {
    let rate = start.rate;
    let items = parts.iter().map(|own| {
        if own.is_gap {
            return gap(own.frames() as f64, rate.as_f64());
        }
        let mut stack = line_document(&own.group, &own.line, sources, own.sound.as_ref())["tracks"].take();
        stack["name"] = own.group.name.clone().into();
        // Within its own frames, from nought on.
        stack["source_range"] = range(own.range.0, own.frames(), rate);
        stack["metadata"] = json!({ "metaxis": { "start": own.group.label(own.range.0).to_string() } });
        stack
    });
    json!({
        "OTIO_SCHEMA": "Timeline.1",
        "name": name,
        "metadata": { "metaxis": { "start": start.to_string() } },
        "global_start_time": time(start.frames, rate),
        "tracks": stack("tracks", vec![track("Assembly", Kind::Picture, items.collect())]),
    })
}
