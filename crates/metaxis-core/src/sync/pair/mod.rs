//! Two sounds and nothing else: how one lies along the other, to a hundredth of a millisecond, with breaks and bends.

mod align;
mod alignment;
mod arrival;
mod bend;
mod breaks;
mod by_pattern;
mod contrast;
mod course;
mod coverage;
mod duel;
mod follow;
mod line;
mod moments;
mod needle;
mod offset;
mod passage;
mod pieces;
mod referee;
mod shape;
mod waves;
mod windows;

pub use align::{Aligner, Density};
pub use alignment::Alignment;
pub(crate) use alignment::Moved;
pub(crate) use by_pattern::by_pattern;
pub use course::Bend;
pub(crate) use coverage::{covered_at, has_sound, share, uncovered};
pub(crate) use duel::{Winner, duel};
pub use moments::{Along, CheckPoint, check_points};
pub use needle::{Needle, needle};
pub use offset::LocalOffset;
pub use passage::Passage;
pub use pieces::{Piece, PieceFit, fit_pieces};
pub(crate) use pieces::{STEP_S, extent};
pub(crate) use referee::{Ruling, Sure, rule};
pub(crate) use waves::{WaveSearch, search_waves};
