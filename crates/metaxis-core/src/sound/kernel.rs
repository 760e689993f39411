//! The weights by which samples make a value between them: a sinc under Kaiser's window (J. F. Kaiser, 1974: "Nonrecursive digital
//! filter design using the I0-sinh window function").

use std::{
    f64::consts::{PI, TAU},
    sync::{Arc, Mutex, PoisonError},
};

/// What is beyond the pass band is weaker by this, dB.
const DOWN_DB: f64 = 126.0;
/// The pass band reaches to here, Hz; of lower rates to this share of the rate.
const PASS_HZ: f64 = 20_000.0;
const PASS_SHARE: f64 = 0.4535;
/// Places between two samples for which weights are kept; between these they are interpolated, which is 130 dB down.
const PLACES: usize = 2048;

/// Weights for one pair of rates.
pub(super) struct Kernel {
    /// Samples on either side that count.
    reach: usize,
    /// One row a place between two samples, and one more; each of 2 · `reach` weights.
    rows: Vec<f32>,
}

/// Kernels that were made, by their two rates: making one takes as long as seconds of sound, and there are few.
static MADE: Mutex<Vec<Made>> = Mutex::new(vec![]);

struct Made {
    own: f64,
    out: f64,
    kernel: Arc<Kernel>,
}

impl Kernel {
    /// As [`Kernel::new`], made once.
    pub fn shared(own: f64, out: f64) -> Arc<Self> {
        let mut made = MADE.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = made.iter().find(|known| (known.own, known.out) == (own, out)) {
            return Arc::clone(&known.kernel);
        }
        let kernel = Arc::new(Self::new(own, out));
        made.push(Made { own, out, kernel: Arc::clone(&kernel) });
        kernel
    }

    /// For sound of so many samples a second that is read at so many.
    pub fn new(own: f64, out: f64) -> Self {
        let low = own.min(out) / own;
        let pass = (PASS_HZ / own).min(PASS_SHARE * low);
        let stop = low - pass;
        let length = (DOWN_DB - 8.0) / (2.285 * TAU * (stop - pass));
        let reach = (length / 2.0).ceil() as usize;
        // Rows of a multiple of eight weights are summed fastest.
        let reach = reach.next_multiple_of(4);
        let beta = 0.1102 * (DOWN_DB - 8.7);
        let weight = |x: f64| {
            let inside = 1.0 - (x / reach as f64).powi(2);
            if inside <= 0.0 {
                0.0
            } else {
                low * sinc(low * x) * bessel(beta * inside.sqrt()) / bessel(beta)
            }
        };
        let mut rows = vec![];
        for place in 0..=PLACES {
            let part = place as f64 / PLACES as f64;
            let row: Vec<f64> =
                (0..2 * reach).map(|tap| weight(part - (tap as f64 - (reach - 1) as f64))).collect();
            // What does not change keeps its value to the last bit.
            let sum: f64 = row.iter().sum();
            rows.extend(row.iter().map(|value| (value / sum) as f32));
        }
        Self { reach, rows }
    }

    /// Samples that count before a position's own sample, and all that count.
    pub fn taps(&self) -> (usize, usize) {
        (self.reach - 1, 2 * self.reach)
    }

    /// The weights at a part of the way from a sample to the next.
    pub fn weights(&self, part: f64, out: &mut [f32]) {
        let at = part * PLACES as f64;
        let place = (at as usize).min(PLACES - 1);
        let (share, taps) = ((at - place as f64) as f32, 2 * self.reach);
        let (one, next) = self.rows[place * taps..(place + 2) * taps].split_at(taps);
        for ((out, one), next) in out.iter_mut().zip(one).zip(next) {
            *out = one + share * (next - one);
        }
    }
}

fn sinc(x: f64) -> f64 {
    if x.abs() < 1e-12 { 1.0 } else { (PI * x).sin() / (PI * x) }
}

/// The modified Bessel function of the first kind and order zero, by its series.
fn bessel(x: f64) -> f64 {
    let (mut sum, mut term) = (1.0, 1.0);
    for k in 1..200 {
        term *= (x / (2.0 * f64::from(k))).powi(2);
        sum += term;
        if term < 1e-18 * sum {
            break;
        }
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn at_a_sample_it_is_that_sample() {
        let kernel = Kernel::new(48_000.0, 48_000.0);
        let (before, taps) = kernel.taps();
        let mut row = vec![0.0; taps];
        kernel.weights(0.0, &mut row);
        for (tap, weight) in row.iter().enumerate() {
            let expected = if tap == before { 1.0 } else { 0.0 };
            assert!((weight - expected).abs() < 1e-6, "{tap}: {weight}");
        }
    }

    #[test]
    fn series_and_table_of_the_bessel_function_agree() {
        // Abramowitz and Stegun, table 9.8.
        for (x, value) in [(0.0, 1.0), (1.0, 1.266_065_878), (5.0, 27.239_871_82)] {
            assert!((bessel(x) - value).abs() < 1e-7 * value, "{x}");
        }
    }
}
