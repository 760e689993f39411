//! How far a microphone stands from what its clip shows, as a person gave it.

/// Speed of sound at 20 °C, metres a second (331.3 + 0.606·°C).
pub const SOUND_M_PER_S: f64 = 343.4;

/// The distance that a person gave: what is seen there is heard so much later.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub enum GivenDistance {
    /// None: picture and sound are of one place.
    #[default]
    None,
    /// To the clip's device, metres.
    Device(f64),
    /// To this clip alone, whatever its device has, metres.
    Clip(f64),
}

impl GivenDistance {
    /// A clip's own distance, else its device's, where that is more than none.
    pub fn of(own_m: Option<f64>, device_m: f64) -> Self {
        match own_m {
            Some(metres) => Self::Clip(metres),
            None if device_m > 0.0 => Self::Device(device_m),
            None => Self::None,
        }
    }

    /// Metres; 0 where none is given.
    pub fn metres(self) -> f64 {
        match self {
            Self::None => 0.0,
            Self::Device(metres) | Self::Clip(metres) => metres.max(0.0),
        }
    }

    /// How long sound is on its way, seconds.
    pub fn travel_s(self) -> f64 {
        self.metres() / SOUND_M_PER_S
    }
}
