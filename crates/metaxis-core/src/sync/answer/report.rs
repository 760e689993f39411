//! The sync report (`metaxis.sync-report/1`).

use super::{
    evidence::{Alternative, EvidenceKind},
    island::Island,
    placement::Placement,
    stretch::Stretch,
    verdict::Verdict,
};
use crate::clip::NoteCode;
use serde::{Deserialize, Serialize};

/// Value of the report's `schema`.
pub const REPORT_SCHEMA: &str = "metaxis.sync-report/1";

/// A whole report. Times are seconds on the axis of the component's own reference clip, which begins at 0.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct SyncReport {
    pub schema: String,
    pub reference: String,
    pub mode: String,
    /// Where each component lies on the day.
    #[serde(default)]
    pub days: Vec<ComponentReport>,
    pub clips: Vec<ClipReport>,
    pub groups: Vec<GroupReport>,
    pub skipped: Vec<Skipped>,
    pub warnings: Vec<Warning>,
    pub timing: Timing,
}

/// Where a component lies on the day: seconds of the day at its zero, `None` where nothing says.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct ComponentReport {
    pub component: u32,
    /// Path of the clip whose clock is the component's axis.
    pub reference: String,
    pub day_start_s: Option<f64>,
    pub sigma_s: Option<f64>,
    pub by: Option<EvidenceKind>,
}

impl ComponentReport {
    /// The row of a component; `paths` turns clip numbers into paths.
    pub fn new(island: &Island, paths: &[String]) -> Self {
        Self {
            component: island.component,
            reference: paths.get(island.reference).cloned().unwrap_or_default(),
            day_start_s: island.day_start_s,
            sigma_s: island.sigma_s,
            by: island.by,
        }
    }
}

/// One clip.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct ClipReport {
    pub path: String,
    /// The folder that `path` is below, where there are several.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub root: Option<String>,
    pub device: String,
    pub duration_s: f64,
    pub status: Verdict,
    pub confidence: f64,
    pub component: u32,
    /// Share of what sound compared that agreeing windows cover.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub covered: Option<f64>,
    pub segments: Vec<SegmentReport>,
    pub evidence: Vec<EvidenceReport>,
    pub alternatives: Vec<Alternative>,
    pub reasons: Vec<String>,
}

/// One stretch of a clip.
pub type SegmentReport = Stretch;

/// One reason for a position; `against` is a path.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct EvidenceReport {
    pub kind: EvidenceKind,
    pub against: Option<String>,
    pub start_s: f64,
    pub sigma_s: f64,
    pub score: f64,
    pub used: bool,
    pub disagrees_by_s: f64,
}

/// One proposed group.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct GroupReport {
    pub name: String,
    pub component: u32,
    pub start_s: f64,
    pub end_s: f64,
    pub angles: Vec<GroupAngleReport>,
}

/// One angle of a group.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct GroupAngleReport {
    pub device: String,
    pub clips: Vec<String>,
}

/// A file that takes no part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Skipped {
    pub path: String,
    /// The folder that `path` is below, where there are several.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub root: Option<String>,
    pub why: String,
}

/// Something a person should know about a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Warning {
    pub path: String,
    /// The folder that `path` is below, where there are several.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub root: Option<String>,
    pub code: NoteCode,
    pub message: String,
}

/// Where the time went, seconds.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[allow(missing_docs)]
pub struct Timing {
    pub probe_s: f64,
    pub listen_s: f64,
    pub match_s: f64,
    /// Looking at pictures for what their microphones heard.
    #[serde(default)]
    pub look_s: f64,
    pub solve_s: f64,
    pub total_s: f64,
}

impl ClipReport {
    /// The report of one clip; `paths` turns the placement's clip numbers into paths, `zero_s` is where its component's
    /// own seconds begin on the axis.
    pub fn new(
        path: String,
        device: String,
        duration_s: f64,
        placement: &Placement,
        zero_s: f64,
        paths: &[String],
    ) -> Self {
        let counted = |stretch: &Stretch| Stretch { start_s: stretch.start_s - zero_s, ..*stretch };
        Self {
            path,
            root: None,
            device,
            duration_s,
            status: placement.verdict,
            confidence: placement.confidence,
            component: placement.component,
            covered: placement.covered,
            segments: placement.stretches.iter().map(counted).collect(),
            evidence: placement
                .evidence
                .iter()
                .map(|e| EvidenceReport {
                    kind: e.kind,
                    against: e.against.and_then(|i| paths.get(i).cloned()),
                    start_s: e.start_s - zero_s,
                    sigma_s: e.sigma_s,
                    score: e.score,
                    used: e.used,
                    disagrees_by_s: e.disagrees_by_s,
                })
                .collect(),
            alternatives: placement
                .alternatives
                .iter()
                .map(|other| Alternative { start_s: other.start_s - zero_s, ..*other })
                .collect(),
            reasons: placement.reasons.clone(),
        }
    }
}
