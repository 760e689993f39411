//! What is measured from sound. All matching works on one mono stream at [`LISTEN_RATE`].

mod bands;
mod beats;
mod carries;
mod channel;
mod claps;
mod correlate;
mod heard;
mod levels;
mod mixes;
mod pattern;
mod peaks;
mod phase;
mod relate;
mod robust;
pub(crate) mod sinc;

pub use bands::{BAND_RATE, BANDS, BandReader, Bands};
pub use beats::{BassReader, Beats};
pub use carries::Carries;
pub use channel::{ChannelMeter, ChannelState};
pub use claps::{Clap, ClapFinder};
pub use correlate::{CoarseMatch, Correlator, Spectra};
pub use heard::{Heard, LostSound, lost_sound};
pub use levels::{LEVEL_RATE, LevelReader, level_strip};
pub use mixes::{Mix, MixPart, by_clearness, listening_mixes, living, played};
pub use pattern::{PATTERN_RATE, Pattern};
pub use peaks::{
    BlockStats, PEAK_BIN, PEAK_BYTES, PEAK_STEP, PEAK_ZOOMS, PeakBin, PeakReader, peak_bins, peak_zoom,
};
pub(crate) use phase::refine;
pub use phase::{LagPeak, PhaseMatcher};
pub use relate::{ReadChannel, Relation, relate};
pub(crate) use robust::scaled_median;

/// Samples per second of the stream that is matched.
pub const LISTEN_RATE: u32 = 16_000;
