//! Commands that run without a page.

mod hand_out;
mod kept;
mod sound;
mod sources;
mod sync;
mod synced;
mod turnover;

pub use crate::each::Progress;
pub use hand_out::HandedOut;
pub use sound::{SoundAsked, SoundError, not_written, sound};
pub use sync::{SyncDone, sync};
pub use synced::{SyncError, SyncPlan};
pub use turnover::{FilmReport, FilmsAsked, TURNOVER_SCHEMA, TurnoverError, TurnoverReport, turnover};
