//! The page, in a browser: one program, so that it is linked once and its tests share the machine.

mod against;
mod angles;
mod bench;
mod grid;
mod groups;
mod hear;
mod intake;
mod places;
mod sheet;
mod sound;
mod units;
mod walk;
