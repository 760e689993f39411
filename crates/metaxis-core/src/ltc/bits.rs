//! From edges to bits: biphase mark, where every bit begins with an edge and a one has another in its middle.

use std::collections::VecDeque;

/// What an edge brought.
#[derive(Debug, PartialEq)]
pub(super) enum Step {
    /// Nothing yet.
    None,
    /// A whole bit, with its boundaries.
    Bit { one: bool, from: f64, to: f64 },
    /// The clock was lost: what came before cannot be continued.
    Lost,
}

/// Intervals looked at to find the clock: a sync word's run of ones is 24 half bits long.
const LOOK: usize = 40;
/// How fast the clock follows a changing speed.
const FOLLOW: f64 = 0.08;

#[derive(Debug, Default)]
pub(super) struct BitClock {
    last: Option<f64>,
    recent: VecDeque<f64>,
    /// Length of a bit in samples, once known.
    bit: Option<f64>,
    /// Where the bit began whose first half has passed.
    half_from: Option<f64>,
}

impl BitClock {
    pub(super) fn edge(&mut self, at: f64) -> Step {
        let Some(last) = self.last.replace(at) else { return Step::None };
        let interval = at - last;
        let Some(bit) = self.bit else {
            self.recent.push_back(interval);
            if self.recent.len() == LOOK {
                self.bit = clock_of(&self.recent);
                // Looked at again when a quarter of it is new: sound that is no timecode must not cost much.
                self.recent.drain(..LOOK / 4);
                self.half_from = None;
            }
            return Step::None;
        };
        let share = interval / bit;
        if (0.3..0.75).contains(&share) {
            let Some(from) = self.half_from.take() else {
                self.half_from = Some(last);
                return Step::None;
            };
            self.bit = Some(bit + FOLLOW * (at - from - bit));
            Step::Bit { one: true, from, to: at }
        } else if (0.75..1.5).contains(&share) {
            self.bit = Some(bit + FOLLOW * (interval - bit));
            // A whole bit after half a one: the halves were paired wrongly.
            if self.half_from.take().is_some() {
                return Step::Lost;
            }
            Step::Bit { one: false, from: last, to: at }
        } else {
            self.bit = None;
            self.half_from = None;
            self.recent.clear();
            Step::Lost
        }
    }
}

/// Length of a bit, where all intervals are either about one length or about half of it.
fn clock_of(intervals: &VecDeque<f64>) -> Option<f64> {
    let (short, long) = intervals.iter().fold((f64::MAX, 0.0_f64), |(a, b), &x| (a.min(x), b.max(x)));
    if long > 4.0 * short {
        return None;
    }
    let mut sorted: Vec<f64> = intervals.iter().copied().collect();
    sorted.sort_by(f64::total_cmp);
    let long = sorted[LOOK - 4];
    let near = |x: f64, target: f64| (x / target - 1.0).abs() < 0.3;
    let wholes: Vec<f64> = sorted.iter().copied().filter(|&x| near(x, long)).collect();
    let halves = sorted.iter().filter(|&&x| near(x, long / 2.0)).count();
    let fits = halves >= 4 && wholes.len() >= 2 && wholes.len() + halves >= LOOK - 2;
    fits.then(|| wholes.iter().sum::<f64>() / wholes.len() as f64)
}
