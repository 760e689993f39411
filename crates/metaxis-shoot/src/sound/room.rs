//! A room between the action and a microphone: direct sound, early reflections, a decaying tail.

use super::WORLD_RATE;
use rand::Rng;
use rand_chacha::ChaCha8Rng;
use realfft::RealFftPlanner;

/// The dry world as it sounds at `distance_m`; the direct sound is not delayed here. Direct sound falls
/// with distance, the tail does not: far microphones hear mostly room.
pub fn in_room(dry: &[f32], reverberation_s: f64, distance_m: f64, rng: &mut ChaCha8Rng) -> Vec<f32> {
    let direct = (1.0 / distance_m.max(0.3)).min(1.5) as f32;
    let rate = f64::from(WORLD_RATE);
    let length = ((reverberation_s * rate) as usize).clamp(64, WORLD_RATE as usize * 3);
    let mut response = vec![0.0_f32; length];
    response[0] = direct;
    for _ in 0..8 {
        let at = ((0.003 + 0.035 * rng.random::<f64>()) * rate) as usize;
        if at < length {
            response[at] += 0.10 * (rng.random::<f32>() - 0.5);
        }
    }
    let (mut smooth, from) = (0.0_f32, (0.012 * rate) as usize);
    for (i, value) in response.iter_mut().enumerate().skip(from) {
        let decay = 10_f64.powf(-3.0 * i as f64 / (reverberation_s * rate)) as f32;
        // Walls swallow the treble: the tail is darker than the source.
        smooth += 0.35 * ((rng.random::<f32>() - 0.5) - smooth);
        *value += 0.030 * decay * smooth;
    }
    convolve(dry, &response)
}

/// Overlap-add convolution; as long as `signal`.
pub(crate) fn convolve(signal: &[f32], response: &[f32]) -> Vec<f32> {
    let block = response.len().next_power_of_two().max(16_384);
    let size = block * 2;
    let mut planner = RealFftPlanner::<f32>::new();
    let (forward, inverse) = (planner.plan_fft_forward(size), planner.plan_fft_inverse(size));
    let mut input = forward.make_input_vec();
    let mut filter = forward.make_output_vec();
    input[..response.len()].copy_from_slice(response);
    let _ = forward.process(&mut input, &mut filter);
    let mut spectrum = forward.make_output_vec();
    let mut output = inverse.make_output_vec();
    let mut result = vec![0.0; signal.len()];
    for (i, chunk) in signal.chunks(block).enumerate() {
        input.fill(0.0);
        input[..chunk.len()].copy_from_slice(chunk);
        let _ = forward.process(&mut input, &mut spectrum);
        for (value, gain) in spectrum.iter_mut().zip(&filter) {
            *value *= gain / size as f32;
        }
        spectrum[0].im = 0.0;
        spectrum[size / 2].im = 0.0;
        let _ = inverse.process(&mut spectrum, &mut output);
        for (out, value) in result[i * block..].iter_mut().zip(&output) {
            *out += value;
        }
    }
    result
}
