//! Wrong labels: rates that differ by a ratio that everybody knows.

/// Sample rates that are mistaken for each other, and speeds by which pictures and their sound are pulled up or down.
const KNOWN: [f64; 5] = [48_000.0 / 44_100.0, 1.001, 25.0 / 24.0, 25.0 * 1001.0 / 24_000.0, 2.0];
/// No device's clock is this far off.
const NEAR: f64 = 300e-6;

/// The exact ratio that a measured pace is, but for what clocks differ by; 1 where it is none that is known.
pub(super) fn label_ratio(pace: f64) -> f64 {
    let known = KNOWN.iter().flat_map(|ratio| [*ratio, 1.0 / ratio]);
    known.filter(|ratio| (pace / ratio - 1.0).abs() < NEAR).fold(1.0, |_, ratio| ratio)
}

#[cfg(test)]
mod tests {
    use super::label_ratio;

    #[test]
    fn ratios_are_known_in_both_directions() {
        assert_eq!(label_ratio(1.0 + 120e-6), 1.0);
        assert_eq!(label_ratio(1.001 * (1.0 - 80e-6)), 1.001);
        assert_eq!(label_ratio(44_100.0 / 48_000.0 * (1.0 + 120e-6)), 1.0 / (48_000.0 / 44_100.0));
        // Something else is not made into anything.
        assert_eq!(label_ratio(1.02), 1.0);
    }
}
