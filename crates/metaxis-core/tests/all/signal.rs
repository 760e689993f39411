//! Channels and levels.

use metaxis_core::{
    signal::{
        BandReader, BlockStats, Carries, ChannelMeter, ChannelState, LEVEL_RATE, LISTEN_RATE, LevelReader,
        Mix, PEAK_BIN, PEAK_BYTES, PEAK_STEP, PEAK_ZOOMS, PeakBin, PeakReader, Relation, by_clearness,
        level_strip, listening_mixes, living, peak_bins, peak_zoom, played, relate,
    },
    sync::SampleSource,
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
    assert!(!state.is_dead() && state.audio_timecode.is_none());
    assert!(state_of(std::iter::repeat_n(0.0, 1000)).is_dead());
}

#[test]
fn a_steady_tone_is_no_timecode() {
    for hz in [400.0, 1000.0, 2000.0, 2400.0] {
        assert_eq!(state_of(sine(hz, 0.3)).audio_timecode, None, "{hz}");
    }
}

/// A channel that carries sound.
const PLAIN: ChannelState = ChannelState {
    peak_dbfs: -6.0,
    rms_dbfs: -20.0,
    clipped: 0,
    no_numbers: 0,
    floor_dbfs: -50.0,
    carries: Carries::Sound,
    late_s: None,
    audio_timecode: None,
};

/// So many seconds of noise.
fn noise(seconds: f64, seed: u64) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    (0..(seconds * 16_000.0) as usize).map(|_| rng.random::<f32>() - 0.5).collect()
}

/// Something that comes and goes: bursts of noise.
fn bursts(seconds: f64, seed: u64) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut level = 0.0_f32;
    noise(seconds, seed + 1_000)
        .into_iter()
        .map(|value| {
            if rng.random_range(0..4_000) == 0 {
                level = 0.2 + 0.6 * rng.random::<f32>();
            }
            level *= 0.9995;
            value * level
        })
        .collect()
}

/// `sound` as it is heard `late_s` later, at a whole sample.
fn later(sound: &[f32], late_s: f64) -> Vec<f32> {
    let mut all = vec![0.0; (late_s * 16_000.0).round() as usize];
    all.extend_from_slice(sound);
    all.truncate(sound.len());
    all
}

fn plus(a: &[f32], b: &[f32], gain: f32) -> Vec<f32> {
    a.iter().zip(b).map(|(a, b)| a + gain * b).collect()
}

/// How the channels lie to each other, by the rules of listening.
fn relations(channels: &[Vec<f32>]) -> Vec<Relation> {
    let read = |channel: usize, from: i64, out: &mut [f32]| channels[channel].read(from, out);
    let all: Vec<usize> = (0..channels.len()).collect();
    relate(&all, &all, channels[0].len() as u64, &read)
}

#[test]
fn a_channel_is_called_what_it_carries() {
    let at = |hz: f64, level: f64| -> Vec<f32> {
        (0..10 * 48_000)
            .map(|i| (level * (std::f64::consts::TAU * hz * i as f64 / 48_000.0).sin()) as f32)
            .collect()
    };
    let hiss = (2..5).fold(noise(30.0, 1), |sum, seed| plus(&sum, &noise(30.0, seed), 1.0));
    let hiss: Vec<f32> = hiss.into_iter().map(|value| 0.3 * value).collect();
    let of = |sound: &[f32]| state_of(sound.iter().copied()).carries;
    assert_eq!(of(&[0.0; 48_000]), Carries::Nothing);
    assert_eq!(of(&plus(&at(50.0, 0.1), &hiss, 0.002)), Carries::Hum);
    assert_eq!(of(&plus(&at(1_000.0, 0.1), &hiss, 0.002)), Carries::Tone);
    assert_eq!(of(&hiss[..10 * 48_000]), Carries::Noise);
    assert_eq!(of(&bursts(30.0, 2)), Carries::Sound);
    // Half an hour of nothing but hiss with one line of words is a channel with sound.
    let mut seldom: Vec<f32> = (0..20).flat_map(|i| noise(30.0, 50 + i)).map(|value| 0.01 * value).collect();
    for (i, value) in bursts(4.0, 3).into_iter().enumerate() {
        seldom[2_000_000 + i] += value;
    }
    assert_eq!(of(&seldom), Carries::Sound);
    assert_eq!(of(&hiss[..4_800]), Carries::Sound, "too short to tell");
}

#[test]
fn what_heard_nothing_of_the_scene_takes_no_part() {
    let of = |carries: Carries| ChannelState { carries, ..PLAIN };
    let [nothing, hum, tone, hiss, timecode] =
        [Carries::Nothing, Carries::Hum, Carries::Tone, Carries::Noise, Carries::Timecode].map(of);
    assert_eq!(living(&[nothing, hum, PLAIN, tone, hiss, timecode, PLAIN]), [2, 6]);
    assert_eq!(living(&[timecode, hiss, nothing, hum]), [1, 3], "where nothing else is there");
    assert!(living(&[timecode, nothing]).is_empty());
}

#[test]
fn channels_that_hear_the_same_are_one_sound_and_others_are_several() {
    let (one, other) = (bursts(20.0, 4), bursts(20.0, 5));
    let mixes = |channels: &[Vec<f32>]| {
        let states = vec![PLAIN; channels.len()];
        listening_mixes(&states, &living(&states), &relations(channels))
    };
    let channels = |mix: &Mix| mix.parts.iter().map(|part| part.channel).collect::<Vec<_>>();
    let gains = |mix: &Mix| mix.parts.iter().map(|part| part.gain).collect::<Vec<_>>();
    let pair = mixes(&[one.clone(), one.clone()]);
    assert_eq!(pair.len(), 1);
    let inverted: Vec<f32> = one.iter().map(|value| -value).collect();
    let turned = mixes(&[one.clone(), plus(&inverted, &noise(20.0, 6), 0.01)]);
    assert_eq!((turned.len(), gains(&turned[0])), (1, vec![0.5, -0.5]), "an inverted pair must not cancel");
    let all = mixes(&[one.clone(), other.clone(), bursts(20.0, 7)]);
    assert_eq!(all.iter().map(channels).collect::<Vec<_>>(), [vec![0, 1, 2], vec![0], vec![1], vec![2]]);
    assert_eq!(all.iter().map(Mix::only).collect::<Vec<_>>(), [None, Some(0), Some(1), Some(2)]);
    // Far microphones: a tenth of what they hear is the same.
    let far = plus(&bursts(20.0, 8), &one, 0.35);
    let farther = plus(&bursts(20.0, 9), &one, 0.35);
    assert_eq!(mixes(&[far, farther]).len(), 1, "only in their mix does the direct sound stand out");
}

#[test]
fn a_recorders_mix_is_played_and_not_what_it_was_mixed_from() {
    let (boom, lav) = (bursts(20.0, 13), later(&bursts(20.0, 14), 0.012));
    let side = |own: f32| plus(&boom, &lav, own);
    let mix = relations(&[side(0.4), side(0.6)]);
    assert_eq!(played(&[0, 1, 2, 3], mix.get(1)), [0, 1]);
    let apart = relations(&[boom, lav]);
    assert_eq!(played(&[0, 1, 3], apart.get(1)), [0, 1, 3]);
    assert_eq!(played(&[2], None), [2]);
    assert!(played(&[], None).is_empty());
}

#[test]
fn a_clear_channel_is_not_drowned_by_noisy_ones() {
    let clear = ChannelState { floor_dbfs: -70.0, peak_dbfs: -20.0, ..PLAIN };
    let noisy = ChannelState { floor_dbfs: -30.0, peak_dbfs: -6.0, ..PLAIN };
    let apart = Relation { is_base: false, late_s: None, inverted: false, alike: 0.0 };
    let relations = [apart, Relation::BASE, apart];
    let mixes = listening_mixes(&[noisy, clear, noisy], &[0, 1, 2], &relations);
    let gain = |channel: usize| mixes[0].parts[channel].gain;
    assert!((gain(1) / gain(0) - 100.0).abs() < 0.1, "their floors come at one level: {:?}", mixes[0]);
    assert!(gain(1) * 0.1 <= 0.5001, "and the loudest peaks below full scale");
}

#[test]
fn a_late_channel_is_measured_wherever_its_source_is() {
    // They talk in turns of five seconds.
    let turns = |sound: Vec<f32>, first: bool| -> Vec<f32> {
        let silent = |i: usize| (i / 80_000).is_multiple_of(2) != first;
        sound.into_iter().enumerate().map(|(i, value)| if silent(i) { 0.0 } else { value }).collect()
    };
    let (voice, other) = (turns(bursts(40.0, 10), true), turns(bursts(40.0, 11), false));
    let boom = plus(&voice, &other, 1.0);
    // Each wears a microphone: a link of 12.5 and of 4 ms, the other voice 20 dB down.
    let one = later(&plus(&voice, &later(&other, 0.006), 0.1), 0.012_5);
    let two = later(&plus(&other, &later(&voice, 0.006), 0.1), 0.004);
    let found = relations(&[boom, one.clone(), two.clone()]);
    let late: Vec<f64> = found.iter().map(|own| own.late_s.expect("a delay")).collect();
    for (late_s, due_s) in late.iter().zip([0.0, 0.012_5, 0.004]) {
        assert!((late_s - due_s).abs() < 0.02e-3, "{late:?}");
    }
    // Without the boom, each hears its own voice first: that is distance, and no delay of either.
    let near = |own: &[f32], far: &[f32]| plus(own, &later(far, 0.006), 0.2);
    // A base that is not the clearest is no copy of itself.
    let states = [PLAIN, ChannelState { peak_dbfs: 0.0, ..PLAIN }, PLAIN];
    assert_eq!(by_clearness(&states, &[0, 1, 2]), [1, 0, 2]);
    assert_eq!(listening_mixes(&states, &[0, 1, 2], &found)[0].parts.len(), 3);
    let apart = relations(&[near(&voice, &other), near(&other, &voice)]);
    assert!(apart.iter().filter(|own| own.late_s.is_none()).count() == 1, "{apart:?}");
    // What has nothing in common has no delay.
    assert_eq!(relations(&[voice, bursts(40.0, 12)])[1].late_s, None);
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

    /// A float file may hold what is no number.
    #[test]
    fn what_is_no_number_is_left_out_of_a_blocks_limits(samples in prop::collection::vec(-1.0_f32..1.0, 2..600), hole in 0_usize..600) {
        let mut samples = samples;
        let at = hole % samples.len();
        samples[at] = f32::NAN;
        let stats = BlockStats::of(&samples);
        let numbers = || samples.iter().copied().filter(|value| !value.is_nan());
        prop_assert_eq!(stats.low, numbers().fold(f32::MAX, f32::min));
        prop_assert_eq!(stats.high, numbers().fold(f32::MIN, f32::max));
    }
}

proptest! {
    #[test]
    fn bands_are_the_same_in_pieces_of_any_size(count in 0_usize..9_000, piece in 1_usize..3_000, seed in 0_u64..9) {
        let sound = bursts(0.6, seed);
        let sound = &sound[..count];
        let bands = |size: usize| {
            let mut reader = BandReader::new();
            sound.chunks(size).for_each(|part| reader.push(part));
            reader.finish()
        };
        let whole = bands(9_000);
        prop_assert_eq!(whole.frames(), count / 160 + 1);
        prop_assert_eq!(bands(piece), whole);
    }
}

/// The level of a band of the window around a sample, by the sum that defines the transform.
fn band_by_definition(sound: &[f32], middle: usize, bins: std::ops::Range<usize>) -> f64 {
    const WINDOW: usize = 512;
    let tau = std::f64::consts::TAU;
    let value = |i: usize| {
        let shape = 0.5 - 0.5 * (tau * (i as f64 + 0.5) / WINDOW as f64).cos();
        let at = (middle + i).checked_sub(WINDOW / 2).and_then(|at| sound.get(at));
        f64::from(at.copied().unwrap_or(0.0)) * shape
    };
    let power = |k: usize| {
        let (re, im) = (0..WINDOW).fold((0.0, 0.0), |(re, im), i| {
            let turn = tau * (k * i) as f64 / WINDOW as f64;
            (re + value(i) * turn.cos(), im - value(i) * turn.sin())
        });
        re * re + im * im
    };
    let count = bins.len() as f64;
    10.0 * (bins.map(power).sum::<f64>() / count / (WINDOW * WINDOW) as f64 + 1e-12).log10()
}

#[test]
fn bands_are_what_their_definition_says_beside_loud_and_silent_frames() {
    // Silence, a shout, silence: two frames share a transform, and the quiet one must not hear the loud one.
    let mut sound = vec![0.0; 3_200];
    sound.extend(bursts(0.2, 4).iter().map(|v| 2.0 * v));
    sound.extend(vec![0.0; 3_200]);
    let mut reader = BandReader::new();
    reader.push(&sound);
    let bands = reader.finish();
    // Where the first, a middle and the last band begin and end: 120 Hz to 7 kHz evenly in pitch.
    let edge =
        |i: usize| (120.0 * (7_000.0_f64 / 120.0).powf(i as f64 / 16.0) * 512.0 / 16_000.0).round() as usize;
    for band in [7, 11, 15] {
        for frame in 0..bands.frames() {
            let due = band_by_definition(&sound, frame * 160, edge(band)..edge(band + 1));
            let steps = ((due + 120.0) * 2.0).clamp(0.0, 255.0);
            let own = f64::from(bands.0[frame * 16 + band]);
            assert!((own - steps).abs() <= 1.0, "band {band} of frame {frame}: {own} for {steps}");
        }
    }
}
