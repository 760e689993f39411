//! The engine's hot kernels, one by one, so that a change that slows one down is seen: `cargo bench -p metaxis-bench`.

// The functions that the macros below make have no place for documentation.
#![allow(missing_docs)]

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use metaxis_bench::KINDS;
use metaxis_core::{
    ltc::LtcReader,
    signal::{BandReader, Correlator, LISTEN_RATE, Pattern, PhaseMatcher},
    sound::{Leg, Rates, Render, Samples},
    sync::{LocalOffset, fit_pieces},
};
use metaxis_shoot::{TimecodeBox, field::Sound};
use std::{convert::Infallible, hint::black_box, time::Instant};

/// A window in samples, and how far it is searched either way: those of a fine search along a line.
const WINDOW: (usize, usize) = (30_720, 1_024);

fn speech(seconds: f64) -> Vec<f32> {
    Sound::Speech { voices: 1, words: 2 }.make(seconds, LISTEN_RATE)
}

fn pattern(sound: &[f32]) -> Pattern {
    let mut reader = BandReader::new();
    reader.push(sound);
    Pattern::new(&reader.finish())
}

fn features(c: &mut Criterion) {
    let minute = speech(60.0);
    let mut group = c.benchmark_group("features");
    group.throughput(Throughput::Elements(minute.len() as u64));
    group.bench_function("a minute of sound to its pattern", |b| b.iter(|| pattern(black_box(&minute))));
    group.finish();
}

fn correlation(c: &mut Criterion) {
    let long = speech(600.0);
    let (whole, part) =
        (pattern(&long), pattern(&long[200 * LISTEN_RATE as usize..][..60 * LISTEN_RATE as usize]));
    let mut correlator = Correlator::for_frames(part.len());
    let (searched, sought) = (correlator.searched(&whole), correlator.sought(&part));
    c.bench_function("a minute looked for in ten", |b| {
        b.iter(|| correlator.search(black_box(&searched), black_box(&sought), 60, 8, 8))
    });
}

fn phase(c: &mut Criterion) {
    let sound = speech(4.0);
    let (window, range) = WINDOW;
    let mut matcher = PhaseMatcher::new(window, range);
    let (clip, reference) = (&sound[range..range + window], &sound[..window + 2 * range]);
    c.bench_function("one window by phase", |b| {
        b.iter(|| matcher.correlate(black_box(clip), black_box(reference)).map(<[f32]>::len))
    });
}

fn timecode(c: &mut Criterion) {
    const RATE: u32 = 48_000;
    let mut source = TimecodeBox::new((25, 1), false);
    let minute: Vec<f32> =
        (0..60 * RATE).map(|i| 0.25 * source.level(36_000.0 + f64::from(i) / f64::from(RATE))).collect();
    c.bench_function("a minute of audio timecode read", |b| {
        b.iter(|| {
            let mut found = vec![];
            LtcReader::new(RATE).push(black_box(&minute), &mut found);
            found.len()
        })
    });
}

/// A sound of so many channels in memory.
struct Channels(Vec<Vec<f32>>);

impl Samples for Channels {
    type Error = Infallible;

    fn channels(&self) -> usize {
        self.0.len()
    }

    fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
        for (out, own) in out.iter_mut().zip(&self.0) {
            for (i, value) in out.iter_mut().enumerate() {
                let at = usize::try_from(from + i as i64).ok();
                *value = at.and_then(|at| own.get(at)).copied().unwrap_or(0.0);
            }
        }
        Ok(())
    }
}

/// Ten seconds corrected by 40 ppm, as often as real time has them.
fn corrected(c: &mut Criterion) {
    const RATE: usize = 48_000;
    let rates = Rates { out: RATE as f64, own: RATE as f64 };
    let leg = Leg { from: 0, to: 10 * RATE as i64, at: 0.0, step: 1.000_04 };
    let mut group = c.benchmark_group("corrected");
    for channels in [1, 8] {
        let mut source =
            Channels(vec![speech(10.0).iter().flat_map(|value| [*value; 3]).collect(); channels]);
        let render = Render::new(vec![leg], rates);
        let mut out = vec![vec![0.0; 8_192]; channels];
        let mut once = |source: &mut Channels| {
            for from in (0..leg.to).step_by(8_192) {
                let Ok(()) = render.read(source, from, &mut out);
            }
        };
        let begin = Instant::now();
        once(&mut source);
        let faster = 10.0 * channels as f64 / begin.elapsed().as_secs_f64();
        println!("{channels} channels resampled: {faster:.0} x real time a channel on one core (asked: 150)");
        group.throughput(Throughput::Elements((10 * RATE * channels) as u64));
        group.bench_function(format!("ten seconds of {channels} channels"), |b| b.iter(|| once(&mut source)));
    }
    group.finish();
}

fn line(c: &mut Criterion) {
    let windows: Vec<LocalOffset> = (0..160)
        .map(|i| {
            let clip_s = f64::from(i);
            let lost_s = if i > 90 { 0.02 } else { 0.0 };
            LocalOffset {
                clip_s,
                offset_s: 3.0 + 12e-6 * clip_s + lost_s + 1e-6 * (clip_s * 7.0).sin(),
                weight: 36.0,
            }
        })
        .collect();
    c.bench_function("line through 160 windows, one break", |b| {
        b.iter(|| fit_pieces(black_box(&windows), 0.0))
    });
}

fn solve(c: &mut Criterion) {
    let shoot = KINDS.iter().find(|kind| kind.name == "islands").map(|kind| (kind.make)(1)).expect("a kind");
    let mut group = c.benchmark_group("solve");
    group.sample_size(10);
    group.bench_function("five clips, one island, all links", |b| b.iter(|| black_box(&shoot).sync()));
    group.finish();
}

criterion_group!(kernels, features, correlation, phase, timecode, corrected, line, solve);
criterion_main!(kernels);
