//! A line as far as its group is shown: trimmed, and without what is taken out.

use super::{Layer, Line, LineEdit, LineError, Marker, Switch};
use crate::group::AngleId;

impl Line {
    /// The programme of some of its frames, one behind the other; all of it where those are none.
    pub fn of(&self, left: &[(i64, i64)]) -> Self {
        let mut switches: Vec<Switch> = vec![];
        let mut before = 0;
        for &(from, to) in left.iter().filter(|(from, to)| from < to) {
            let own = self.between(from, to).map(|own| Switch { at: before + own.at - from, ..own });
            switches.extend(own);
            before += to - from;
        }
        if switches.is_empty() {
            return self.clone();
        }
        let there = |own: &Marker| {
            let mut before = 0;
            left.iter().find_map(|&(from, to)| {
                let at = before + own.at - from;
                before += to - from;
                (from..to).contains(&own.at).then(|| Marker { at, ..own.clone() })
            })
        };
        let markers = self.markers.iter().filter_map(there).collect();
        let layers = pieces(left).flat_map(|(from, to, before)| {
            let own = self.layers.iter().filter_map(move |own| own.within(from, to));
            own.map(move |own| own.later(before - from))
        });
        let layers = layers.collect();
        let sound = self.sound.as_ref().map(|own| Box::new(own.of(left)));
        Self { frames: before, switches, markers, layers, sound }.tidied()
    }

    /// An edit as one of what is left of the line, where that is not all of it.
    pub fn within(&self, left: Vec<(i64, i64)>, edit: LineEdit) -> LineEdit {
        if left == [(0, self.frames)] { edit } else { LineEdit::Within { left, edit: Box::new(edit) } }
    }

    /// It once what is left of it was edited; cuts in what is not left stay where they are.
    pub(super) fn edited_within(&self, left: &[(i64, i64)], edit: &LineEdit) -> Result<Self, LineError> {
        let is_open = |own: &(i64, i64)| own.0 < own.1;
        let apart = left.windows(2).all(|pair| pair[0].1 <= pair[1].0);
        let inside =
            left.first().is_some_and(|own| own.0 >= 0) && left.last().is_some_and(|own| own.1 <= self.frames);
        // One within another is what nobody asks for.
        if !left.iter().all(is_open) || !apart || !inside || matches!(edit, LineEdit::Within { .. }) {
            return Err(LineError::NotALine);
        }
        if let LineEdit::Sound { edit } = edit {
            let sound = Some(Box::new(self.heard().edited_within(left, edit)?.tidied()));
            return Ok(Self { sound, ..self.clone() });
        }
        let mut shown = self.of(left);
        shown.apply(edit)?;
        let mut switches: Vec<Switch> = vec![];
        let (mut at, mut before) = (0, 0);
        for &(from, to) in left {
            let last = switches.last().map(|own| own.angle);
            switches.extend(self.hidden(at, from, last, shown.angle_at(before)));
            let own = shown.between(before, before + to - from);
            switches.extend(own.map(|own| Switch { at: from + own.at - before, ..own }));
            before += to - from;
            at = to;
        }
        let last = switches.last().map(|own| own.angle);
        switches.extend(self.hidden(at, self.frames, last, self.switches[0].angle));
        let is_hidden = |own: &&Marker| !left.iter().any(|(from, to)| (from..to).contains(&&own.at));
        let mut markers: Vec<Marker> = self.markers.iter().filter(is_hidden).cloned().collect();
        markers.extend(shown.markers.iter().map(|own| {
            let mut before = 0;
            let at = left.iter().find_map(|(from, to)| {
                let at = from + own.at - before;
                before += to - from;
                (at < *to).then_some(at)
            });
            Marker { at: at.unwrap_or(own.at), ..own.clone() }
        }));
        let hidden = hidden_of(left, self.frames);
        let behind = self.layers.iter().flat_map(|own| {
            hidden.iter().filter_map(|&(from, to)| own.within(from, to)).collect::<Vec<Layer>>()
        });
        let seen = pieces(left).flat_map(|(from, to, before)| {
            let own = shown.layers.iter().filter_map(move |own| own.within(before, before + to - from));
            own.map(move |own| own.later(from - before))
        });
        let layers = behind.chain(seen).collect();
        Ok(Self { frames: self.frames, switches, markers, layers, sound: self.sound.clone() })
    }

    /// The switches of some frames that are not shown. A stretch that reaches over their edge goes on as it is shown now: `last` in
    /// front of them, at the head of the line `next` behind them.
    fn hidden(&self, from: i64, to: i64, last: Option<AngleId>, next: AngleId) -> Vec<Switch> {
        let mut own: Vec<Switch> = self.between(from, to).collect();
        let is_cut = |at: i64| self.switches.iter().any(|switch| switch.at == at);
        match (last, own.len()) {
            (Some(last), 1..) if !is_cut(from) => own[0].angle = last,
            (None, count @ 1..) if !is_cut(to) => own[count - 1].angle = next,
            _ => {}
        }
        own
    }

    /// The switches of some frames; the first is at the first of them.
    fn between(&self, from: i64, to: i64) -> impl Iterator<Item = Switch> + '_ {
        let stretches = self.stretches().enumerate();
        let stretches = stretches.filter(move |(_, own)| own.0 < to && own.1 > from && from < to);
        stretches.map(move |(number, own)| match own.0 < from {
            // What began before runs on, and comes out of nothing any more.
            true => Switch::cut(from, own.2),
            false => self.switches[number],
        })
    }
}

/// What is left, each with how many frames of it are before.
fn pieces(left: &[(i64, i64)]) -> impl Iterator<Item = (i64, i64, i64)> + '_ {
    left.iter().filter(|(from, to)| from < to).scan(0, |before, &(from, to)| {
        let own = (from, to, *before);
        *before += to - from;
        Some(own)
    })
}

/// What is not left of `frames` frames.
fn hidden_of(left: &[(i64, i64)], frames: i64) -> Vec<(i64, i64)> {
    let begins = [0].into_iter().chain(left.iter().map(|own| own.1));
    let ends = left.iter().map(|own| own.0).chain([frames]);
    begins.zip(ends).filter(|(from, to)| from < to).collect()
}
