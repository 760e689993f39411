//! `metaxis-timecode`: the reader of audio timecode on signals of the simulator's box, figures printed.

use metaxis_core::{
    ltc::{LtcFrame, LtcReader},
    signal::{BlockStats, ChannelMeter, PEAK_BIN},
    time::FrameRate,
};
use metaxis_shoot::TimecodeBox;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::{f64::consts::TAU, time::Instant};

const RATE: u32 = 48_000;
/// A minute before midnight, not on a frame.
const BEGIN_S: f64 = 86_400.0 - 61.013;
const LENGTH_S: f64 = 20.0;
/// Frames a second and drop-frame counting.
const RATES: [((i64, i64), bool); 6] = [
    ((24_000, 1001), false),
    ((24, 1), false),
    ((25, 1), false),
    ((30_000, 1001), false),
    ((30_000, 1001), true),
    ((30, 1), false),
];

/// What is done to a signal.
struct Case {
    name: &'static str,
    speed: f64,
    level_dbfs: f64,
    noise_dbfs: f64,
    hum_dbfs: f64,
    inverted: bool,
}

const PLAIN: Case = Case {
    name: "plain",
    speed: 1.0,
    level_dbfs: -18.0,
    noise_dbfs: -200.0,
    hum_dbfs: -200.0,
    inverted: false,
};
const CASES: [Case; 9] = [
    PLAIN,
    Case { name: "-40 dBFS", level_dbfs: -40.0, ..PLAIN },
    Case { name: "-40 dBFS, noise 20 dB below", level_dbfs: -40.0, noise_dbfs: -60.0, ..PLAIN },
    Case { name: "hum 6 dB below", hum_dbfs: -24.0, ..PLAIN },
    Case { name: "clipped", level_dbfs: 12.0, ..PLAIN },
    Case { name: "inverted", inverted: true, ..PLAIN },
    Case { name: "half speed", speed: 0.5, ..PLAIN },
    Case { name: "double speed", speed: 2.0, ..PLAIN },
    Case { name: "backwards", speed: -1.0, ..PLAIN },
];

impl Case {
    fn samples(&self, rate: (i64, i64), drop: bool) -> Vec<f32> {
        let mut source = TimecodeBox::new(rate, drop);
        let mut chance = ChaCha8Rng::seed_from_u64(7);
        let gain = |dbfs: f64| if dbfs < -120.0 { 0.0 } else { 10_f64.powf(dbfs / 20.0) };
        let level = gain(self.level_dbfs) * if self.inverted { -1.0 } else { 1.0 };
        (0..(LENGTH_S * f64::from(RATE)) as usize)
            .map(|i| {
                let at_s = i as f64 / f64::from(RATE);
                let signal = f64::from(source.level(BEGIN_S + self.speed * at_s)) * level;
                let noise = gain(self.noise_dbfs) * chance.random_range(-1.0..1.0);
                let hum = gain(self.hum_dbfs) * (TAU * 50.0 * at_s).sin();
                (signal + noise + hum).clamp(-1.0, 1.0) as f32
            })
            .collect()
    }
}

/// Frames read of those due, those with a wrong label, and the largest error of position in samples.
fn measure(case: &Case, rate: (i64, i64), drop: bool) -> Option<(usize, usize, usize, f64)> {
    let mut found: Vec<LtcFrame> = vec![];
    LtcReader::new(RATE).push(&case.samples(rate, drop), &mut found);
    let fps = FrameRate::new(rate.0, rate.1).ok()?;
    let (mut wrong, mut worst) = (0, 0.0_f64);
    for frame in &found {
        // The frame of the box that begins where this one was found.
        let time_s = BEGIN_S + case.speed * frame.start / f64::from(RATE);
        let number = (time_s * fps.as_f64()).round();
        let label = frame.timecode(fps).map(|label| label.frames);
        let of_day = label
            .zip(Some(number as i64))
            .map(|(own, number)| (own - number).rem_euclid(day_frames(fps, drop)));
        wrong += usize::from(of_day != Some(0) || frame.drop != drop);
        let off_s = (number / fps.as_f64() - time_s) / case.speed;
        worst = worst.max(off_s.abs() * f64::from(RATE));
    }
    // A frame is read when it is whole: the first and the last are not.
    let due = (LENGTH_S * case.speed.abs() * fps.as_f64()) as usize - 2;
    Some((found.len(), due, wrong, worst))
}

fn day_frames(fps: FrameRate, drop: bool) -> i64 {
    if drop { 24 * 6 * 17_982 } else { 86_400 * fps.nominal() }
}

fn main() {
    println!("{:30} {:>14} {:>12} {:>8} {:>18}", "signal", "frames", "of due", "wrong", "off, samples");
    let mut all = (0, 0, 0, 0.0_f64);
    for case in &CASES {
        let measured: Vec<_> = RATES.iter().filter_map(|(rate, drop)| measure(case, *rate, *drop)).collect();
        let (read, due, wrong, worst) = measured.iter().fold((0, 0, 0, 0.0_f64), |sum, own| {
            (sum.0 + own.0.min(own.1), sum.1 + own.1, sum.2 + own.2, sum.3.max(own.3))
        });
        println!(
            "{:30} {read:>14} {:>10.2} % {wrong:>8} {worst:>18.3}",
            case.name,
            100.0 * read as f64 / due.max(1) as f64
        );
        all = (all.0 + read, all.1 + due, all.2 + wrong, all.3.max(worst));
    }
    println!("{} rates each; asked: exact frame, within 1 sample", RATES.len());
    println!("all: {} of {} frames, {} wrong labels, {:.3} samples at most", all.0, all.1, all.2, all.3);
    time_an_hour();
}

/// The time that an hour takes, of the decoder alone and of the meter that every channel goes through.
fn time_an_hour() {
    let minute = Case { speed: 1.0, ..PLAIN }.samples((25, 1), false);
    let minutes = (3600.0 / LENGTH_S) as usize;
    let begin = Instant::now();
    let (mut reader, mut found) = (LtcReader::new(RATE), vec![]);
    for _ in 0..minutes {
        reader.push(&minute, &mut found);
    }
    let alone_s = begin.elapsed().as_secs_f64();
    let begin = Instant::now();
    let mut meter = ChannelMeter::new(RATE);
    for block in std::iter::repeat_n(&minute, minutes).flat_map(|piece| piece.chunks(PEAK_BIN)) {
        meter.push(block, &BlockStats::of(block));
    }
    let metered_s = begin.elapsed().as_secs_f64();
    let is_found = meter.state().audio_timecode.is_some();
    println!(
        "an hour of audio timecode, one core: decoded in {alone_s:.2} s (asked: 0.5 s), {} frames; measured and decoded as every channel is in {metered_s:.2} s, found: {is_found}",
        found.len()
    );
}
