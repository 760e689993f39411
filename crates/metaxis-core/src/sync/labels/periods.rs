//! Timecode that was set anew in the middle of the day: each part of the day has an offset of its own.

use crate::{sync::input::Label, time::wrapped};

/// Set anew by more than this, one clip shows it; by less, it takes two: one that slipped is none, seconds.
const FAR_S: f64 = 60.0;
/// A counter is not set anew more often in a day.
const MOST: usize = 4;

/// A label of a clip.
pub(crate) type Labelled = (usize, Label);

/// The clips of a device with their labels, a list for each time it was set; one where it was not. `placed` gives a
/// clip's start on the axis where sound is sure of it. Clips that sound has not placed go with the label nearest to theirs.
/// Offsets of one time lie within `tolerance_s`.
pub(super) fn periods(
    labelled: &[Labelled],
    placed: &dyn Fn(usize) -> Option<f64>,
    tolerance_s: f64,
) -> Vec<Vec<Labelled>> {
    let whole = || vec![labelled.to_vec()];
    let mut points: Vec<(f64, f64, Labelled)> = labelled
        .iter()
        .filter_map(|own| placed(own.0).map(|axis_s| (axis_s, wrapped(own.1.time_s - axis_s), *own)))
        .collect();
    points.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut runs: Vec<(f64, Vec<Labelled>)> = vec![];
    for (_, late_s, own) in points {
        match runs.last_mut() {
            Some((first_s, run)) if wrapped(late_s - *first_s).abs() <= tolerance_s => run.push(own),
            _ => runs.push((late_s, vec![own])),
        }
    }
    let far = |i: usize| {
        let apart = |other: usize| runs.get(other).map(|run| wrapped(run.0 - runs[i].0).abs());
        [i.checked_sub(1).and_then(apart), apart(i + 1)].into_iter().flatten().all(|by_s| by_s > FAR_S)
    };
    // Nor is one that lies out of order: its sound may be wrong.
    let in_order = |i: usize| {
        let own = runs[i].1[0].0;
        let all = |from: usize, to: usize| {
            runs[from..to].iter().flat_map(|(_, run)| run.iter().map(|other| other.0))
        };
        all(0, i).all(|other| other < own) && all(i + 1, runs.len()).all(|other| other > own)
    };
    let stands = |i: usize| runs[i].1.len() > 1 || far(i) && in_order(i);
    // What counts only while recording has another offset for every clip.
    let several = runs.iter().any(|(_, run)| run.len() > 1);
    if runs.len() < 2 || runs.len() > MOST || !several || !(0..runs.len()).all(stands) {
        return whole();
    }
    let mut all: Vec<Vec<Labelled>> = runs.into_iter().map(|(_, run)| run).collect();
    let away_s = |run: &[Labelled], label: &Label| {
        run.iter().map(|own| wrapped(own.1.time_s - label.time_s).abs()).fold(f64::MAX, f64::min)
    };
    for own in labelled.iter().filter(|own| placed(own.0).is_none()) {
        let nearest =
            (0..all.len()).min_by(|&a, &b| away_s(&all[a], &own.1).total_cmp(&away_s(&all[b], &own.1)));
        if let Some(run) = nearest {
            all[run].push(*own);
        }
    }
    all
}
