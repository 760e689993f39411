//! What clips say of themselves: timecode, clocks, slates, claps seen; and how far each kind is to be trusted.

mod clocks;
mod kinds;
mod periods;
mod place;
mod seen;
mod shown;
mod slates;

pub(crate) use clocks::fit;
pub use clocks::{ClockTrust, DeviceClock};
pub(crate) use kinds::{KINDS, label_of, own_timecode};
pub(crate) use place::{LEVEL_FRAMES, LabelPlace, label_places};
pub use seen::{SeenClap, look_around, seen_clap, seen_distances};
pub use shown::ShownDistance;
pub(crate) use shown::{ClipSlates, distance_m, shown_by_slates};
pub(crate) use slates::{EYE_S, FRAME_S, OTHER_CLAP_S, SlatePair, pairs};
