//! The core on what is known: one program, so that it is linked once and its tests share the machine.

#[path = "../common/mod.rs"]
mod common;
#[path = "../hearing/mod.rs"]
mod hearing;

mod assembly;
mod bends;
mod clock_notes;
mod ends;
mod film;
mod first_cut;
mod group;
mod health;
mod hostile;
mod intake;
mod islands;
mod jammed;
mod labels;
mod line;
mod logs;
mod made;
mod needle;
mod phase;
mod placement;
mod read;
mod signal;
mod slates;
mod sync;
mod time;
mod turnover;
