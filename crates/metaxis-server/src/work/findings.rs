//! What listening found, kept with a pass so that it can be weighed again, and what a person set aside of it.

use crate::{App, error::ApiError, heard_day::Listened};
use metaxis_core::{
    clip::ClipId,
    sync::{Aside, DayPlan, Evidence, Found},
};
use metaxis_store::PlacementView;
use serde::{Deserialize, Serialize};

/// What a pass rests on: what was found, between which clips, and for what plan.
#[derive(Serialize, Deserialize)]
pub(super) struct Findings {
    pub clips: Vec<ClipId>,
    pub plan: DayPlan,
    pub found: Found,
}

impl Findings {
    /// Of a pass whose axis the clip `origin` starts.
    pub fn new(listened: &[Listened], plan: DayPlan, origin: usize, found: Found) -> Self {
        let clips = listened.iter().map(|clip| clip.id).collect();
        Self { clips, plan: DayPlan { origin: Some(origin), ..plan }, found }
    }

    /// Keeps it with a pass.
    pub fn keep(&self, app: &App, number: u32) -> Result<(), ApiError> {
        let document = postcard::to_stdvec(self).map_err(|e| ApiError::Refused(e.to_string()))?;
        Ok(app.store.keep_found(number, &document)?)
    }

    /// What the shown pass rests on; nothing where it was made by an older program, or is long past.
    pub fn shown(app: &App) -> Result<Option<Self>, ApiError> {
        Ok(app.store.found()?.and_then(|document| postcard::from_bytes(&document).ok()))
    }
}

/// Everything that is set aside in some placements, in the engine's numbers.
pub(super) fn asides(listened: &[Listened], placements: &[PlacementView]) -> Vec<Aside> {
    let index = |clip: i64| listened.iter().position(|own| own.id.0 == clip);
    let of = |placed: &PlacementView| {
        let clip = index(placed.clip.0)?;
        let aside = placed.placement.evidence.iter().filter(|evidence| evidence.aside);
        let one = |evidence: &Evidence| {
            let against = match evidence.against {
                Some(other) => Some(index(other as i64)?),
                None => None,
            };
            Some(Aside { clip, kind: evidence.kind, against })
        };
        Some(aside.filter_map(one).collect::<Vec<_>>())
    };
    placements.iter().filter_map(of).flatten().collect()
}
