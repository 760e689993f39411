//! Commands that run without a page.

mod kept;
mod sound;
mod sync;

pub use sound::{SoundAsked, SoundError, not_written, sound};
pub use sync::{Progress, SyncError, SyncPlan, sync};
