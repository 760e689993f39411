//! What browser tests share: a server with the small shoot, and a real Chromium on its page.

mod browser;
mod playback;
mod site;

pub use browser::Browser;
pub use playback::{Figures, expected_numbers, measure, read_numbers};
pub use site::{Site, media_of};
