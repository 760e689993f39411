//! Commands that run without a page.

mod kept;
mod sync;

pub use sync::{SyncError, SyncPlan, sync};
