//! Measuring the sync engine: kinds of shoots, their truth, and what became of them.

mod apart;
mod card;
mod channels;
mod counters;
mod ears;
mod kinds;
mod long;
mod peak;
mod rolling;
mod score;
mod shoot;
mod speed;
mod table;
mod troubles;
mod world;

pub use card::{Card, CardFile, CardPlan, decode_all, make_card};
pub use kinds::{KINDS, Kind};
pub use peak::watch;
pub use score::Tally;
pub use shoot::{Shoot, Take};
pub use speed::{DAY, Day, ONE_FILE, write_speed};
pub use table::table;

#[cfg(test)]
mod tests {
    mod trials;
    mod troubles;
}
