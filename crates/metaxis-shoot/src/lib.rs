//! Simulated shoots: a stand-in for cameras, recorders, timecode boxes and slates with chosen faults.
//!
//! A [`Scenario`] says what happened and who recorded it; [`shoot`] writes real media files and, beside
//! them, the truth about when each really began. The same scenario and seed make the same files.

pub mod field;
mod files;
mod heard;
mod kept;
mod large;
mod picture;
mod render;
mod scenario;
mod sound;
mod truth;

pub use heard::{later, true_sound};
pub use kept::{copy_folder, folder_of_run};
pub use large::{large_day, long_take};
pub use picture::{CODE_BITS, CodeStrip, read_code};
pub use render::{ShootProgress, made_once, shoot};
pub use scenario::{
    AudioTimecode, ClipPlan, Container, DevicePlan, Extra, FileTimecode, Loss, PicturePlan, Programme,
    Scenario, ScenePlan, SignalPlan, SlatePlan, SpeechPlan, View,
};
pub use sound::{Interpolator, SPEED_OF_SOUND, TimecodeBox, WORLD_RATE};
pub use truth::{Truth, TruthClip, TruthSegment};
