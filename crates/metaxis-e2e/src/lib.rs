//! What browser tests share: a server with the small shoot, and a real Chromium on its page.

mod browser;
mod day;
mod ear;
pub mod frames;
mod playback;
mod prepared;
mod round;
mod site;
mod sound_breaks;

pub use browser::Browser;
pub use day::{clip_of, start_of};
pub use ear::EAR;
pub use playback::{Figures, expected_numbers, measure, read_large, read_numbers};
pub use prepared::{at_prepared, at_prepared_of};
pub use round::{Presses, round_by_keyboard};
pub use site::{Site, media_of};
pub use sound_breaks::Heard;
