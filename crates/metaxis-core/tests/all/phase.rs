//! The fine search: sub-sample, either sign, through noise and a room.

use metaxis_core::signal::{BandReader, CoarseMatch, Correlator, LISTEN_RATE, Pattern, PhaseMatcher};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

const WINDOW: usize = 16_384;
const RANGE: usize = 4_000;

fn noise(length: usize, seed: u64) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    // Two poles: as dull as a voice.
    let (mut a, mut b) = (0.0_f32, 0.0_f32);
    (0..length)
        .map(|_| {
            a += 0.5 * ((rng.random::<f32>() - 0.5) - a);
            b += 0.5 * (a - b);
            b
        })
        .collect()
}

/// `sound` from sample `from` on, at a fraction of a sample, by a long windowed sinc.
fn at(sound: &[f32], from: f64, length: usize) -> Vec<f32> {
    let base = from.floor();
    let fraction = from - base;
    let taps: Vec<f64> = (-40..=40)
        .map(|i| {
            let x = std::f64::consts::PI * (f64::from(i) - fraction);
            let sinc = if x.abs() < 1e-9 { 1.0 } else { x.sin() / x };
            sinc * (x / 82.0).cos().powi(2)
        })
        .collect();
    (0..length)
        .map(|i| {
            let middle = base as usize + i;
            taps.iter().enumerate().map(|(k, tap)| tap * f64::from(sound[middle + k - 40])).sum::<f64>()
                as f32
        })
        .collect()
}

/// Offset in samples, height, and height over the next peak a millisecond away.
fn best(matcher: &mut PhaseMatcher, clip: &[f32], reference: &[f32]) -> Option<(f64, f32, f32)> {
    matcher.correlate(clip, reference)?;
    let peaks = matcher.peaks(2, 0.0, 16);
    let (first, second) = (peaks.first()?, peaks.get(1)?);
    Some((matcher.refined(*first), first.height, first.height.abs() / second.height.abs()))
}

#[test]
fn offsets_are_found_to_a_fiftieth_of_a_sample() {
    let sound = noise(60_000, 1);
    let mut matcher = PhaseMatcher::new(WINDOW, RANGE);
    let reference = at(&sound, 10_000.0, WINDOW + 2 * RANGE);
    for shift in [0.0, 0.25, -0.5, 17.31, -1234.77, 3999.4] {
        let clip = at(&sound, 10_000.0 + RANGE as f64 + shift, WINDOW);
        let (offset, height, clearness) = best(&mut matcher, &clip, &reference).expect("a match");
        assert!((offset - shift).abs() < 0.02, "{shift}: {offset}");
        assert!(height > 20.0 && clearness > 2.0, "{height} {clearness}");
    }
}

#[test]
fn inverted_quiet_and_noisy_sound_is_found_and_strange_sound_is_weak() {
    let sound = noise(60_000, 2);
    let mut matcher = PhaseMatcher::new(WINDOW, RANGE);
    let reference = at(&sound, 10_000.0, WINDOW + 2 * RANGE);
    let clip = at(&sound, 14_100.5, WINDOW);
    let hiss = noise(WINDOW, 3);
    // −40 dB, wired the wrong way round, and as much noise as signal on top.
    let far: Vec<f32> = clip.iter().zip(&hiss).map(|(s, n)| -0.01 * (s + n)).collect();
    let (offset, height, _) = best(&mut matcher, &far, &reference).expect("a match");
    assert!((offset - 100.5).abs() < 0.1 && height < 0.0, "inverted: {offset} {height}");
    let (_, strange, _) = best(&mut matcher, &hiss, &reference).expect("something always fits best");
    assert!(strange.abs() < 6.0 && height.abs() > 2.0 * strange.abs(), "{strange} {height}");
}

#[test]
fn silence_and_wrong_lengths_give_nothing() {
    let mut matcher = PhaseMatcher::new(WINDOW, RANGE);
    assert_eq!(matcher.correlate(&vec![0.0; WINDOW], &vec![0.0; WINDOW + 2 * RANGE]), None);
    assert_eq!(matcher.correlate(&[1.0; 8], &[1.0; 8]), None);
}

fn pattern(sound: &[f32]) -> Pattern {
    let mut reader = BandReader::new();
    // Fed in uneven pieces: a stream has no fixed block size.
    for piece in sound.chunks(777) {
        reader.push(piece);
    }
    Pattern::new(&reader.finish())
}

fn search(reference: &Pattern, clip: &Pattern) -> Vec<CoarseMatch> {
    let mut correlator = Correlator::default();
    let (searched, sought) = (correlator.searched(reference), correlator.sought(clip));
    correlator.search(&searched, &sought, 75, 8, 3)
}

/// Noise whose loudness jumps about: something for the bands to hold on to.
fn bursts(seconds: usize, seed: u64) -> Vec<f32> {
    let mut rng = ChaCha8Rng::seed_from_u64(seed);
    let mut level = 0.0;
    noise(seconds * LISTEN_RATE as usize, seed + 100)
        .into_iter()
        .enumerate()
        .map(|(i, sample)| {
            if i % 1500 == 0 {
                level = rng.random::<f32>().powi(3);
            }
            sample * level
        })
        .collect()
}

#[test]
fn the_coarse_search_finds_the_lag_also_beyond_the_ends() {
    let sound = bursts(60, 5);
    let reference = pattern(&sound[20 * 16_000..50 * 16_000]);
    for (from_s, to_s, lag) in [(25, 35, 125), (15, 26, -125), (45, 58, 625)] {
        let found = search(&reference, &pattern(&sound[from_s * 16_000..to_s * 16_000]));
        assert!((found[0].lag_frames - lag).abs() <= 1, "{found:?}");
        let next = found.get(1).map_or(0.0, |next| next.score);
        assert!(found[0].score > 1.5 * next, "nothing else comes near: {found:?}");
    }
}

#[test]
fn the_coarse_search_crosses_the_blocks_it_is_cut_into() {
    // Two and a half blocks against one and a half; and either way round.
    let sound = bursts(110, 8);
    let (long, part) = (pattern(&sound), pattern(&sound[30 * 16_000..92 * 16_000]));
    assert!((search(&long, &part)[0].lag_frames - 750).abs() <= 1);
    assert!((search(&part, &long)[0].lag_frames + 750).abs() <= 1);
}

#[test]
fn the_coarse_search_has_no_opinion_on_silence() {
    let reference = pattern(&bursts(10, 6));
    assert!(search(&reference, &pattern(&[0.0; 80_000])).is_empty());
    assert!(search(&reference, &Pattern::default()).is_empty());
}

#[test]
fn bands_stand_where_the_sound_stands() {
    let mut sound = vec![0.0_f32; 16_000];
    for (i, sample) in noise(160, 9).into_iter().enumerate() {
        sound[8_000 + i] = sample;
    }
    let mut reader = BandReader::new();
    reader.push(&sound);
    let bands = reader.finish();
    let loudest = (0..bands.frames())
        .max_by_key(|f| bands.0[f * 16..(f + 1) * 16].iter().map(|b| u32::from(*b)).sum::<u32>());
    // The burst's middle is at 0.505 s, frames are centred on hundredths.
    assert!(loudest.is_some_and(|frame| (50..=51).contains(&frame)), "{loudest:?}");
}
