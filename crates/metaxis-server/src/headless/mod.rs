//! Commands that run without a page.

mod sync;

pub use sync::{SyncError, SyncPlan, sync};
