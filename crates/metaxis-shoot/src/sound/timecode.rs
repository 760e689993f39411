//! A timecode box: linear timecode (SMPTE ST 12-1) as a level at any moment, at every rate, with the faults boxes and
//! cables have.

use crate::scenario::SignalPlan;

/// Rise time of an edge, seconds.
const EDGE_S: f64 = 40e-6;
const DAY_S: f64 = 86_400.0;

/// A box that counts from midnight.
#[derive(Debug, Clone)]
pub struct TimecodeBox {
    /// Frames a second.
    rate: (i64, i64),
    drop: bool,
    /// Year of the century, month and day in the user bits.
    date: Option<[u8; 3]>,
    /// Frames its labels are later than they should be.
    late: i64,
    /// The frame at work with the levels of its half bits: one frame is asked for many times.
    at_work: Option<(i64, [bool; 160])>,
}

impl TimecodeBox {
    /// A box at `rate` frames a second, a numerator over a denominator.
    pub fn new(rate: (i64, i64), drop: bool) -> Self {
        Self { rate, drop, date: None, late: 0, at_work: None }
    }

    /// The box of a plan; a date of YYYY-MM-DD is sent in the user bits where the plan asks for it.
    pub fn planned(plan: &SignalPlan, date: &str) -> Self {
        let part = |index: usize| date.split('-').nth(index).and_then(|text| text.parse::<u32>().ok());
        let date = || Some([(part(0)? % 100) as u8, part(1)? as u8, part(2)? as u8]);
        Self {
            date: if plan.date { date() } else { None },
            late: plan.late_frames,
            ..Self::new(plan.rate, plan.drop)
        }
    }

    /// The signal (−1 to 1) at `time_s` seconds since midnight.
    pub fn level(&mut self, time_s: f64) -> f32 {
        let fps = self.rate.0 as f64 / self.rate.1 as f64;
        // An edge lies in the middle of its rise.
        let position = (time_s + EDGE_S / 2.0) * fps;
        let frame = position.floor();
        let half = (position - frame) * 160.0;
        let index = (half as usize).min(159);
        let levels = self.half_bits(frame as i64);
        let now = if levels[index] { 1.0 } else { -1.0 };
        // The last half bit of any frame is low: the polarity bit makes it so.
        let before = if index > 0 && levels[index - 1] { 1.0 } else { -1.0 };
        let since = (half - index as f64) / (160.0 * fps);
        let blend = (since / EDGE_S).min(1.0) as f32;
        before + (now - before) * blend
    }

    /// Levels of the 160 half bits of a frame: an edge at the start of every bit, one more within a one.
    fn half_bits(&mut self, frame: i64) -> [bool; 160] {
        if let Some((at, levels)) = self.at_work
            && at == frame
        {
            return levels;
        }
        let bits = self.frame_bits(frame + self.late);
        let mut level = false;
        let levels = std::array::from_fn(|i| {
            if i % 2 == 0 || bits[i / 2] {
                level = !level;
            }
            level
        });
        self.at_work = Some((frame, levels));
        levels
    }

    fn frame_bits(&self, frame: i64) -> [bool; 80] {
        let nominal = (self.rate.0 as f64 / self.rate.1 as f64).round() as i64;
        let of_day = if self.drop { 24 * 6 * 17_982 } else { DAY_S as i64 * nominal };
        let mut count = frame.rem_euclid(of_day);
        if self.drop {
            // Ten minutes hold 17 982 frames; each minute but the first of them leaves two labels out.
            let (tens, rest) = (count / 17_982, count % 17_982);
            count += 18 * tens + 2 * ((rest - 2).max(0) / 1_798);
        }
        let (frames, seconds) = (count % nominal, count / nominal);
        let mut bits = [false; 80];
        let mut put = |at: usize, width: usize, value: i64| {
            for i in 0..width {
                bits[at + i] = value >> i & 1 == 1;
            }
        };
        put(0, 4, frames % 10);
        put(8, 2, frames / 10);
        put(10, 1, i64::from(self.drop));
        put(16, 4, seconds % 10);
        put(24, 3, seconds / 10 % 6);
        put(32, 4, seconds / 60 % 10);
        put(40, 3, seconds / 600 % 6);
        put(48, 4, seconds / 3600 % 24 % 10);
        put(56, 2, seconds / 3600 % 24 / 10);
        if let Some([year, month, day]) = self.date {
            for (pair, value) in [day, month, year].into_iter().enumerate() {
                put(4 + 16 * pair, 4, i64::from(value % 10));
                put(12 + 16 * pair, 4, i64::from(value / 10));
            }
        }
        // Sync word 0011 1111 1111 1101, sent from its first bit.
        put(64, 16, 0b1011_1111_1111_1100);
        // An even number of ones leaves the level where it began.
        let polarity = if nominal == 25 { 59 } else { 27 };
        bits[polarity] = bits.iter().filter(|bit| **bit).count() % 2 == 1;
        bits
    }
}
