//! Who heard the same as whom: every clip in the others, coarsely by patterns, then measured; what comes of it are links.

mod at_speed;
mod channels;
mod examine;
mod link;
mod lost;
mod moves;
mod repeats;
mod rounds;
mod segments;
mod speeds;
mod sweep;
mod tools;

pub(crate) use examine::{examine, examine_near};
pub(crate) use link::{ECHO_S, Link, RIVAL, SAME_PLACE_S};
pub(crate) use moves::FARTHEST_S;
pub(crate) use rounds::{Finder, SETTLED};
pub(crate) use speeds::why_at;
pub(crate) use sweep::Coarse;
pub(crate) use tools::Tools;
