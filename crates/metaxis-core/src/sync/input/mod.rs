//! What the engine is given: clips with their sounds, labels and marks; the plan; whom to tell how far it is.

mod aside;
mod axis;
mod clip;
mod distance;
mod label;
mod mark;
mod plan;
mod progress;
mod sound;

pub use aside::Aside;
pub(crate) use aside::without;
pub(crate) use axis::Axis;
pub use axis::axis_origin;
pub(crate) use clip::devices;
pub use clip::{DayClip, pick_reference};
pub use distance::{GivenDistance, SOUND_M_PER_S};
pub use label::{Label, TakenOff, labels};
pub use mark::SlateMark;
pub use plan::{DayPlan, Effort, Mode};
pub use progress::{Arrival, Flow, Step};
pub(crate) use progress::{Progress, Stopped};
pub use sound::{HeardSound, SampleSource};
pub(crate) use sound::{OffsetAt, Pair, RATE};
