//! Commands that run without a page.

mod kept;
mod sound;
mod sync;
mod synced;
mod turnover;

pub use crate::each::Progress;
pub use sound::{SoundAsked, SoundError, not_written, sound};
pub use sync::sync;
pub use synced::{SyncError, SyncPlan};
pub use turnover::{TURNOVER_SCHEMA, TurnoverError, TurnoverReport, turnover};
