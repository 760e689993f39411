//! Commands that run without a page.

mod kept;
mod sound;
mod sync;

pub use crate::sound::{Layout, SoundChoices};
pub use sound::{SoundAsked, SoundError, SoundFor, not_written, sound};
pub use sync::{Progress, SyncError, SyncPlan, sync};
