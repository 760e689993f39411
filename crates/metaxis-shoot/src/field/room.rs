//! A shoebox room by image sources (Allen and Berkley 1979) with a diffuse tail. Its walls swallow more of the treble.

use super::rng;
use crate::sound::SPEED_OF_SOUND;
use rand::Rng;
use rand_chacha::ChaCha8Rng;

/// A room with a source in it.
#[derive(Debug, Clone, PartialEq)]
pub struct Room {
    size_m: [f64; 3],
    /// Where the source stands, as shares of the free room.
    place: [f64; 3],
    reverberation_s: f64,
    seed: u64,
}

/// How a microphone hears what comes from the sides and from behind. It points at the source.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Pickup {
    /// Half as loud from the side, not at all from behind: what sits on cameras and booms.
    #[default]
    Cardioid,
    /// From everywhere alike: recorders' and telephones' own microphones.
    Omni,
}

impl Pickup {
    /// Gain for sound that comes in at an angle of this cosine to the source's direction.
    fn gain(self, cosine: f64) -> f64 {
        match self {
            Self::Cardioid => 0.5 * (1.0 + cosine),
            Self::Omni => 1.0,
        }
    }
}

/// Reverberation time of the treble over that of the rest, and where the one passes into the other, hertz.
const TREBLE: (f64, f64) = (0.6, 1800.0);

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
    pub fn response(&self, distance_m: f64, rate: u32, microphone: u64, pickup: Pickup) -> Vec<f32> {
        let mut own = rng(self.seed ^ microphone.rotate_left(17), 32);
        let path = self.path(distance_m, &mut own);
        let dice: u64 = own.random();
        let part = |share: f64| {
            let seconds = share * self.reverberation_s;
            let mut response = vec![0.0; (1.1 * self.reverberation_s * f64::from(rate)) as usize + 64];
            path.images(&mut response, path.reflected(seconds), pickup, f64::from(rate));
            tail(&mut response, f64::from(rate), seconds, &mut rng(dice, 33));
            response[0] += (1.0 / distance_m.max(0.3)) as f32;
            response
        };
        let (whole, treble) = (part(1.0), part(TREBLE.0));
        // The treble's response with what is below the crossover taken from the other's.
        let share = 1.0 - (-std::f64::consts::TAU * TREBLE.1 / f64::from(rate)).exp() as f32;
        let mut low = 0.0;
        let below = |(whole, treble): (&f32, &f32)| {
            low += share * (whole - treble - low);
            treble + low
        };
        whole.iter().zip(&treble).map(below).collect()
    }

    /// Where source and microphone stand; the room grows where they are farther apart than it is long.
    fn path(&self, distance_m: f64, own: &mut ChaCha8Rng) -> Path {
        let turn = std::f64::consts::TAU * own.random::<f64>();
        let rise = 0.3 * (own.random::<f64>() - 0.5);
        let at = [turn.cos() * rise.cos(), turn.sin() * rise.cos(), rise.sin()];
        let mut path = Path { size: self.size_m, source: [0.0; 3], place: [0.0; 3], distance_m };
        for (axis, share) in at.into_iter().enumerate() {
            let way: f64 = share * distance_m;
            path.size[axis] = path.size[axis].max(way.abs() + 2.2);
            let free = path.size[axis] - 2.0 - way.abs();
            let low = 1.0 + free * self.place[axis];
            path.source[axis] = if way >= 0.0 { low } else { low - way };
            path.place[axis] = path.source[axis] + way;
        }
        path
    }
}

/// Source and microphone in a room, metres.
struct Path {
    size: [f64; 3],
    source: [f64; 3],
    place: [f64; 3],
    distance_m: f64,
}

impl Path {
    /// Amplitude that a wall gives back where the room is to echo `seconds`, by Eyring 1930.
    fn reflected(&self, seconds: f64) -> f64 {
        let [x, y, z] = self.size;
        let absorbed = 1.0 - (-0.161 * x * y * z / (2.0 * (x * y + y * z + x * z) * seconds.max(0.05))).exp();
        (1.0 - absorbed).max(0.0).sqrt()
    }

    fn images(&self, response: &mut [f32], reflected: f64, pickup: Pickup, rate_hz: f64) {
        let direct_s = self.distance_m / SPEED_OF_SOUND;
        let reach = |side: f64| ((EARLY_S + direct_s) * SPEED_OF_SOUND / (2.0 * side)).ceil() as i32 + 1;
        let along = |axis: usize, n: i32, mirrored: bool| {
            let own = if mirrored { -self.source[axis] } else { self.source[axis] };
            let way = own + 2.0 * f64::from(n) * self.size[axis] - self.place[axis];
            (way, (2 * n - i32::from(mirrored)).abs())
        };
        let towards =
            [0, 1, 2].map(|axis| (self.source[axis] - self.place[axis]) / self.distance_m.max(1e-6));
        for nx in -reach(self.size[0])..=reach(self.size[0]) {
            for ny in -reach(self.size[1])..=reach(self.size[1]) {
                for nz in -reach(self.size[2])..=reach(self.size[2]) {
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
                        let cosine = (x * towards[0] + y * towards[1] + z * towards[2]) / way.max(1e-6);
                        let gain = (pickup.gain(cosine) * reflected.powi(bounces) / way.max(0.3)) as f32;
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
}

/// Noise that dies as the room does, as loud as the last images where it takes over, and darker with time.
fn tail(response: &mut [f32], rate_hz: f64, seconds: f64, own: &mut ChaCha8Rng) {
    let from = (EARLY_S * rate_hz) as usize;
    let last = ((EARLY_S - 0.02) * rate_hz) as usize;
    if from >= response.len() {
        return;
    }
    let power = response[last..from].iter().map(|v| v * v).sum::<f32>() / (from - last) as f32;
    let (mut low, level) = (0.0_f32, (3.0 * power).sqrt() * 1.6);
    for (i, value) in response.iter_mut().enumerate().skip(from) {
        let passed_s = i as f64 / rate_hz - EARLY_S;
        let decay = 10_f64.powf(-3.0 * passed_s / seconds.max(0.05)) as f32;
        low += 0.55 * (super::noise(own) - low);
        *value += level * decay * low;
    }
}
