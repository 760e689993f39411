//! What each clip stands on: sound, a label, a slate, a take that ran with it. All moving of clips after the layout was
//! solved happens here.

mod believe;
mod by_label;
mod by_slate;
mod clocks;
mod distances;
mod ground;
mod islands;
mod order;
mod settling;
mod siblings;
mod support;
mod weigh;

pub(crate) use by_slate::Laid;
pub(crate) use ground::{Ground, Lies};
pub(crate) use settling::Settling;
