//! What a clip's labels have to say about its place.

use crate::sync::{
    answer::Reason,
    labels::LabelPlace,
    settle::{Ground, Settling},
};

/// The facts, in the order in which they are told.
pub(super) fn said_of_labels(day: &Settling, clip: usize) -> Vec<Reason> {
    match &day.grounds[clip] {
        Ground::Label { place, own: true, .. } => {
            place.firmly(!day.clips[clip].is_heard()).into_iter().collect()
        }
        Ground::Label { own: false, .. } => vec![],
        Ground::Sound { chosen_by, island_by } => {
            let chosen = chosen_by.map(Reason::LabelChose);
            let others = if island_by.is_some() { vec![] } else { said_of_timecodes(day, clip) };
            chosen.into_iter().chain(others).collect()
        }
        _ => said_of_timecodes(day, clip),
    }
}

/// What each timecode of a clip says of the place it has.
fn said_of_timecodes(day: &Settling, clip: usize) -> Vec<Reason> {
    let start_s = day.layout.maps[clip][0].start_s;
    let said = |label: &LabelPlace| {
        let (kind, later_s) = (label.kind, start_s - label.start_s);
        match label.agrees(start_s) {
            true => (label.measured > 1).then_some(Reason::LabelAgrees(kind)),
            false => Some(Reason::LabelOff { kind, later_s, frame_s: label.unit_s }),
        }
    };
    day.told[clip].iter().filter(|label| label.is_timecode()).filter_map(said).collect()
}
