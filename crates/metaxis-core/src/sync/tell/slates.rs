//! What a clip's slates say.

use crate::sync::{
    answer::{Reason, SlateSays},
    labels::{OTHER_CLAP_S, distance_m},
    settle::{Laid, Settling},
};

/// Slates that part by less say the same, seconds.
const AGREES_S: f64 = 0.03;

/// The facts, slate by slate where they part.
pub(super) fn said_of_slates(day: &Settling, clip: usize) -> Vec<Reason> {
    let marks = day.laid_marks(clip);
    if day.grounds[clip].is_slate() {
        return vec![Reason::BySlates(marks.len())];
    }
    let late_s = |mark: &Laid| day.late_s(clip, mark) - day.travel_s(clip);
    if marks.len() > 1 && marks.iter().all(|mark| late_s(mark).abs() < AGREES_S) {
        return vec![Reason::SlatesAgree(marks.len())];
    }
    let at_s = |mark: &Laid| (marks.len() > 1).then_some(mark.pair.picture_s);
    marks.iter().map(|mark| Reason::Slate { at_s: at_s(mark), says: says(late_s(mark)) }).collect()
}

/// What a slate says that puts its clip so much later than its sound does.
fn says(late_s: f64) -> SlateSays {
    if late_s.abs() > OTHER_CLAP_S {
        SlateSays::OtherClap(late_s)
    } else if let Some(metres) = distance_m(late_s) {
        SlateSays::Heard { late_s, metres }
    } else if late_s.abs() < AGREES_S {
        SlateSays::Same
    } else {
        SlateSays::Later(late_s)
    }
}
