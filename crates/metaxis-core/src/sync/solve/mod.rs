//! All links together: one layout of all clips, then positions and rates at once.

mod adjust;
mod compose;
mod confirm;
mod ends;
mod layout;
mod rates;

pub(crate) use adjust::adjust;
pub(crate) use compose::{compose, overlap_s};
pub(crate) use confirm::confirm;
pub(crate) use ends::{End, OpenEnd, look_at_ends, mend_ends};
pub(crate) use layout::Layout;
pub use rates::DeviceRate;
pub(crate) use rates::{learn, learn_by_box, lend};
