//! Band-limited interpolation: a sound at any moment, not only at its samples.

/// Taps either side.
const REACH: usize = 24;
/// Tabled positions between two samples; between these the taps are interpolated linearly, which keeps
/// the position error far below a nanosecond.
const PHASES: usize = 512;

/// A windowed-sinc interpolator for one cut-off.
pub struct Interpolator {
    table: Vec<[f32; 2 * REACH]>,
}

impl Interpolator {
    /// `cutoff` as a share of the source's Nyquist frequency, at most 1.
    pub fn new(cutoff: f64) -> Self {
        let table = (0..=PHASES)
            .map(|phase| {
                let fraction = phase as f64 / PHASES as f64;
                let mut taps = [0.0_f32; 2 * REACH];
                let raw: Vec<f64> = (0..2 * REACH)
                    .map(|i| {
                        let x = i as f64 - (REACH as f64 - 1.0) - fraction;
                        let angle = std::f64::consts::PI * x * cutoff;
                        let sinc = if angle.abs() < 1e-9 { 1.0 } else { angle.sin() / angle };
                        let window = (std::f64::consts::FRAC_PI_2 * x / REACH as f64).cos().max(0.0);
                        cutoff * sinc * window * window
                    })
                    .collect();
                let sum: f64 = raw.iter().sum();
                for (tap, value) in taps.iter_mut().zip(raw) {
                    *tap = (value / sum) as f32;
                }
                taps
            })
            .collect();
        Self { table }
    }

    /// The value of `source` at `position` samples; silence outside.
    pub fn at(&self, source: &[f32], position: f64) -> f32 {
        let base = position.floor();
        let fraction = (position - base) * PHASES as f64;
        let phase = (fraction as usize).min(PHASES - 1);
        let blend = (fraction - phase as f64) as f32;
        let first = base as i64 - (REACH as i64 - 1);
        let (low, high) = (&self.table[phase], &self.table[phase + 1]);
        if first >= 0 && (first as usize + 2 * REACH) <= source.len() {
            let window = &source[first as usize..first as usize + 2 * REACH];
            let mut near = 0.0;
            let mut next = 0.0;
            for ((s, a), b) in window.iter().zip(low).zip(high) {
                near += s * a;
                next += s * b;
            }
            return near + (next - near) * blend;
        }
        (0..2 * REACH)
            .filter_map(|i| {
                let sample = source.get(usize::try_from(first + i as i64).ok()?)?;
                Some(sample * (low[i] + (high[i] - low[i]) * blend))
            })
            .sum()
    }
}
