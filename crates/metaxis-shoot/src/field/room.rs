//! A shoebox room by image sources (Allen and Berkley 1979) with a diffuse tail.

use super::rng;
use crate::sound::SPEED_OF_SOUND;
use rand::Rng;
use rand_chacha::ChaCha8Rng;
use realfft::RealFftPlanner;

/// A room with a source in it.
#[derive(Debug, Clone)]
pub struct Room {
    size_m: [f64; 3],
    /// Where the source stands, as shares of the free room.
    place: [f64; 3],
    reverberation_s: f64,
    seed: u64,
}

/// Image sources are reckoned up to this time after the direct sound; the diffuse tail takes over.
const EARLY_S: f64 = 0.06;

impl Room {
    /// A room with this reverberation time (−60 dB); its walls and the place of the source come from `seed`.
    pub fn new(reverberation_s: f64, seed: u64) -> Self {
        let mut own = rng(seed, 31);
        let scale = (0.6 + reverberation_s).clamp(0.7, 2.2);
        let size_m = [
            scale * (5.0 + 4.0 * own.random::<f64>()),
            scale * (4.0 + 3.0 * own.random::<f64>()),
            scale * (2.6 + own.random::<f64>()),
        ];
        let place = [own.random(), own.random(), own.random()];
        Self { size_m, place, reverberation_s, seed }
    }

    /// Impulse response at a microphone `distance_m` from the source in a direction of its own. The direct
    /// sound is at zero (its delay is the caller's), with unit gain at one metre.
    pub fn response(&self, distance_m: f64, rate: u32, microphone: u64) -> Vec<f32> {
        let mut own = rng(self.seed ^ microphone.rotate_left(17), 32);
        let rate_hz = f64::from(rate);
        let turn = std::f64::consts::TAU * own.random::<f64>();
        let rise = 0.3 * (own.random::<f64>() - 0.5);
        let at = [turn.cos() * rise.cos(), turn.sin() * rise.cos(), rise.sin()];
        // A room that holds both: it grows where the microphone is farther than it is long.
        let (mut size, mut source, mut place) = (self.size_m, [0.0; 3], [0.0; 3]);
        for axis in 0..3 {
            let way: f64 = at[axis] * distance_m;
            size[axis] = size[axis].max(way.abs() + 2.2);
            let free = size[axis] - 2.0 - way.abs();
            let low = 1.0 + free * self.place[axis];
            source[axis] = if way >= 0.0 { low } else { low - way };
            place[axis] = source[axis] + way;
        }
        let volume: f64 = size.iter().product();
        let surface = 2.0 * (size[0] * size[1] + size[1] * size[2] + size[0] * size[2]);
        // Eyring 1930.
        let absorbed = 1.0 - (-0.161 * volume / (surface * self.reverberation_s.max(0.05))).exp();
        let reflected = (1.0 - absorbed).max(0.0).sqrt();
        let length = ((self.reverberation_s.max(0.05) * 1.1) * rate_hz) as usize + 64;
        let mut response = vec![0.0_f32; length];
        let direct_s = distance_m / SPEED_OF_SOUND;
        self.images(&mut response, size, source, place, reflected, direct_s, rate_hz);
        self.tail(&mut response, rate_hz, &mut own);
        response[0] += (1.0 / distance_m.max(0.3)) as f32;
        response
    }

    #[allow(clippy::too_many_arguments)]
    fn images(
        &self,
        response: &mut [f32],
        size: [f64; 3],
        source: [f64; 3],
        place: [f64; 3],
        reflected: f64,
        direct_s: f64,
        rate_hz: f64,
    ) {
        let reach = |side: f64| ((EARLY_S + direct_s) * SPEED_OF_SOUND / (2.0 * side)).ceil() as i32 + 1;
        let along = |axis: usize, n: i32, mirrored: bool| {
            let own = if mirrored { -source[axis] } else { source[axis] };
            (own + 2.0 * f64::from(n) * size[axis] - place[axis], (2 * n - i32::from(mirrored)).abs())
        };
        for nx in -reach(size[0])..=reach(size[0]) {
            for ny in -reach(size[1])..=reach(size[1]) {
                for nz in -reach(size[2])..=reach(size[2]) {
                    for mirror in 0..8 {
                        let (x, bx) = along(0, nx, mirror & 1 > 0);
                        let (y, by) = along(1, ny, mirror & 2 > 0);
                        let (z, bz) = along(2, nz, mirror & 4 > 0);
                        let bounces = bx + by + bz;
                        let way = (x * x + y * y + z * z).sqrt();
                        let after_s = way / SPEED_OF_SOUND - direct_s;
                        if bounces == 0 || !(0.0..EARLY_S).contains(&after_s) {
                            continue;
                        }
                        let gain = (reflected.powi(bounces) / way.max(0.3)) as f32;
                        let position = after_s * rate_hz;
                        let (index, share) = (position as usize, position.fract() as f32);
                        if index + 1 < response.len() {
                            response[index] += gain * (1.0 - share);
                            response[index + 1] += gain * share;
                        }
                    }
                }
            }
        }
    }

    /// Noise that dies as the room does, as loud as the last images where it takes over, and darker with time.
    fn tail(&self, response: &mut [f32], rate_hz: f64, own: &mut ChaCha8Rng) {
        let from = (EARLY_S * rate_hz) as usize;
        let last = ((EARLY_S - 0.02) * rate_hz) as usize;
        if from >= response.len() {
            return;
        }
        let power = response[last..from].iter().map(|v| v * v).sum::<f32>() / (from - last) as f32;
        let (mut low, level) = (0.0_f32, (3.0 * power).sqrt() * 1.6);
        for (i, value) in response.iter_mut().enumerate().skip(from) {
            let passed_s = i as f64 / rate_hz - EARLY_S;
            let decay = 10_f64.powf(-3.0 * passed_s / self.reverberation_s.max(0.05)) as f32;
            low += 0.55 * (super::noise(own) - low);
            *value += level * decay * low;
        }
    }
}

/// Overlap-add convolution; as long as `signal`.
pub fn convolve(signal: &[f32], response: &[f32]) -> Vec<f32> {
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
