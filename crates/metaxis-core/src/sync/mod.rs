//! From sounds to placements: evidence, drift, breaks, verdicts.
//!
//! A staircase: each stage knows those above it in this list alone. `answer` and `input` are what goes out and in;
//! `pair` lays one sound along another; `find` looks for every clip in the others; `solve` lays all of them out together
//! and solves for positions and rates at once; `labels` reads timecode, clocks and slates; `judge` says how far a place is
//! to be believed; `settle` decides what each clip stands on and is the last to move any; `tell` puts it in words.
//! [`place_day`] reads as that list.

mod answer;
mod day;
mod days;
mod find;
mod input;
mod judge;
mod labels;
mod pair;
mod settle;
mod solve;
mod tell;
#[cfg(test)]
mod trial;

pub use answer::{
    Alternative, Break, BreakEdit, BreakError, ClipReport, ComponentReport, Evidence, EvidenceKind,
    EvidenceReport, GroupAngleReport, GroupReport, Island, Placement, REPORT_SCHEMA, Residual, SegmentReport,
    Signs, Skipped, Stretch, SyncReport, Timing, Verdict, Warning, breaks, joined, runs,
};
pub use day::{DayError, Found, find_day, place_day, weigh_day};
pub use days::{DaysAxis, PlacedDay, join_days, shoot_days};
pub use input::{
    Arrival, Aside, DayClip, DayPlan, Effort, Flow, GivenDistance, HeardSound, Label, Mode, SOUND_M_PER_S,
    SampleSource, SlateMark, Step, TakenOff, axis_origin, labels, pick_reference,
};
pub use labels::{ClockTrust, DeviceClock, SeenClap, ShownDistance, look_around, seen_clap, seen_distances};
pub use pair::{
    Aligner, Alignment, Along, Bend, CheckPoint, Density, LocalOffset, Needle, Passage, Piece, PieceFit,
    check_points, fit_pieces, needle,
};
pub use solve::DeviceRate;
pub use tell::{Changed, ClockNote, DayResult, clock_notes, compare, component_at, keep_beside, place_near};
