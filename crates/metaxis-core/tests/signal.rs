//! Channels and levels.

use metaxis_core::signal::{
    BlockStats, ChannelMeter, ChannelState, LEVEL_RATE, LISTEN_RATE, LevelReader, PEAK_BIN, PEAK_BYTES,
    PEAK_STEP, PEAK_ZOOMS, PeakBin, PeakReader, level_strip, listening_mixes, peak_bins, peak_zoom,
};
use metaxis_core::{
    ltc::LtcFound,
    time::{FrameRate, Timecode},
};
use proptest::prelude::*;
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

fn state_of(samples: impl Iterator<Item = f32>) -> ChannelState {
    let samples: Vec<f32> = samples.collect();
    let mut meter = ChannelMeter::new(48_000);
    for block in samples.chunks(PEAK_BIN) {
        meter.push(block, &BlockStats::of(block));
    }
    meter.state()
}

fn sine(hz: f32, level: f32) -> impl Iterator<Item = f32> {
    (0..96_000).map(move |i| level * (std::f32::consts::TAU * hz * i as f32 / 48_000.0).sin())
}

#[test]
fn levels_are_said_in_decibels() {
    let state = state_of(sine(440.0, 0.5));
    assert!((state.peak_dbfs + 6.02).abs() < 0.05 && (state.rms_dbfs + 9.03).abs() < 0.05, "{state:?}");
    assert!(!state.dead && state.audio_timecode.is_none());
    assert!(state_of(std::iter::repeat_n(0.0, 1000)).dead);
}

#[test]
fn a_steady_tone_is_no_timecode() {
    for hz in [400.0, 1000.0, 2000.0, 2400.0] {
        assert_eq!(state_of(sine(hz, 0.3)).audio_timecode, None, "{hz}");
    }
}

#[test]
fn timecode_and_dead_channels_are_never_listened_to() {
    let plain =
        ChannelState { peak_dbfs: -6.0, rms_dbfs: -20.0, clipped: 0, audio_timecode: None, dead: false };
    let found = LtcFound {
        frames: 100,
        share: 1.0,
        first: Timecode::new(0, FrameRate::FPS_25, false),
        first_s: 0.0,
        measured_fps: 25.0,
        jumps: 0,
        standing: 0,
        steady: 1.0,
        backwards: false,
        date: None,
    };
    let timecode = ChannelState { audio_timecode: Some(found), ..plain };
    let dead = ChannelState { dead: true, ..plain };
    let used = |states: &[ChannelState]| -> Vec<Vec<usize>> {
        let same = vec![knocks(1); states.len()];
        let mixes = listening_mixes(states, &same);
        mixes.iter().map(|mix| mix.iter().map(|(channel, _)| *channel).collect()).collect()
    };
    assert_eq!(used(&[plain, plain, plain, plain, plain]), [[0, 1]]);
    assert_eq!(used(&[timecode, plain]), [[1]]);
    assert_eq!(used(&[dead, plain, plain]), [[1, 2]]);
    assert!(used(&[timecode, dead]).is_empty());
}

/// A second of noise.
fn knocks(seed: u64) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    (0..48_000).map(|_| rng.random::<f32>() - 0.5).collect()
}

#[test]
fn channels_that_hear_different_things_are_different_sounds() {
    let plain =
        ChannelState { peak_dbfs: -6.0, rms_dbfs: -20.0, clipped: 0, audio_timecode: None, dead: false };
    let (one, other) = (knocks(1), knocks(2));
    assert_eq!(
        listening_mixes(&[plain, plain], &[one.clone(), other.clone()]),
        [vec![(0, 1.0)], vec![(1, 1.0)]]
    );
    let inverted: Vec<f32> = one.iter().map(|v| -v).collect();
    assert_eq!(
        listening_mixes(&[plain, plain], &[one.clone(), inverted]),
        [vec![(0, 0.5), (1, -0.5)]],
        "an inverted pair must not cancel"
    );
    // Far microphones: a tenth of what they hear is the same.
    let far: Vec<f32> = one.iter().zip(knocks(4)).map(|(a, b)| 0.35 * a + b).collect();
    let farther: Vec<f32> = one.iter().zip(knocks(5)).map(|(a, b)| 0.35 * a + b).collect();
    assert_eq!(
        listening_mixes(&[plain, plain], &[far, farther]),
        [vec![(0, 0.5), (1, 0.5)]],
        "only in their mix does the direct sound stand out"
    );
    let quiet = ChannelState { rms_dbfs: -40.0, ..plain };
    let [first, rest] = &listening_mixes(&[plain, plain, quiet], &[one, other, knocks(3)])[..] else {
        panic!("two sounds")
    };
    assert_eq!(first[..], [(0, 1.0)]);
    assert!((rest[1].1 / rest[0].1 - 10.0).abs() < 0.01, "the others come at one level: {rest:?}");
}

#[test]
fn a_strip_shows_the_loudest_of_each_part() {
    let mut reader = LevelReader::default();
    let second = LISTEN_RATE as usize;
    let mut sound = vec![0.0_f32; 2 * second];
    sound[second + 10] = -1.0;
    reader.push(&sound);
    let levels = reader.finish();
    assert_eq!(levels.len(), 4 * LEVEL_RATE as usize);
    assert_eq!(level_strip(&levels, 0.0, 2.0, 4), [0, 0, 127, 0]);
    assert_eq!(level_strip(&levels, 5.0, 6.0, 2), [0, 0], "outside is silent");
    assert!(level_strip(&[], 0.0, 1.0, 3).iter().all(|level| *level == 0));
}

#[test]
fn only_runs_at_full_scale_are_clipped() {
    let mut sound: Vec<f32> = sine(440.0, 0.5).collect();
    sound[1000] = 1.0;
    sound[2000..2002].fill(-1.0);
    assert_eq!(state_of(sound.iter().copied()).clipped, 0, "a peak that just touches is none");
    // Across the seam of two blocks.
    sound[PEAK_BIN * 9 - 2..PEAK_BIN * 9 + 3].fill(1.0);
    assert_eq!(state_of(sound.iter().copied()).clipped, 5);
}

/// All zooms of a sound's only channel.
fn zooms_of(sound: &[f32]) -> [Vec<u8>; PEAK_ZOOMS] {
    let mut zooms: [Vec<u8>; PEAK_ZOOMS] = Default::default();
    let mut out = |zoom: usize, bytes: &[u8]| zooms[zoom].extend_from_slice(bytes);
    let mut reader = PeakReader::new(1);
    for block in sound.chunks(PEAK_BIN) {
        reader.push(&[BlockStats::of(block)], block.len(), &mut out);
    }
    reader.finish(&mut out);
    zooms
}

#[test]
fn a_waveform_is_the_same_at_every_zoom() {
    let sound: Vec<f32> = sine(97.0, 0.25).chain(sine(97.0, 0.75)).chain(sine(97.0, 0.75)).collect();
    let zooms = zooms_of(&sound);
    assert_eq!(zooms[0].len() / PEAK_BYTES, sound.len().div_ceil(PEAK_BIN));
    for (zoom, bytes) in zooms.iter().enumerate() {
        let bins = (bytes.len() / PEAK_BYTES) as f64;
        let whole = peak_bins(bytes, 1, 0, 0.0, bins, 1)[0];
        assert!(
            (i32::from(whole.high) - 24_575).abs() < 20 && (i32::from(whole.low) + 24_575).abs() < 20,
            "{zoom}: {whole:?}"
        );
        if zoom < 2 {
            // Whole bins of the quiet third, and of the loud ones.
            let third = 96_000.0 / (PEAK_BIN * PEAK_STEP.pow(zoom as u32)) as f64;
            let quiet = peak_bins(bytes, 1, 0, 0.0, third.floor(), 1)[0];
            let loud = peak_bins(bytes, 1, 0, third.ceil(), bins, 1)[0];
            assert!((i32::from(quiet.rms) - 5792).abs() < 60, "{zoom}: {quiet:?}");
            assert!((i32::from(loud.rms) - 17_377).abs() < 60, "{zoom}: {loud:?}");
        }
    }
    assert_eq!(peak_zoom(sound.len() as u64, 100), 0);
    assert_eq!(peak_zoom(48_000 * 3600, 1000), 2);
    let step = (PEAK_BIN * PEAK_STEP) as u64;
    assert_eq!(peak_zoom(step * 300, 300), 1);
    assert!(peak_bins(&[], 2, 1, 0.0, 5.0, 4).iter().all(|bin| *bin == PeakBin { low: 0, high: 0, rms: 0 }));
}

proptest! {
    #[test]
    fn statistics_of_a_block_are_those_of_its_samples(samples in prop::collection::vec(-1.0_f32..1.0, 1..600)) {
        let stats = BlockStats::of(&samples);
        prop_assert_eq!(stats.low, samples.iter().copied().fold(f32::MAX, f32::min));
        prop_assert_eq!(stats.high, samples.iter().copied().fold(f32::MIN, f32::max));
        let squares: f32 = samples.iter().map(|x| x * x).sum();
        prop_assert!((stats.sum_squares - squares).abs() < 1e-3 * squares.max(1.0));
        let changes = samples.windows(2).filter(|w| w[0].is_sign_negative() != w[1].is_sign_negative()).count();
        prop_assert_eq!(stats.sign_changes as usize, changes);
        let bin = PeakBin { low: (stats.low * 100.0) as i16, high: 7, rms: 3 };
        prop_assert_eq!(PeakBin::from_bytes(bin.to_bytes()), bin);
    }
}
