//! What listening found, kept with a pass so that it can be weighed again, and what a person set aside of it.

use crate::{App, error::ApiError};
use metaxis_core::{
    clip::ClipId,
    sync::{Aside, DayPlan, Evidence, Found},
};
use metaxis_store::PlacementView;
use serde::{Deserialize, Serialize};

/// What a pass rests on: what was found on each shoot day.
#[derive(Default, Serialize, Deserialize)]
pub(super) struct Findings {
    pub days: Vec<FoundDay>,
}

/// What was found on a day: between which clips, and for what plan.
#[derive(Serialize, Deserialize)]
pub(super) struct FoundDay {
    pub clips: Vec<ClipId>,
    pub plan: DayPlan,
    pub found: Found,
}

impl Findings {
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

/// Everything that is set aside in some placements, in the engine's numbers: places in `clips`.
pub(super) fn asides(clips: &[ClipId], placements: &[PlacementView]) -> Vec<Aside> {
    let index = |clip: i64| clips.iter().position(|own| own.0 == clip);
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
