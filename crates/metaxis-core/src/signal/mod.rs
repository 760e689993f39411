//! What is measured from sound. All matching works on one mono stream at [`LISTEN_RATE`].

mod bands;
mod channel;
mod claps;
mod correlate;
mod levels;
mod pattern;
mod peaks;
mod phase;

pub use bands::{BAND_RATE, BANDS, BandReader, Bands};
pub use channel::{ChannelMeter, ChannelState, Mix, listening_mixes};
pub use claps::{Clap, ClapFinder};
pub use correlate::{CoarseMatch, Correlator, Spectra};
pub use levels::{LEVEL_RATE, LevelReader, level_strip};
pub use pattern::{PATTERN_RATE, Pattern};
pub use peaks::{
    BlockStats, PEAK_BIN, PEAK_BYTES, PEAK_STEP, PEAK_ZOOMS, PeakBin, PeakReader, peak_bins, peak_zoom,
};
pub(crate) use phase::refine;
pub use phase::{LagPeak, PhaseMatcher};

/// Samples per second of the stream that is matched.
pub const LISTEN_RATE: u32 = 16_000;
