//! The simulator's tests, one program: each file is linked once.

mod audio_timecode;
mod beats;
mod field;
mod large;
mod ltc_library;
mod shoot;
mod strikes;
mod takes;
