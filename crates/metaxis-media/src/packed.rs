//! Samples between buffers of their own and the interleaved bytes of a file. A tile at a time, which stays in the processor's
//! nearest memory while each track is gone through by itself: several times as fast as one long pass a track.

use metaxis_core::sound::Depth;

/// Samples a track that are moved at once.
const TILE: usize = 256;

/// Steps of a 24-bit sample from zero to full scale.
const STEPS: f64 = 8_388_608.0;

/// Added to a float of 64 bits, this leaves its whole number, halves rounded to even, in the low bits: 1.5 · 2^52. Several
/// times as fast as rounding where the processor has to be asked whether it can.
const ROUNDS: f64 = 6_755_399_441_055_744.0;

/// What is louder may not fit into 24 bits; far fewer samples than those that need no care.
const LOUD: f32 = 0.999_999;

/// Fills `bytes` with the first `count` samples of `tracks`, interleaved, little-endian. `peaks`, one a track, grow to the largest
/// absolute sample. Returns how many samples were too loud for the depth and are cut off.
pub(crate) fn pack<T: AsRef<[f32]>>(
    depth: Depth,
    tracks: &[T],
    count: usize,
    bytes: &mut Vec<u8>,
    peaks: &mut [f32],
) -> u64 {
    let width = depth.bits() as usize / 8;
    let frame = width * tracks.len();
    // Four bytes are written at a time: one more than the last sample has.
    bytes.resize(count * frame + 1, 0);
    let mut clipped = 0;
    let mut words = vec![[0_u32; TILE]; tracks.len()];
    for first in (0..count).step_by(TILE) {
        let length = TILE.min(count - first);
        for ((track, peak), words) in tracks.iter().zip(&mut *peaks).zip(&mut words) {
            let samples = &track.as_ref()[first..first + length];
            let loudest = loudest(samples);
            *peak = peak.max(loudest);
            match depth {
                Depth::Float32 => {
                    words.iter_mut().zip(samples).for_each(|(word, value)| *word = value.to_bits());
                }
                Depth::Pcm24 if loudest < LOUD => {
                    for (word, value) in words.iter_mut().zip(samples) {
                        *word = (f64::from(*value) * STEPS + ROUNDS).to_bits() as u32;
                    }
                }
                Depth::Pcm24 => {
                    for (word, value) in words.iter_mut().zip(samples) {
                        let (own, is_cut) = cut(*value);
                        *word = own;
                        clipped += u64::from(is_cut);
                    }
                }
            }
        }
        // Frame by frame, each word over the byte that the one before has too many.
        let mut at = first * frame;
        for number in 0..length {
            for words in &words {
                if let Some(place) = bytes.get_mut(at..at + 4) {
                    place.copy_from_slice(&words[number].to_le_bytes());
                } else if let Some(place) = bytes.get_mut(at..at + width) {
                    place.copy_from_slice(&words[number].to_le_bytes()[..width]);
                }
                at += width;
            }
        }
    }
    bytes.truncate(count * frame);
    clipped
}

/// A sample in steps of 24 bits, and whether it was too loud for them.
fn cut(value: f32) -> (u32, bool) {
    let steps = f64::from(value) * STEPS;
    let whole = (steps.clamp(-STEPS, STEPS - 1.0) + ROUNDS).to_bits() as u32;
    (whole, !(-STEPS - 0.5..STEPS - 0.5).contains(&steps))
}

/// The largest absolute sample, in eight parts that are compared at the end.
fn loudest(samples: &[f32]) -> f32 {
    let louder = |most: f32, value: f32| if value.abs() > most { value.abs() } else { most };
    let (eights, rest) = samples.as_chunks::<8>();
    let mut most = [0.0_f32; 8];
    for eight in eights {
        for (most, value) in most.iter_mut().zip(eight) {
            *most = louder(*most, *value);
        }
    }
    most.iter().chain(rest).fold(0.0, |most, value| louder(most, *value))
}

/// Takes interleaved samples of `WIDTH` bytes of so many channels apart: one buffer a channel, from its sample `from` on.
/// `convert` is given the bytes of a sample as the high ones of a word of 32 bits.
pub(crate) fn unpack<const WIDTH: usize>(
    bytes: &[u8],
    channels: usize,
    out: &mut [Vec<f32>],
    from: usize,
    convert: impl Fn(u32) -> f32,
) {
    let frame = WIDTH * channels;
    let mut words = [0_u32; TILE];
    for (number, tile) in bytes.chunks(TILE * frame).enumerate() {
        let (first, count) = (from + number * TILE, tile.len() / frame);
        for (channel, out) in out.iter_mut().enumerate().take(channels) {
            let own = &tile[WIDTH * channel..];
            let wide = own.chunks_exact(frame);
            let last = wide.remainder();
            let done = wide.len();
            for (word, place) in words.iter_mut().zip(wide) {
                *word = word_of::<WIDTH>(place);
            }
            if let Some(word) = words.get_mut(done).filter(|_| last.len() >= WIDTH) {
                *word = word_of::<WIDTH>(last);
            }
            let out = &mut out[first..first + count];
            out.iter_mut().zip(&words).for_each(|(out, word)| *out = convert(*word));
        }
    }
}

/// The first `WIDTH` bytes as the high ones of a word. Four at a time where there are as many: in one step.
#[inline]
fn word_of<const WIDTH: usize>(place: &[u8]) -> u32 {
    let word = match place.first_chunk::<4>() {
        Some(four) => u32::from_le_bytes(*four),
        None => place.iter().take(WIDTH).rev().fold(0, |word, byte| word << 8 | u32::from(*byte)),
    };
    word << (32 - 8 * WIDTH)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn packed(value: f32) -> (i32, u64) {
        let (mut bytes, mut peaks) = (vec![], [0.0]);
        let clipped = pack(Depth::Pcm24, &[[value]], 1, &mut bytes, &mut peaks);
        assert_eq!(peaks[0], value.abs());
        (i32::from_le_bytes([0, bytes[0], bytes[1], bytes[2]]) >> 8, clipped)
    }

    #[test]
    fn samples_are_rounded_and_what_is_too_loud_is_cut_off() {
        let step = 1.0 / 8_388_608.0;
        for (steps, expected) in [(0.0, 0), (0.5, 0), (1.5, 2), (-0.5, 0), (-1.5, -2), (2.4, 2), (-7.6, -8)] {
            assert_eq!(packed(steps * step), (expected, 0), "{steps}");
        }
        assert_eq!((packed(1.0), packed(-1.0)), ((8_388_607, 1), (-8_388_608, 0)));
        assert_eq!((packed(7.3), packed(-7.3)), ((8_388_607, 1), (-8_388_608, 1)));
        // Every sample of 24 bits that was read is written as it was.
        for sample in (-8_388_608..8_388_608).step_by(997).chain([8_388_607]) {
            assert_eq!(packed(sample as f32 * step), (sample, 0));
        }
    }

    #[test]
    fn what_is_packed_is_unpacked_whatever_the_number_of_tracks_and_samples() {
        let value =
            |track: usize, at: usize| ((track * 7919 + at * 104_729) % 65_536) as f32 / 32_768.0 - 1.0;
        for tracks in [1, 2, 3, 8, 17] {
            for count in [0, 1, 7, TILE - 1, TILE, TILE + 1, 3 * TILE + 5] {
                let own: Vec<Vec<f32>> =
                    (0..tracks).map(|track| (0..count + 3).map(|at| value(track, at)).collect()).collect();
                for depth in [Depth::Pcm24, Depth::Float32] {
                    let (mut bytes, mut peaks) = (vec![9; 50], vec![0.0; tracks]);
                    assert_eq!(pack(depth, &own, count, &mut bytes, &mut peaks), 0);
                    let mut back = vec![vec![5.0; count + 2]; tracks];
                    match depth {
                        Depth::Pcm24 => unpack::<3>(&bytes, tracks, &mut back, 1, |word| {
                            word.cast_signed() as f32 / 2_147_483_648.0
                        }),
                        Depth::Float32 => unpack::<4>(&bytes, tracks, &mut back, 1, f32::from_bits),
                    }
                    for ((own, back), peak) in own.iter().zip(&back).zip(&peaks) {
                        assert_eq!((&back[1..=count], back[0], back[count + 1]), (&own[..count], 5.0, 5.0));
                        let most = own[..count].iter().fold(0.0, |most: f32, value| most.max(value.abs()));
                        assert_eq!(*peak, most);
                    }
                }
            }
        }
    }
}
