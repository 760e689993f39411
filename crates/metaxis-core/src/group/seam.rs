//! Pieces that are taken out of a group through all of its angles: which of its frames are left, and how they count.

use super::{AnglePart, Group};
use crate::time::Tick;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Where a piece is taken out of a group.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Seam {
    /// The first frame behind it.
    #[ts(type = "number")]
    pub at: i64,
    /// How many frames are taken out there.
    #[ts(type = "number")]
    pub frames: i64,
}

/// Frames of a group that follow each other on the axis.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Piece {
    /// First frame.
    pub from: i64,
    /// First frame behind it.
    pub to: i64,
    /// Axis time at which it begins,
    pub begins: Tick,
    /// and ends.
    pub ends: Tick,
}

/// Pieces in order, those that meet or lie over each other made one.
pub(super) fn in_order(mut pieces: Vec<(i64, i64)>) -> Vec<(i64, i64)> {
    pieces.retain(|(from, to)| from < to);
    pieces.sort_unstable();
    let mut all: Vec<(i64, i64)> = vec![];
    for (from, to) in pieces {
        match all.last_mut() {
            Some((_, end)) if from <= *end => *end = to.max(*end),
            _ => all.push((from, to)),
        }
    }
    all
}

impl Group {
    /// The frames that are left of all that it is made of, trimmed and without what is taken out: from and up to, in order. All of
    /// its window where nothing would be left.
    ///
    /// ```
    /// # use metaxis_core::{group::Group, time::{FrameRate, Tick, Timecode}};
    /// # let bare = Group {
    /// #     name: "4 / 2".into(), start: Timecode::new(250, FrameRate::FPS_25, false), axis_zero: Tick(0), component: 0,
    /// #     frames: 500, width: 1920, height: 1080, angles: vec![], sound: None, window: None, removed: vec![],
    /// #     seams: vec![], grid: None,
    /// # };
    /// let whole = Group { window: Some((50, 400)), removed: vec![(100, 150), (390, 450)], ..bare };
    /// assert_eq!(whole.left(), [(50, 100), (150, 390)]);
    ///
    /// let shown = whole.shown();
    /// assert_eq!((shown.frames, shown.seams[0].at, shown.seams[0].frames), (290, 50, 50));
    /// assert_eq!(shown.frame_start(50), whole.frame_start(150));
    /// assert_eq!(shown.frame_end(49), whole.frame_end(99));
    /// assert_eq!((shown.frame_at(whole.frame_start(120)), whole.whole_frame(60)), (50, 160));
    /// ```
    pub fn left(&self) -> Vec<(i64, i64)> {
        let (first, end) = self.window();
        let mut left = vec![];
        let mut at = first;
        for &(from, to) in &self.removed {
            if at < from.min(end) {
                left.push((at, from.min(end)));
            }
            at = at.max(to);
        }
        if at < end {
            left.push((at, end));
        }
        if left.is_empty() { vec![(first, end)] } else { left }
    }

    /// Whether something of it is trimmed off or taken out.
    pub fn is_cut_down(&self) -> bool {
        self.window.is_some() || !self.removed.is_empty()
    }

    /// The frame of all of it that is shown as its frame `shown`.
    pub fn whole_frame(&self, shown: i64) -> i64 {
        let left = self.left();
        let mut before = 0;
        for &(from, to) in &left {
            if shown < before + to - from {
                return from + shown - before;
            }
            before += to - from;
        }
        left.last().map_or(shown, |(_, to)| to + shown - before)
    }

    /// The frames of all of it from the first of some that are shown to the last of them.
    pub fn whole_range(&self, from: i64, to: i64) -> (i64, i64) {
        let first = self.whole_frame(from);
        if to <= from { (first, first) } else { (first, self.whole_frame(to - 1) + 1) }
    }

    /// What is taken out of it, pieces more of what is shown; `None` where one of them is nothing, or nothing would be left.
    pub fn with_removed(&self, pieces: &[(i64, i64)]) -> Option<Vec<(i64, i64)>> {
        let frames: i64 = self.left().iter().map(|(from, to)| to - from).sum();
        let within = |(from, to): &(i64, i64)| ((*from).max(0), (*to).min(frames));
        let pieces: Vec<(i64, i64)> = pieces.iter().map(within).collect();
        let gone: i64 = in_order(pieces.clone()).iter().map(|(from, to)| to - from).sum();
        if pieces.is_empty() || pieces.iter().any(|(from, to)| from >= to) || gone >= frames {
            return None;
        }
        let whole = pieces.iter().map(|(from, to)| self.whole_range(*from, *to));
        Some(in_order(self.removed.iter().copied().chain(whole).collect()))
    }

    /// What is taken out of it together with what is taken out of others on its axis, each by its own frames.
    pub fn with_all_removed<'a>(
        &self,
        others: impl Iterator<Item = (&'a Self, &'a [(i64, i64)])>,
    ) -> Vec<(i64, i64)> {
        let at = |other: &Self, frame: i64| self.frame_at(other.frame_start(frame)).clamp(0, self.frames);
        let there = others.flat_map(|(other, removed)| {
            removed.iter().map(move |(from, to)| (at(other, *from), at(other, *to))).collect::<Vec<_>>()
        });
        in_order(self.removed.iter().copied().chain(there).collect())
    }

    /// The same with what is taken out in front of frame `at` of what is shown put back; `None` where nothing is.
    pub fn with_put_back(&self, at: i64) -> Option<Vec<(i64, i64)>> {
        let begins = self.whole_frame(at);
        // At its very end what is taken out begins there.
        let is_there = |own: &(i64, i64)| own.1 == begins || own.0 == begins;
        let removed: Vec<(i64, i64)> = self.removed.iter().copied().filter(|own| !is_there(own)).collect();
        (removed.len() < self.removed.len()).then_some(removed)
    }

    /// A part as `left` leaves it, on the frames that are shown.
    pub(super) fn pieces_of<'a>(
        part: &'a AnglePart,
        left: &'a [(i64, i64)],
    ) -> impl Iterator<Item = AnglePart> + 'a {
        let mut before = 0;
        left.iter().filter_map(move |&(from, to)| {
            let later = before - from;
            before += to - from;
            let (begin, end) = (part.from_frame.max(from), part.to_frame.min(to));
            (begin < end).then(|| AnglePart {
                from_frame: begin + later,
                to_frame: end + later,
                ..part.clone()
            })
        })
    }

    /// How many frames its seams take out before frame `frame`.
    pub(super) fn taken_out(&self, frame: i64) -> i64 {
        self.seams.iter().take_while(|seam| seam.at <= frame).map(|seam| seam.frames).sum()
    }

    /// The frame that is number `frame` of all, those that are taken out among them.
    pub(super) fn without_seams(&self, frame: i64) -> i64 {
        let mut own = frame;
        for seam in &self.seams {
            if own < seam.at {
                break;
            }
            if own < seam.at + seam.frames {
                return seam.at;
            }
            own -= seam.frames;
        }
        own
    }

    /// Its frames as they follow each other on the axis: one piece more than it has seams.
    pub fn pieces(&self) -> Vec<Piece> {
        let ends = self.seams.iter().map(|seam| seam.at).chain([self.frames]);
        let begins = [0].into_iter().chain(self.seams.iter().map(|seam| seam.at));
        let piece = |(from, to): (i64, i64)| Piece {
            from,
            to,
            begins: self.frame_start(from),
            ends: self.frame_end(to - 1),
        };
        begins.zip(ends).map(piece).collect()
    }
}
