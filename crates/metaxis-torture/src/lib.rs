//! Does to a running Metaxis what days on a set do to it: kills, power cuts, strange files, slow networks, impatience.
//! Each trial says what it tried and counts what was lost or hung.

mod corpus;
mod disk;
mod edits;
mod full;
mod kills;
mod many;
mod memory;
mod power;
mod served;
mod slow;
mod soak;
mod stops;
mod wave;

pub use corpus::{Corpus, corpus};
pub use edits::Known;
pub use full::{FullDisks, full_disks};
pub use kills::{Kills, kills};
pub use many::{Many, many};
pub use power::{PowerCuts, power_cuts};
pub use served::{Plan, Served, production};
pub use slow::{Slow, slow};
pub use soak::{Soak, soak};
pub use stops::{Stops, stops};
