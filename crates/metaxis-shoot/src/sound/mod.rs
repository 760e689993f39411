//! What is to be heard: sources in true time, rooms, devices.

mod device;
mod interpolate;
mod room;
mod timecode;
mod world;

pub(crate) use device::AutomaticGain;
pub use device::{record, true_time};
pub use interpolate::Interpolator;
pub(crate) use room::convolve;
pub use timecode::TimecodeBox;
pub use world::{World, sources};

/// Samples per second of true time.
pub const WORLD_RATE: u32 = 48_000;
/// Metres per second at 20 °C (331.3 + 0.606·T).
pub const SPEED_OF_SOUND: f64 = 331.3 + 0.606 * 20.0;
