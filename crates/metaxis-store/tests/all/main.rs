//! What is kept: one program, so that it is linked once and its tests share the machine.

#[path = "../common/mod.rs"]
mod common;

mod edits;
mod films;
mod intake;
mod keeping;
mod passes;
mod round;
