//! How films are coded.

use serde::{Deserialize, Serialize};
use strum::{EnumIter, IntoStaticStr};
use ts_rs::TS;

/// How pictures are coded, by the open specification.
#[derive(
    Debug, Clone, Copy, Default, PartialEq, Eq, Hash, Serialize, Deserialize, EnumIter, IntoStaticStr, TS,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Codec {
    /// ITU-T H.264: small, and plays everywhere.
    #[default]
    H264,
    /// ITU-T H.265: smaller, and slower to make.
    H265,
    /// AV1 of the Alliance for Open Media.
    Av1,
    /// SMPTE ST 2019-1 VC-3: every frame by itself, to be cut.
    Vc3,
    /// SMPTE RDD 36: every frame by itself, ten bits, to be cut and graded.
    Rdd36,
    /// RFC 9043 FFV1: nothing is lost.
    Ffv1,
}

/// What holds them.
#[derive(
    Debug, Clone, Copy, Default, PartialEq, Eq, Hash, Serialize, Deserialize, EnumIter, IntoStaticStr, TS,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Wrapper {
    /// ISO/IEC 14496-14.
    Mp4,
    /// MOV.
    #[default]
    Mov,
    /// SMPTE ST 378 MXF OP1a.
    Mxf,
    /// SMPTE ST 390 MXF OP-Atom: the pictures alone in one file, each channel of sound in one of its own beside it.
    Atom,
    /// RFC 9559 Matroska.
    Mkv,
}

/// How much of the pictures is kept where a codec lets one choose.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Grade {
    /// To be sent.
    Small,
    /// To be looked at.
    #[default]
    Good,
    /// To be worked with.
    Fine,
    /// As it was recorded: what nothing is changed of is copied, and the rest is coded finely, and alike where that can be.
    Recorded,
}

/// What is heard with a film.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum FilmSound {
    /// What the grid mixes.
    #[default]
    Mix,
    /// The recorders' tracks, each by itself.
    Tracks,
    /// The mix, and behind it the tracks.
    Both,
    /// Nothing.
    Silent,
}

/// What is written into the pictures.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct BurnIn {
    /// The clip's name.
    pub name: bool,
    /// Timecode: the clip's own, and the film's where that is another.
    pub timecode: bool,
    /// Scene and take.
    pub scene: bool,
    /// Notes.
    pub notes: bool,
}

/// How a film is made.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct FilmForm {
    /// Of its pictures.
    pub codec: Codec,
    /// What holds it.
    pub wrapper: Wrapper,
    /// How much of the pictures is kept.
    pub grade: Grade,
    /// Rows of pixels; as many as its pictures have unless given.
    pub height: Option<u32>,
    /// What is heard.
    pub sound: FilmSound,
    /// What is written into the pictures.
    pub burn: BurnIn,
    /// Whether pictures are as they are seen through viewing LUTs; else as they were recorded.
    pub through: bool,
}

/// Fewest and most rows of pixels.
pub const ROWS: std::ops::RangeInclusive<u32> = 90..=4320;

impl Codec {
    /// What can hold it, the usual one first.
    pub fn wrappers(self) -> &'static [Wrapper] {
        match self {
            Self::H264 | Self::H265 => &[Wrapper::Mp4, Wrapper::Mov, Wrapper::Mkv],
            Self::Av1 => &[Wrapper::Mp4, Wrapper::Mkv],
            Self::Vc3 => &[Wrapper::Mov, Wrapper::Mxf, Wrapper::Atom],
            Self::Rdd36 => &[Wrapper::Mov, Wrapper::Mxf],
            Self::Ffv1 => &[Wrapper::Mkv],
        }
    }

    /// Its specification, by name.
    pub fn name(self) -> &'static str {
        match self {
            Self::H264 => "H.264",
            Self::H265 => "H.265",
            Self::Av1 => "AV1",
            Self::Vc3 => "VC-3",
            Self::Rdd36 => "RDD 36",
            Self::Ffv1 => "FFV1",
        }
    }
}

impl Wrapper {
    /// The ending of its files' names.
    pub fn extension(self) -> &'static str {
        match self {
            Self::Mxf | Self::Atom => "mxf",
            Self::Mp4 | Self::Mov | Self::Mkv => self.into(),
        }
    }

    /// What it is asked for by.
    pub fn word(self) -> &'static str {
        self.into()
    }

    /// Whether it is a form of MXF.
    pub fn is_mxf(self) -> bool {
        matches!(self, Self::Mxf | Self::Atom)
    }

    /// Whether its sound is kept to the last bit; else it is coded.
    pub fn keeps_samples(self) -> bool {
        self != Self::Mp4
    }
}

impl FilmForm {
    /// Nothing, where a film can be made so; else why not.
    ///
    /// # Errors
    /// In words.
    pub fn check(&self) -> Result<(), String> {
        if !self.codec.wrappers().contains(&self.wrapper) {
            let all: Vec<&str> = self.codec.wrappers().iter().map(|own| own.word()).collect();
            let (codec, own) = (self.codec.name(), self.wrapper.word());
            return Err(format!("{codec} is not written into {own}; choose {}", all.join(" or ")));
        }
        if self.height.is_some_and(|own| !ROWS.contains(&own)) {
            return Err(format!("a film has {} to {} rows of pixels", ROWS.start(), ROWS.end()));
        }
        Ok(())
    }

    /// Why nothing of its pictures can be copied as it was recorded, where that is so for all of them.
    pub fn changes_all(&self, size: (u32, u32)) -> Option<&'static str> {
        let BurnIn { name, timecode, scene, notes } = self.burn;
        if name || timecode || scene || notes {
            Some("words are written into the pictures")
        } else if self.size(size) != size {
            Some("the pictures are to have another size")
        } else {
            None
        }
    }

    /// The size of a film whose pictures are so large: by twos, at their own ratio.
    ///
    /// ```
    /// use metaxis_core::film::FilmForm;
    ///
    /// let small = FilmForm { height: Some(540), ..FilmForm::default() };
    /// assert_eq!(small.size((1920, 1080)), (960, 540));
    /// assert_eq!(FilmForm::default().size((1919, 1081)), (1920, 1082));
    /// ```
    pub fn size(&self, (width, height): (u32, u32)) -> (u32, u32) {
        let even = |own: f64| ((own / 2.0).round() as u32).clamp(8, 8192) * 2;
        let rows = self.height.unwrap_or(height);
        (even(f64::from(width.max(1)) * f64::from(rows) / f64::from(height.max(1))), even(f64::from(rows)))
    }
}
