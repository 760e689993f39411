//! Components: clips whose places can be compared with each other.

use super::evidence::EvidenceKind;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A component: clips whose places can be compared with each other, and where it lies on the day.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Island {
    /// Number of the component; 0 is that of the reference clip that starts the axis.
    pub component: u32,
    /// The clip whose clock is the component's axis, as the caller names it.
    #[ts(type = "number")]
    pub reference: usize,
    /// Where the first of its seconds lies on the axis: the start of that clip, seconds.
    pub zero_s: f64,
    /// How well that is known, seconds; `None` where nothing says when the island ran: it is then put behind all others.
    pub sigma_s: Option<f64>,
    /// What says so.
    pub by: Option<EvidenceKind>,
    /// Seconds of the day at `zero_s`, where a label tells.
    pub day_start_s: Option<f64>,
}
