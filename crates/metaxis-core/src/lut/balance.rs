//! How bright and in what light pictures are: what differs between cameras that saw the same.

use super::{Rgb, curve::shown};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How bright a picture is, and in what light, each in stops (powers of two).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Balance {
    /// Its mean brightness.
    pub brightness: f64,
    /// How much more red than blue.
    pub warmth: f64,
    /// How much more green than what lies between red and blue.
    pub green: f64,
}

/// How pictures differ from others of the same moments, in stops.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct BalanceDifference {
    /// Brighter; darker below zero.
    pub brighter: f64,
    /// Warmer; cooler below zero.
    pub warmer: f64,
    /// Greener; more magenta below zero.
    pub greener: f64,
}

/// Codes below and above these say nothing of colour: black, and what is burnt out.
const SAYS: std::ops::RangeInclusive<u8> = 12..=247;
/// The fewest pixels in a hundred that have to say something.
const ENOUGH: usize = 5;

impl Balance {
    /// Of a picture's pixels, red, green and blue, eight bits each, as they are shown. `None` where hardly any says something.
    ///
    /// The light of a scene is taken to be grey on the whole (G. Buchsbaum, 1980: "A spatial processor model for object colour
    /// perception"): what two cameras see of it differs by their settings, as far as both see the same.
    pub fn of(pixels: &[[u8; 3]]) -> Option<Self> {
        let mut sums = [0.0_f64; 3];
        let mut brightness = 0.0;
        let mut count = 0_usize;
        for pixel in pixels.iter().filter(|own| own.iter().all(|code| SAYS.contains(code))) {
            let light: Rgb = pixel.map(|code| shown(f32::from(code) / 255.0));
            for (sum, own) in sums.iter_mut().zip(light) {
                *sum += f64::from(own).log2();
            }
            let [r, g, b] = light.map(f64::from);
            // Luminance by the weights of BT.709.
            brightness += (0.2126 * r + 0.7152 * g + 0.0722 * b).log2();
            count += 1;
        }
        if count * 100 < pixels.len() * ENOUGH || count == 0 {
            return None;
        }
        let [r, g, b] = sums.map(|sum| sum / count as f64);
        Some(Self { brightness: brightness / count as f64, warmth: r - b, green: g - (r + b) / 2.0 })
    }
}

impl BalanceDifference {
    /// By the middle one of each over several moments; `None` where there is none.
    ///
    /// ```
    /// use metaxis_core::lut::{Balance, BalanceDifference};
    ///
    /// let grey = |code: u8| Balance::of(&[[code; 3]; 64]);
    /// // A screen's light goes with the code to the power of 2.4.
    /// let pairs = [(grey(120), grey(60))].map(|(own, other)| (own.unwrap(), other.unwrap()));
    /// let differs = BalanceDifference::between(&pairs).unwrap();
    /// assert!((differs.brighter - 2.4).abs() < 1e-6 && differs.warmer == 0.0);
    /// assert_eq!(differs.said(), "2.4 stops brighter");
    /// ```
    pub fn between(pairs: &[(Balance, Balance)]) -> Option<Self> {
        let middle = |of: fn(&Balance) -> f64| {
            let mut all: Vec<f64> = pairs.iter().map(|(own, other)| of(own) - of(other)).collect();
            all.sort_by(f64::total_cmp);
            all.get(all.len() / 2).copied()
        };
        Some(Self {
            brighter: middle(|own| own.brightness)?,
            warmer: middle(|own| own.warmth)?,
            greener: middle(|own| own.green)?,
        })
    }

    /// In words; what is below a tenth of a stop is not said.
    pub fn said(&self) -> String {
        let parts = [
            (self.brighter, "stops brighter", "stops darker"),
            (self.warmer, "warmer", "cooler"),
            (self.greener, "greener", "more magenta"),
        ];
        let said: Vec<String> = parts
            .iter()
            .filter(|(stops, ..)| stops.abs() >= 0.1)
            .map(|(stops, more, less)| {
                format!("{:.1} {}", stops.abs(), if *stops > 0.0 { more } else { less })
            })
            .collect();
        if said.is_empty() { "as bright, in the same light".into() } else { said.join(", ") }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A scene of many colours, seen with gains of each colour.
    fn seen(gains: [f64; 3]) -> Vec<[u8; 3]> {
        (0..4096_u32)
            .map(|number| {
                let light = |own: u32| {
                    0.02 + 0.2 * f64::from(number.wrapping_mul(2_654_435_761).rotate_left(own) % 97) / 97.0
                };
                let code =
                    |i: usize| ((light(i as u32 * 7) * gains[i]).powf(1.0 / 2.4) * 255.0).round() as u8;
                [code(0), code(1), code(2)]
            })
            .collect()
    }

    #[test]
    fn gains_are_found_in_stops() {
        let plain = Balance::of(&seen([1.0; 3])).expect("a balance");
        let differs = |gains: [f64; 3]| {
            let own = Balance::of(&seen(gains)).expect("a balance");
            BalanceDifference::between(&[(own, plain)]).expect("a difference")
        };
        let brighter = differs([1.5; 3]);
        assert!((brighter.brighter - 1.5_f64.log2()).abs() < 0.02, "{brighter:?}");
        assert!(brighter.warmer.abs() < 0.02 && brighter.greener.abs() < 0.02);
        let warmer = differs([1.2, 1.0, 1.0 / 1.2]);
        assert!((warmer.warmer - 2.0 * 1.2_f64.log2()).abs() < 0.03, "{warmer:?}");
        assert!(warmer.brighter.abs() < 0.1);
        assert_eq!(differs([1.0, 1.3, 1.0]).said().split(", ").last(), Some("0.4 greener"));
        assert_eq!(differs([1.0; 3]).said(), "as bright, in the same light");
    }

    #[test]
    fn black_and_burnt_out_pictures_say_nothing() {
        assert_eq!(Balance::of(&[[3; 3]; 500]), None);
        assert_eq!(Balance::of(&[[255; 3]; 500]), None);
        assert_eq!(Balance::of(&[]), None);
        // A picture that is mostly black is judged by the rest of it.
        let mut some = vec![[0; 3]; 900];
        some.extend([[128; 3]; 100]);
        assert_eq!(Balance::of(&some), Balance::of(&[[128; 3]; 9]));
        assert_eq!(BalanceDifference::between(&[]), None);
    }
}
