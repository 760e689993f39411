//! Films that are made of a day: lines, walls, angles and clips as files of pictures and sound, the same for the page and for the
//! command.
//!
//! - [`FilmPlan`]: what one is made of, worked out of a day's turnover; [`make`] makes it.

mod copies;
mod make;
mod plan;
mod reel;

pub use make::make;
pub use plan::{FilmPlan, FilmsOf, Wanted, can_be_made, told};
