//! What is measured from sound. All matching works on one mono stream at [`LISTEN_RATE`].

mod bands;
mod channel;
mod correlate;
mod levels;
mod peaks;
mod phase;

pub use bands::{BAND_RATE, BANDS, BandReader, Bands, WhitenedBands};
pub use channel::{ChannelMeter, ChannelState, listening_channels};
pub use correlate::{CoarseMatch, Correlator};
pub use levels::{LEVEL_RATE, LevelReader, level_strip};
pub use peaks::{
    BlockStats, PEAK_BIN, PEAK_BYTES, PEAK_STEP, PEAK_ZOOMS, PeakBin, PeakReader, peak_bins, peak_zoom,
};
pub use phase::{LocalMatch, PhaseMatcher};

/// Samples per second of the stream that is matched.
pub const LISTEN_RATE: u32 = 16_000;
