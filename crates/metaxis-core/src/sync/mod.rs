//! From sounds to placements: evidence, drift, breaks, verdicts.
//!
//! [`place_day`] is the whole of it: `sweep` finds coarse places by patterns, `examine` and [`Aligner`] measure them,
//! `graph` puts all clips together, `adjust` solves for positions and rates at once, `rates` lends what a device's long
//! clips know to its short ones, `verdict` and `outcome` say how far to trust it and why.

mod adjust;
mod align;
mod arrival;
mod bend;
mod beside;
mod breaks;
mod by_label;
mod by_slate;
mod channels;
mod clock_notes;
mod clocks;
mod compare;
mod component;
mod contrast;
mod course;
mod coverage;
mod day;
mod distance;
mod duel;
mod ends;
mod examine;
mod follow;
mod graph;
mod input;
mod islands;
mod labels;
mod line;
mod link;
mod lost;
mod moved;
mod moves;
mod outcome;
mod periods;
mod pieces;
mod placement;
mod rates;
mod referee;
mod repeats;
mod report;
mod seen;
mod segments;
mod siblings;
mod slates;
mod sound;
mod speeds;
mod sweep;
mod timed;
mod tools;
mod verdict;
mod waves;
mod windows;

pub use align::{Aligner, Alignment, Effort, Part};
pub use beside::{component_at, keep_beside};
pub use clock_notes::{ClockNote, clock_notes};
pub use clocks::{ClockTrust, DeviceClock};
pub use compare::{Changed, compare};
pub use component::Island;
pub use course::Bend;
pub use day::{DayError, DayResult, place_day, place_near};
pub use distance::{GivenDistance, SOUND_M_PER_S, ShownDistance};
pub use input::{Arrival, DayClip, DayPlan, Flow, Mode, Search, Step, pick_reference};
pub use labels::{FramesOff, Label, labels};
pub use pieces::{LocalOffset, Piece, PieceFit, fit_pieces};
pub use placement::{
    Alternative, Evidence, EvidenceKind, Placement, Residual, Signs, Stretch, Verdict, joined, runs,
};
pub use rates::DeviceRate;
pub use report::{
    ClipReport, ComponentReport, EvidenceReport, GroupAngleReport, GroupReport, REPORT_SCHEMA, SegmentReport,
    Skipped, SyncReport, Timing, Warning,
};
pub use seen::{SeenClap, look_around, seen_clap, seen_distances};
pub use slates::SlateMark;
pub use sound::{HeardSound, SampleSource};
