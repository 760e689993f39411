//! The pattern of a sound: how its bands rise and fall, made comparable between devices.

use super::{BAND_RATE, BANDS, Bands};

/// Pattern frames a second.
pub const PATTERN_RATE: u32 = BAND_RATE / 4;

/// Quantisation: this many steps are one standard deviation.
pub(super) const STEP: f32 = 42.0;
/// Band frames averaged before and after each pattern frame: 70 ms, as fast as rooms and voices go.
const FAST: usize = 3;
/// Band frames averaged for the level it is compared with: 610 ms.
const SLOW: usize = 30;
/// Variance of the change in each band, half decibels squared, where there is nothing but steady noise: that of the
/// estimate itself, measured on white noise.
const OF_NOISE: [f32; BANDS] =
    [19.5, 20.6, 11.9, 8.5, 8.2, 6.8, 5.7, 4.6, 2.9, 2.57, 1.92, 1.52, 1.11, 0.9, 0.67, 0.53];
/// The least weight a band with any change keeps.
const LEAST_SHARE: f32 = 0.03;

/// Rise and fall of the band levels: the mean of 70 ms less that of 610 ms about it, each band at unit variance times
/// the share of it that steady noise does not explain, in steps of 1/42 sigma, clipped at three sigma so that one
/// crash does not outweigh a conversation. Frame `i` lies at `i / PATTERN_RATE` seconds.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Pattern {
    frames: Vec<[i8; BANDS]>,
}

impl Pattern {
    /// The pattern of `bands`.
    pub fn new(bands: &Bands) -> Self {
        let step = (BAND_RATE / PATTERN_RATE) as usize;
        let frames = bands.frames();
        let mut sums = vec![[0_u32; BANDS]; frames + 1];
        for (frame, levels) in bands.0.chunks_exact(BANDS).enumerate() {
            for (band, level) in levels.iter().enumerate() {
                sums[frame + 1][band] = sums[frame][band] + u32::from(*level);
            }
        }
        let mean = |middle: usize, reach: usize, band: usize| {
            let (from, to) = (middle.saturating_sub(reach), (middle + reach + 1).min(frames));
            (sums[to][band] - sums[from][band]) as f32 / (to - from).max(1) as f32
        };
        let changes: Vec<[f32; BANDS]> = (0..frames / step)
            .map(|i| std::array::from_fn(|band| mean(i * step, FAST, band) - mean(i * step, SLOW, band)))
            .collect();
        let scales: [f32; BANDS] = std::array::from_fn(|band| {
            let power =
                changes.iter().map(|change| change[band].powi(2)).sum::<f32>() / changes.len().max(1) as f32;
            if power < 1e-3 {
                return 0.0; // a dead band
            }
            STEP / power.sqrt() * (1.0 - OF_NOISE[band] / power).max(LEAST_SHARE).powf(0.75)
        });
        let frames = changes
            .iter()
            .map(|change| {
                std::array::from_fn(|band| {
                    (change[band] * scales[band]).clamp(-3.0 * STEP, 3.0 * STEP).round() as i8
                })
            })
            .collect();
        Self { frames }
    }

    /// Number of frames.
    pub fn len(&self) -> usize {
        self.frames.len()
    }

    /// True where there is not one frame.
    pub fn is_empty(&self) -> bool {
        self.frames.is_empty()
    }

    /// The frames, one value a band.
    pub fn frames(&self) -> &[[i8; BANDS]] {
        &self.frames
    }

    /// The part from frame `from` up to `to`.
    pub fn part(&self, from: usize, to: usize) -> Self {
        let to = to.min(self.frames.len());
        Self { frames: self.frames[from.min(to)..to].to_vec() }
    }

    /// As it would be had the sound run `speed` times as fast (a label of another sample rate).
    pub fn at_speed(&self, speed: f64) -> Self {
        let count = (self.frames.len() as f64 / speed) as usize;
        let frames = (0..count)
            .filter_map(|i| {
                let at = i as f64 * speed;
                let (base, blend) = (at as usize, at.fract() as f32);
                let (a, b) = (self.frames.get(base)?, self.frames.get(base + 1).or(self.frames.get(base))?);
                Some(std::array::from_fn(|k| {
                    (f32::from(a[k]) * (1.0 - blend) + f32::from(b[k]) * blend).round() as i8
                }))
            })
            .collect();
        Self { frames }
    }

    /// How well each frame of `self` agrees with the frame of `other` that lies `lag` frames later: mean product
    /// over the bands in sigma squared; 0 outside `other`.
    pub fn agreement(&self, other: &Pattern, lag: i64) -> Vec<f32> {
        let scale = 1.0 / (STEP * STEP * BANDS as f32);
        self.frames
            .iter()
            .enumerate()
            .map(|(i, own)| {
                let there = usize::try_from(i as i64 + lag).ok().and_then(|at| other.frames.get(at));
                there.map_or(0.0, |there| {
                    let sum: i32 = own.iter().zip(there).map(|(a, b)| i32::from(*a) * i32::from(*b)).sum();
                    sum as f32 * scale
                })
            })
            .collect()
    }
}
