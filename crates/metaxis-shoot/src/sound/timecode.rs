//! A timecode box: linear timecode (SMPTE ST 12-1) as a level at any moment.

/// Rise time of an edge, seconds.
const EDGE_S: f64 = 40e-6;

/// The signal (−1 to 1) at `time_s` seconds since midnight, at `rate` whole frames per second.
pub fn audio_timecode_level(time_s: f64, rate: u32) -> f32 {
    // An edge lies in the middle of its rise.
    let position = (time_s + EDGE_S / 2.0) * f64::from(rate);
    let frame = position.floor();
    let half = (position - frame) * 160.0;
    let index = (half as usize).min(159);
    let levels = half_bits(frame as i64, rate);
    let now = if levels[index] { 1.0 } else { -1.0 };
    // The last half bit of any frame is low: the polarity bit makes it so.
    let before = if index > 0 && levels[index - 1] { 1.0 } else { -1.0 };
    let since = (half - index as f64) / (160.0 * f64::from(rate));
    let blend = (since / EDGE_S).min(1.0) as f32;
    before + (now - before) * blend
}

/// Levels of the 160 half bits of a frame: an edge at the start of every bit, one more within a one.
fn half_bits(frame: i64, rate: u32) -> [bool; 160] {
    let bits = frame_bits(frame, rate);
    let mut level = false;
    std::array::from_fn(|i| {
        if i % 2 == 0 || bits[i / 2] {
            level = !level;
        }
        level
    })
}

fn frame_bits(frame: i64, rate: u32) -> [bool; 80] {
    let rate = i64::from(rate);
    let count = frame.rem_euclid(24 * 3600 * rate);
    let (frames, seconds) = (count % rate, count / rate);
    let mut bits = [false; 80];
    let mut put = |at: usize, width: usize, value: i64| {
        for i in 0..width {
            bits[at + i] = value >> i & 1 == 1;
        }
    };
    put(0, 4, frames % 10);
    put(8, 2, frames / 10);
    put(16, 4, seconds % 10);
    put(24, 3, seconds / 10 % 6);
    put(32, 4, seconds / 60 % 10);
    put(40, 3, seconds / 600 % 6);
    put(48, 4, seconds / 3600 % 24 % 10);
    put(56, 2, seconds / 3600 % 24 / 10);
    // Sync word 0011 1111 1111 1101, sent from its first bit.
    put(64, 16, 0b1011_1111_1111_1100);
    // An even number of ones leaves the level where it began.
    let polarity = if rate == 25 { 59 } else { 27 };
    bits[polarity] = bits.iter().filter(|bit| **bit).count() % 2 == 1;
    bits
}
