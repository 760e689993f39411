//! The answer put together: placements with evidence and reasons, notes on devices, what changed since another pass.

mod aside;
mod beside;
mod clock_notes;
mod compare;
mod evidence;
mod faults;
mod islands;
mod labels;
mod near;
mod placements;
mod result;
mod slates;

pub(crate) use aside::tell_aside;
pub use beside::{component_at, keep_beside};
pub use clock_notes::{ClockNote, clock_notes};
pub use compare::{Changed, compare};
pub(crate) use islands::islands_laid;
pub use near::place_near;
pub(crate) use placements::placements;
pub use result::DayResult;
