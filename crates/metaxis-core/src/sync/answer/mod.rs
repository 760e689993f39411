//! What the engine answers with: places in stretches, verdicts, evidence, reasons; and the report of it all.

mod breaks;
mod evidence;
mod island;
mod placement;
mod reason;
mod report;
mod stretch;
mod verdict;

pub use breaks::{Break, BreakEdit, BreakError, breaks};
pub use evidence::{Alternative, Evidence, EvidenceKind, Residual};
pub use island::Island;
pub use placement::Placement;
pub use reason::{Heard, LabelStands, OtherSpeed, Reason, SlateSays};
pub use report::{
    ClipReport, ComponentReport, EvidenceReport, GroupAngleReport, GroupReport, REPORT_SCHEMA, SegmentReport,
    Skipped, SyncReport, Timing, Warning,
};
pub use stretch::{Stretch, joined, runs};
pub(crate) use stretch::{axis_to_clip, length_s, stretch_at};
pub use verdict::{Signs, Verdict};
