//! Commands that run without a page.

mod sync;

pub use sync::{SyncError, SyncMode, SyncPlan, sync};
