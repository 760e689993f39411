//! What is written into the pictures of a film.

use super::{BurnIn, Film, Seen};
use crate::{
    clip::ClipId,
    time::{Tick, Timecode},
};

/// Where a caption stands in its field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Corner {
    /// Above, at the left.
    UpperLeft,
    /// Above, at the right.
    UpperRight,
    /// Below, at the left.
    LowerLeft,
    /// Below, at the right.
    LowerRight,
}

/// Words in a picture.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Caption {
    /// Which field of the film.
    pub field: usize,
    /// Where in it.
    pub corner: Corner,
    /// How many rows from the edge, from 0.
    pub row: u32,
    /// The words.
    pub text: String,
}

/// What a clip is called, and what is said of it.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Named {
    /// Its file's name.
    pub name: String,
    /// Label of its first frame.
    pub timecode: Option<Timecode>,
    /// Scene and take, as one writes them.
    pub scene: String,
    /// Notes.
    pub notes: String,
}

/// Letters of a caption; what is longer ends in dots.
const MOST_LETTERS: usize = 60;

impl Film {
    /// What is written into a frame of which `seen` is seen: of each field what lies uppermost.
    pub fn captions<'a>(
        &self,
        frame: i64,
        seen: &[Seen],
        burn: BurnIn,
        named: impl Fn(ClipId) -> Option<&'a Named>,
    ) -> Vec<Caption> {
        let mut out = vec![];
        let mut say = |field: usize, corner: Corner, text: String| {
            if !text.is_empty() {
                out.push(Caption { field, corner, row: 0, text: shortened(&text) });
            }
        };
        for (number, own) in seen.iter().enumerate() {
            let is_uppermost = seen[number + 1..].iter().all(|other| other.field != own.field);
            // Of two that dissolve, the one that is more there.
            let is_more = own.share >= 0.5 || number == 0;
            let shown = if is_uppermost && !is_more { &seen[number - 1] } else { own };
            let Some(known) = named(shown.clip).filter(|_| is_uppermost) else { continue };
            if burn.name {
                say(own.field, Corner::LowerLeft, known.name.clone());
            }
            if burn.scene {
                say(own.field, Corner::UpperLeft, known.scene.clone());
            }
            if burn.notes {
                say(own.field, Corner::UpperRight, known.notes.clone());
            }
            if burn.timecode {
                say(own.field, Corner::LowerRight, self.label_of(shown, known).unwrap_or_default());
            }
        }
        // The film's own, where that is not the clip's.
        if burn.timecode
            && let Some(start) = self.start
        {
            let text = start.plus(frame).to_string();
            let corner = Corner::LowerRight;
            let there = out.iter().find(|own| own.field == 0 && own.corner == corner);
            if there.is_none_or(|own| own.text != text) {
                let row = u32::from(there.is_some());
                out.push(Caption { field: 0, corner, row, text: format!("REC {text}") });
            }
        }
        out
    }

    /// The clip's own label of the frame that is seen.
    fn label_of(&self, seen: &Seen, known: &Named) -> Option<String> {
        let rate = self.picture(seen.clip)?.rate;
        let label = known.timecode?;
        Some(label.at_rate(rate, label.drop).plus(Tick::from_seconds(seen.at_s).frame(rate)).to_string())
    }
}

fn shortened(text: &str) -> String {
    let line: String = text.split_whitespace().collect::<Vec<_>>().join(" ");
    if line.chars().count() <= MOST_LETTERS {
        return line;
    }
    line.chars().take(MOST_LETTERS - 1).chain(['…']).collect()
}
