//! The rules of syncing, grouping and cutting multi-camera footage, and their computation.
//!
//! Nothing here opens a file, waits or talks to a person. Samples and facts go in, results come out:
//!
//! - [`time`]: rational frame rates, timecode, exact ticks; units as types.
//! - [`intake`]: devices, spans, the slate log and health notes, from what the files say.
//! - [`signal`]: what is measured from sound: band features, correlation, channel state, waveform levels.
//! - [`ltc`]: audio timecode, decoded.
//! - [`sync`]: from sounds to placements with evidence, verdict and confidence.
//! - [`sound`]: sound corrected to another clip's clock, sample by sample.
//! - [`review`]: what a finished pass says of a whole day.
//! - [`group`]: multicam groups proposed from placements.
//! - [`line`]: the switched programme of a group and its reversible edits.
//! - [`lut`]: viewing LUTs, and how pictures differ in brightness and light.
//! - [`names`]: names by a pattern, and told apart.
//! - [`turnover`]: open documents (OpenTimelineIO, SMPTE ST 258 lists) as bytes.

pub mod assembly;
pub mod clip;
pub mod film;
pub mod group;
pub mod intake;
pub mod line;
pub mod ltc;
pub mod lut;
pub mod names;
pub mod picture;
pub mod review;
pub mod signal;
pub mod sound;
pub mod sync;
pub mod time;
pub mod turnover;
