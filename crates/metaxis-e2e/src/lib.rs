//! What browser tests share: a server with the small shoot, and a real Chromium on its page.

mod browser;
mod day;
mod playback;
mod prepared;
mod site;

pub use browser::Browser;
pub use day::{clip_of, start_of};
pub use playback::{Figures, expected_numbers, measure, read_numbers};
pub use prepared::at_prepared;
pub use site::{Site, media_of};
