//! From a fit of pieces to stretches: breaks, bounds, what collapses.

use super::{
    course::Course,
    line::RoughLine,
    offset::LocalOffset,
    pieces::{Piece, PieceFit, STEP_S, best_slope},
    windows::NARROW,
};
use crate::sync::{answer::Stretch, input::RATE};

/// What echoes add to the standard deviation of a position where the murk is 0.1, seconds.
pub(super) const ECHO_SIGMA_S: f64 = 0.2e-3;

/// The course with another slope, where that gathers more and moves the far end by a millisecond.
pub(super) fn steeper(found: &[LocalOffset], course: &Course, span_s: f64) -> Option<Course> {
    let slope = best_slope(found, course.line.slope);
    if (slope - course.line.slope).abs() * span_s <= 1e-3 {
        return None;
    }
    let at = found.iter().max_by(|a, b| a.weight.total_cmp(&b.weight))?;
    Some(Course::straight(RoughLine { offset_s: at.offset_s - slope * at.clip_s, slope, ..course.line }))
}

/// A piece to which its breaks leave less than a window, between two that lie in one line: chance put it there. The piece
/// before it goes on in the one after it.
pub(super) fn collapsed(fit: &PieceFit, breaks: &[f64]) -> Option<usize> {
    (1..fit.pieces.len().saturating_sub(1)).find(|&i| {
        let apart = fit.pieces[i - 1].offset_s - fit.pieces[i + 1].offset_s;
        breaks[i] - breaks[i - 1] < NARROW.0 as f64 / RATE && apart.abs() < STEP_S
    })
}

/// The last moment that is surely of one piece and the first that is of the next: a window that agrees while its
/// neighbour on the piece's own side does not may do so by chance, a long way into the other piece.
pub(super) fn bounds(one: &Piece, next: &Piece, fit: &PieceFit, looked: &[f64]) -> (f64, f64) {
    let times = fit.residuals.iter().map(|residual| residual.0);
    let agrees = |at: f64, piece: &Piece| {
        (piece.first_s - 1e-6..=piece.last_s + 1e-6).contains(&at)
            && fit.residuals.iter().any(|(time, _)| (time - at).abs() < 1e-6)
    };
    let beside = |at: f64, later: bool| {
        let others = looked.iter().copied();
        if later {
            others.filter(|other| *other > at + 1e-6).fold(f64::MAX, f64::min)
        } else {
            others.filter(|other| *other < at - 1e-6).fold(f64::MIN, f64::max)
        }
    };
    let last_s = times
        .clone()
        .filter(|&at| agrees(at, one) && agrees(beside(at, false), one))
        .fold(f64::MIN, f64::max);
    let first_s =
        times.filter(|&at| agrees(at, next) && agrees(beside(at, true), next)).fold(f64::MAX, f64::min);
    (
        if last_s > f64::MIN { last_s } else { one.last_s },
        if first_s < f64::MAX { first_s } else { next.first_s },
    )
}

pub(super) fn middles_between(fit: &PieceFit) -> Vec<f64> {
    fit.pieces.windows(2).map(|pair| 0.5 * (pair[0].last_s + pair[1].first_s)).collect()
}

/// The stretches of the pieces, each cut where the clock's rate changes.
pub(super) fn stretches(fit: &PieceFit, breaks: &[f64], duration_s: f64) -> Vec<Stretch> {
    let mut all = vec![];
    for (i, piece) in fit.pieces.iter().enumerate() {
        let from = if i == 0 { 0.0 } else { breaks[i - 1] };
        let to = breaks.get(i).copied().unwrap_or(duration_s);
        let mut bounds = vec![from];
        bounds.extend(fit.bend.joints(from, to));
        bounds.push(to);
        let middle = 0.5 * (piece.first_s + piece.last_s);
        for pair in bounds.windows(2) {
            // offset(u) = level + slope·u and axis = start + u/(1+r), so 1/(1+r) = 1 + slope.
            let slope = fit.slope + fit.bend.slope_at(0.5 * (pair[0] + pair[1]));
            all.push(Stretch {
                clip_start_s: pair[0],
                clip_end_s: pair[1],
                start_s: pair[0] + fit.offset_s(piece, pair[0]),
                rate_ppm: (1.0 / (1.0 + slope) - 1.0) * 1e6,
                start_sigma_s: piece.sigma_s.hypot(fit.slope_sigma * (middle - pair[0])),
                rate_sigma_ppm: fit.slope_sigma * 1e6,
            });
        }
    }
    all
}
