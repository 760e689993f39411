//! The page, in a browser: one program, so that it is linked once and its tests share the machine.

mod against;
mod angles;
mod assembly;
mod bench;
mod films;
mod grid;
mod groups;
mod hear;
mod intake;
mod luts;
mod mend;
mod over;
mod places;
mod read;
mod removed;
mod sheet;
mod sound;
mod switch;
mod units;
mod walk;
