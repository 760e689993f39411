//! Values between samples.

use std::f64::consts::PI;

/// Weight of a sample that lies `distance` samples away, of a sound whose band is that of its rate: a sinc under the square
/// of a cosine that ends `reach` samples away (the window after Hann).
pub(crate) fn weight(distance: f64, reach: f64) -> f64 {
    let angle = PI * distance;
    let sinc = if distance.abs() < 1e-9 { 1.0 } else { angle.sin() / angle };
    let shape = (0.5 * angle / reach).cos();
    sinc * shape * shape
}

#[cfg(test)]
mod tests {
    use super::weight;

    #[test]
    fn it_passes_through_the_samples_and_ends_where_it_says() {
        assert_eq!(weight(0.0, 8.0), 1.0);
        for whole in 1..8 {
            assert!(weight(f64::from(whole), 8.0).abs() < 1e-12);
        }
        assert!(weight(8.0, 8.0).abs() < 1e-12);
    }

    #[test]
    fn a_tone_between_its_samples_is_itself() {
        // A fifth of the rate, read at every tenth of a sample.
        let tone = |at: f64| (std::f64::consts::TAU * 0.2 * at + 0.3).sin();
        for tenth in 0..10 {
            let at = 100.0 + f64::from(tenth) / 10.0;
            let read: f64 = (88..=112).map(|i| tone(f64::from(i)) * weight(at - f64::from(i), 12.0)).sum();
            assert!((read - tone(at)).abs() < 2e-3, "{read} {}", tone(at));
        }
    }
}
