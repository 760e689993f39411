//! Stretches of one count: frames whose labels go on where the frame before them left off.

use super::LtcFrame;

/// Frames that one count joins; others may lie between them, and frames may be missing.
#[derive(Debug, Clone, Copy)]
pub(super) struct Run {
    /// Its first frame.
    pub first: LtcFrame,
    /// Frames that belong to it.
    pub frames: u32,
}

/// How a frame follows the one before it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Follows {
    /// It is the first, or goes on with the same count.
    On,
    /// Its label is that of the frame before.
    Standing,
    /// Another count begins, or one that was left goes on.
    Jump,
}

/// The counts of a channel.
#[derive(Debug, Clone, Default)]
pub(super) struct Runs {
    /// Each with its last frame so far; the one at work last.
    all: Vec<(Run, LtcFrame)>,
}

/// Counts remembered: what jumps more often has none that matters.
const MOST: usize = 16;

impl Runs {
    /// Takes the next frame, of a count with `nominal` frames a second.
    pub fn add(&mut self, frame: &LtcFrame, nominal: i64) -> Follows {
        let goes_on = |(_, last): &(Run, LtcFrame)| {
            let gap = ((frame.start - last.start).abs() / frame.length).round() as i64;
            let step = if frame.backwards { -gap } else { gap };
            let moved = count(frame, nominal) - count(last, nominal);
            // Midnight is a step like any other.
            (moved - step).rem_euclid(of_a_day(frame, nominal)) == 0
        };
        let before = self.all.last().map(|(_, last)| *last);
        if let Some(at) = self.all.iter().rposition(goes_on) {
            let (run, _) = self.all.remove(at);
            self.all.push((Run { frames: run.frames + 1, ..run }, *frame));
            return if at + 1 == self.all.len() { Follows::On } else { Follows::Jump };
        }
        if self.all.len() == MOST {
            // The shortest is the least loss.
            let least = (0..MOST).min_by_key(|&i| self.all[i].0.frames).unwrap_or(0);
            self.all.remove(least);
        }
        self.all.push((Run { first: *frame, frames: 1 }, *frame));
        match before {
            None => Follows::On,
            Some(last) if last.label == frame.label => Follows::Standing,
            Some(_) => Follows::Jump,
        }
    }

    /// The count that most frames belong to.
    pub fn longest(&self) -> Option<Run> {
        self.all.iter().map(|(run, _)| *run).max_by_key(|run| run.frames)
    }
}

/// Frames from midnight to midnight.
fn of_a_day(frame: &LtcFrame, nominal: i64) -> i64 {
    if leaves_out(frame, nominal) { 24 * 6 * 17_982 } else { 86_400 * nominal }
}

fn leaves_out(frame: &LtcFrame, nominal: i64) -> bool {
    frame.drop && nominal == 30
}

/// Frames since midnight by the label (drop-frame after SMPTE ST 12-1: two labels are left out each minute but the
/// tenth).
fn count(frame: &LtcFrame, nominal: i64) -> i64 {
    let [h, m, s, f] = frame.label.map(i64::from);
    let minutes = h * 60 + m;
    let dropped = if leaves_out(frame, nominal) { 2 * (minutes - minutes / 10) } else { 0 };
    (minutes * 60 + s) * nominal + f - dropped
}
