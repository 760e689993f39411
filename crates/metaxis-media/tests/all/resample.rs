//! The resampler against sines, against a well-known one, and in pieces of any size.

use metaxis_core::signal::LISTEN_RATE;
use metaxis_media::ToListenRate;
use proptest::prelude::*;
use rubato::{
    Fft, FixedSync, Indexing, Resampler, WindowFunction, audioadapter_buffers::direct::SequentialSlice,
};
use std::f64::consts::TAU;

fn resampled(samples: &[f32], rate: u32, piece: usize) -> Vec<f32> {
    let (mut resampler, mut out) = (ToListenRate::new(rate), vec![]);
    samples.chunks(piece).for_each(|part| resampler.push(part, &mut out));
    resampler.finish(&mut out);
    out
}

fn sine(hz: f64, rate: u32, count: usize) -> Vec<f32> {
    (0..count).map(|i| (TAU * hz * i as f64 / f64::from(rate)).sin() as f32).collect()
}

/// Something with all frequencies in it.
fn rustle(count: usize) -> Vec<f32> {
    let mut state = 0x2545_f491_u32;
    (0..count)
        .map(|_| {
            state ^= state << 13;
            state ^= state >> 17;
            state ^= state << 5;
            state as f32 / u32::MAX as f32 - 0.5
        })
        .collect()
}

#[test]
fn a_sine_comes_out_where_it_was_at_every_rate() {
    for rate in
        [8_000, 11_025, 16_000, 22_050, 32_000, 44_100, 47_952, 48_000, 48_048, 88_200, 96_000, 192_000]
    {
        for hz in [50.0, 1_000.0, 3_600.0, 7_000.0_f64].into_iter().filter(|hz| *hz < 0.45 * f64::from(rate))
        {
            let out = resampled(&sine(hz, rate, rate as usize), rate, 4_097);
            assert_eq!(out.len(), LISTEN_RATE as usize, "{rate} Hz: a second stays one");
            let due = sine(hz, LISTEN_RATE, out.len());
            // Both ends are cut off and ring.
            let inside = 3_000..out.len() - 3_000;
            let off =
                out[inside.clone()].iter().zip(&due[inside]).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
            assert!(off < 2e-5, "{hz} Hz at {rate}: off by {off}");
        }
    }
}

#[test]
fn what_the_rate_cannot_hold_is_taken_out() {
    for (hz, rate) in [(8_400.0, 48_000), (15_000.0, 48_000), (8_400.0, 44_100), (30_000.0, 96_000)] {
        let out = resampled(&sine(hz, rate, rate as usize), rate, 9_999);
        let loudest = out[3_000..out.len() - 3_000].iter().map(|v| v.abs()).fold(0.0, f32::max);
        assert!(loudest < 3e-5, "{hz} Hz at {rate}: {loudest}");
    }
}

#[test]
fn it_says_what_a_well_known_one_does() {
    for (rate, chunk) in [(48_000_u32, 1_536_usize), (44_100, 1_764), (8_000, 512)] {
        let samples = rustle(rate as usize);
        let own = resampled(&samples, rate, samples.len());
        let mut other = Fft::<f32>::new_custom(
            rate as usize,
            LISTEN_RATE as usize,
            chunk,
            1,
            1,
            WindowFunction::BlackmanHarris2,
            FixedSync::Input,
        )
        .expect("rates that it knows");
        let mut theirs: Vec<f32> = vec![];
        for part in samples.chunks_exact(other.input_frames_next()) {
            let mut buffer = vec![0.0; other.output_frames_next()];
            let frames = buffer.len();
            let input = SequentialSlice::new(part, 1, part.len()).expect("a whole block");
            let mut output = SequentialSlice::new_mut(&mut buffer, 1, frames).expect("a whole block");
            other
                .process_into_buffer(&input, &mut output, Some(&Indexing::default()))
                .expect("a whole block");
            theirs.extend(buffer);
        }
        let delay = other.output_delay();
        let off = own.iter().zip(&theirs[delay..]).map(|(a, b)| (a - b).abs()).fold(0.0, f32::max);
        assert!(off < 1e-5, "{rate} Hz: off by {off}");
    }
}

proptest! {
    #[test]
    fn pieces_of_any_size_make_the_same(count in 0_usize..20_000, piece in 1_usize..9_000, rate in prop::sample::select(vec![16_000_u32, 44_100, 48_000])) {
        let samples = rustle(count);
        let whole = resampled(&samples, rate, count.max(1));
        prop_assert_eq!(whole.len(), (count as f64 * f64::from(LISTEN_RATE) / f64::from(rate)).ceil() as usize);
        prop_assert_eq!(resampled(&samples, rate, piece), whole);
    }
}
