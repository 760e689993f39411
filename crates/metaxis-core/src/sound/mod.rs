//! Sound corrected to another clock and laid onto pictures: which of its samples belong to each moment, and what they are worth.
//!
//! - [`course`]: a sound's way along another clip's clock, in legs at a steady pace.
//! - [`propose`]: how a clip is best corrected, with its reason; [`left`], [`recut`] and [`filled`] make its course anew.
//! - [`by_cable`]: a course laid anew where one signal went to both.
//! - [`lay`]: which recordings and channels run under a picture, as tracks.
//! - [`Grid`]: which of them go to which outputs; [`Mixdown`]: what comes out there.
//! - [`plan_sound`]: the sound of one file that is to be made, and [`SoundReport`] what became of it.
//! - [`Render`]: the samples themselves, band-limited and exact over hours; [`Tracks`]: those of all that is laid.

mod by_cable;
mod choice;
mod correction;
mod course;
mod grid;
mod habit;
mod kernel;
mod lay;
mod mixdown;
mod plan;
mod quiet;
mod ratio;
mod render;
mod report;
mod stems;
mod tracks;
mod treat;

pub use by_cable::by_cable;
pub use choice::{NamedFor, PATTERN_WORDS, TrackChoice, TrackKey, names_its_own, track_names, unknown_word};
pub use correction::{Correction, Fill, Proposal, propose, propose_along};
pub use course::{Leg, Rates, course};
pub use grid::{Crosspoint, Ear, Grid, GridChange, GridError, GridOutput};
pub use habit::{
    Container, Depth, GroupTracks, Layout, NamedGrid, OwnSound, SoundChange, SoundForm, SoundHabit,
};
pub use lay::{Along, Hole, Laid, LaidSource, Recording, Track, lay};
pub use mixdown::{Mixdown, Turn};
pub use plan::{Handling, SoundPlan, Treatment, picture_range, plan_sound, time_reference};
pub use render::{Render, Samples};
pub use report::{
    HoleReport, MadeReport, MadeState, SOUND_REPORT_SCHEMA, SoundReport, SourceReport, TrackReport,
};
pub use stems::{Stems, stem};
pub use tracks::{Chain, Tracks};
pub use treat::{filled, left, recut};
