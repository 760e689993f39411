//! From sounds to placements: evidence, drift, breaks, verdicts.
//!
//! [`place_day`] is the whole of it; the parts stand alone for tests and benches.

mod align;
mod anchor;
mod candidates;
mod day;
mod pieces;
mod placement;
mod report;
mod sound;
mod verdict;

pub use align::{Aligner, Alignment, Effort};
pub use candidates::Search;
pub use day::{DayClip, DayError, DayPlan, DayResult, Flow, pick_reference, place_day};
pub use pieces::{LocalOffset, Piece, PieceFit, fit_pieces};
pub use placement::{Alternative, Evidence, EvidenceKind, Placement, Residual, Stretch, Verdict};
pub use report::{
    ClipReport, EvidenceReport, GroupAngleReport, GroupReport, REPORT_SCHEMA, SegmentReport, Skipped,
    SyncReport, Timing, Warning,
};
pub use sound::{HeardSound, SampleSource};
