//! The LUTs that are shipped: from published codings to a screen of BT.709, without a taste of their own.

use super::{
    Lut, LutKey, Rgb,
    curve::{
        FROM_2020, FROM_AP1, acescct, by, code_of_shown, coded, film_density, hybrid_log, quantised,
        rolled_off, shown,
    },
};
use strum::{EnumIter, IntoEnumIterator};

/// A LUT that is shipped.
#[derive(Debug, Clone, Copy, PartialEq, Eq, EnumIter)]
pub enum Neutral {
    /// Hybrid log-gamma, in the colours of BT.2020.
    HybridLog,
    /// Perceptual quantisation, in the colours of BT.2020.
    Quantised,
    /// The colours of BT.2020 at a screen's usual brightness.
    WideGamut,
    /// ACEScct.
    Acescct,
    /// The density of film that was scanned.
    FilmDensity,
}

/// Samples along an edge: none of these is further off than an eight-bit screen tells.
const SIZE: usize = 33;
/// Light of a screen that white of a scene has at high dynamic range, cd/m² (Report ITU-R BT.2408).
const WHITE: f32 = 203.0;
/// The brightest screen that hybrid log-gamma is rendered for, cd/m², and its gamma there (BT.2100-2, table 5).
const BRIGHTEST: f32 = 1000.0;
const SYSTEM_GAMMA: f32 = 1.2;

impl Neutral {
    /// All that there are.
    pub fn all() -> impl Iterator<Item = Self> {
        Self::iter()
    }

    /// What it is called by.
    pub fn key(self) -> LutKey {
        LutKey(
            match self {
                Self::HybridLog => "hlg",
                Self::Quantised => "pq",
                Self::WideGamut => "bt2020",
                Self::Acescct => "acescct",
                Self::FilmDensity => "film-density",
            }
            .into(),
        )
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            Self::HybridLog => "HLG (BT.2100) to BT.709",
            Self::Quantised => "PQ (ST 2084) to BT.709",
            Self::WideGamut => "BT.2020 to BT.709",
            Self::Acescct => "ACEScct to BT.709",
            Self::FilmDensity => "Film density log to BT.709",
        }
    }

    /// The one for what a file says of its colours, in the words of ISO/IEC 23091-2 as probing gives them.
    pub fn of(transfer: Option<&str>, primaries: Option<&str>) -> Option<Self> {
        match (transfer, primaries) {
            (Some("arib-std-b67"), _) => Some(Self::HybridLog),
            (Some("smpte2084"), _) => Some(Self::Quantised),
            (_, Some("bt2020")) => Some(Self::WideGamut),
            _ => None,
        }
    }

    /// What it makes of a colour.
    pub fn apply(self, code: Rgb) -> Rgb {
        let seen = |light: Rgb| light.map(|own| code_of_shown(rolled_off(own.max(0.0))).clamp(0.0, 1.0));
        let of_scene = |light: Rgb| light.map(|own| coded(rolled_off(own.max(0.0))).clamp(0.0, 1.0));
        match self {
            Self::HybridLog => {
                let scene = code.map(hybrid_log);
                let luminance = 0.2627 * scene[0] + 0.678 * scene[1] + 0.0593 * scene[2];
                let gain = luminance.max(0.0).powf(SYSTEM_GAMMA - 1.0) * BRIGHTEST / WHITE;
                seen(by(&FROM_2020, scene.map(|own| own * gain)))
            }
            Self::Quantised => seen(by(&FROM_2020, code.map(|own| quantised(own) / WHITE))),
            Self::WideGamut => by(&FROM_2020, code.map(shown)).map(|own| code_of_shown(own).clamp(0.0, 1.0)),
            Self::Acescct => of_scene(by(&FROM_AP1, code.map(acescct))),
            // White of the film is nine tenths of what is lit, as a white card is.
            Self::FilmDensity => of_scene(code.map(|own| film_density(own) * 0.9)),
        }
    }

    /// It as a table.
    pub fn lut(self) -> Lut {
        Lut { title: Some(self.name().into()), ..Lut::sampled(SIZE, |colour| self.apply(colour)) }
    }
}

/// The LUT of this key that is shipped.
pub fn neutral(key: &LutKey) -> Option<Neutral> {
    Neutral::all().find(|own| own.key() == *key)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn grey_stays_grey_and_rises() {
        for own in Neutral::all() {
            let greys: Vec<Rgb> = (0..=100).map(|code| own.apply([code as f32 / 100.0; 3])).collect();
            for [r, g, b] in &greys {
                assert!((r - g).abs() < 2e-3 && (b - g).abs() < 2e-3, "{own:?}: {r} {g} {b}");
            }
            assert!(greys.windows(2).all(|pair| pair[0][1] <= pair[1][1] + 1e-6), "{own:?}");
            assert!(greys[0][1] < 0.02 && greys[100][1] > 0.9, "{own:?}: {:?} {:?}", greys[0], greys[100]);
        }
    }

    /// White of a scene is about as bright by each of the two codings of high dynamic range.
    #[test]
    fn white_of_a_scene_is_white_on_the_screen() {
        let white = |own: Neutral, code: f32| own.apply([code; 3])[1];
        let (hybrid, quantised) = (white(Neutral::HybridLog, 0.75), white(Neutral::Quantised, 0.580_7));
        assert!((hybrid - quantised).abs() < 0.01, "{hybrid} {quantised}");
        assert!((0.9..0.97).contains(&hybrid), "{hybrid}");
        // Middle grey, where a camera of BT.709 has it.
        assert!((white(Neutral::Acescct, 0.413_588) - 0.409).abs() < 0.002);
    }

    /// Between its samples the table is where the curve is, to a step of eight bits.
    #[test]
    fn the_table_is_fine_enough() {
        for own in Neutral::all().filter(|own| *own != Neutral::FilmDensity) {
            let lut = own.lut();
            for code in 0..=64 {
                let grey = [0.15 + 0.8 * code as f32 / 64.0; 3];
                let (table, curve) = (lut.apply(grey)[1], own.apply(grey)[1]);
                assert!((table - curve).abs() < 2.0 / 255.0, "{own:?} at {}: {table} {curve}", grey[0]);
            }
        }
    }

    #[test]
    fn what_a_file_says_names_one() {
        assert_eq!(Neutral::of(Some("arib-std-b67"), Some("bt2020")), Some(Neutral::HybridLog));
        assert_eq!(Neutral::of(Some("smpte2084"), None), Some(Neutral::Quantised));
        assert_eq!(Neutral::of(Some("bt709"), Some("bt2020")), Some(Neutral::WideGamut));
        assert_eq!(Neutral::of(Some("bt709"), Some("bt709")), None);
        let all: Vec<LutKey> = Neutral::all().map(Neutral::key).collect();
        assert!(all.iter().zip(Neutral::all()).all(|(key, own)| neutral(key) == Some(own)));
        assert_eq!(neutral(&LutKey("none".into())), None);
    }
}
