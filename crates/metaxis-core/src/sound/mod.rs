//! Sound corrected to another clock: which of its samples belong to each moment of that clock, and what they are worth there.
//!
//! - [`course`]: the sound's way along another clip's clock, in legs at a steady pace.
//! - [`propose`]: how a clip is best corrected, with its reason.
//! - [`Render`]: the samples themselves, band-limited and exact over hours.

mod correction;
mod course;
mod kernel;
mod render;

pub use correction::{Correction, Proposal, propose};
pub use course::{Leg, Rates, course};
pub use render::{Render, Samples};
