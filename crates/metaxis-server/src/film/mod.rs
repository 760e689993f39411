//! Films that are made of a day: lines, walls, angles, clips and assemblies as files of pictures and sound, the same for the page and for the
//! command.
//!
//! - [`FilmPlan`]: what one is made of, worked out of a day's turnover; [`make`] makes it.

mod copies;
mod heard;
mod make;
mod plan;
mod reel;
mod wanted;

pub use heard::sound_of_part;
pub use make::make;
pub use plan::{FilmPlan, can_be_made, told};
pub use wanted::{FilmsOf, Wanted};
