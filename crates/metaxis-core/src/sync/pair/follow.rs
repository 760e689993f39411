//! The rough course of a long clip: the path through the correlations of all its windows on which most agrees, where
//! clocks may bend as crystals do and samples may be lost.
//!
//! The best path by dynamic programming (Viterbi 1967): states are lags in cells of a quarter of a millisecond.

use super::{
    course::{Bend, Course},
    line::RoughLine,
    windows::Look,
};
use crate::signal::scaled_median;
use crate::sync::input::RATE;

/// Samples of a cell.
const CELL: usize = 4;
const CELL_S: f64 = CELL as f64 / RATE;
/// Heights above this say no more.
const CAP: f32 = 8.0;
/// What a cell more than a crystal bends in that time costs, in heights, and any cell: noise is not followed, and a loss
/// is a jump, not a quick bend.
const TURN: f32 = 3.0;
const ANY: f32 = 0.3;
/// What a crystal may bend, usually.
const USUAL: f64 = 20e-6;
/// What a jump costs: several windows must ask for it.
const JUMP: f32 = 24.0;
/// Clocks part by this, at most, from the slope they started with.
const STEEPEST: f64 = 45e-6;
/// Windows of a median along the path.
const SMOOTH: usize = 9;
/// A path that departs from a straight line by less than this has no bend to speak of, seconds.
const STRAIGHT_S: f64 = 0.25e-3;

/// The course that `looks` show around `course`, with a bend if there is one. `None` where they hold too little.
pub(super) fn follow(looks: &[Look], course: &Course) -> Option<Course> {
    let path = best_path(looks, course.line.sign)?;
    // Jumps are losses; what is left is the clock.
    let mut lost = 0.0;
    let mut points: Vec<(f64, f64)> = vec![];
    for (i, (look, cell)) in looks.iter().zip(&path).enumerate() {
        if i > 0 {
            let step = (*cell as f64 - path[i - 1] as f64) * CELL_S;
            if step.abs() > allowed(look.clip_s - looks[i - 1].clip_s) as f64 * CELL_S {
                lost += step;
            }
        }
        let middle = (look.lags.len() / (2 * CELL)) as f64;
        let beside = (*cell as f64 - middle) * CELL_S;
        points.push((look.clip_s, look.offset as f64 / RATE + beside - lost));
    }
    let (offset_s, slope) = straight(&points);
    let line = RoughLine { offset_s, slope, ..course.line };
    let rest: Vec<(f64, f64)> = points.iter().map(|(at, offset)| (*at, offset - line.at(*at))).collect();
    let knots: Vec<(f64, f64)> = rest
        .chunks(SMOOTH)
        .map(|chunk| {
            let mut values: Vec<f64> = chunk.iter().map(|point| point.1).collect();
            values.sort_by(f64::total_cmp);
            (chunk.iter().map(|point| point.0).sum::<f64>() / chunk.len() as f64, values[values.len() / 2])
        })
        .collect();
    let largest = knots.iter().map(|knot| knot.1.abs()).fold(0.0, f64::max);
    let bend = if largest > STRAIGHT_S && knots.len() > 2 { Bend::new(knots) } else { Bend::default() };
    Some(Course { line, bend })
}

/// Cells that a path may move within so many seconds without a jump.
fn allowed(seconds: f64) -> usize {
    (STEEPEST * seconds / CELL_S).ceil() as usize + 1
}

/// The cell of each look on the best path.
fn best_path(looks: &[Look], sign: f32) -> Option<Vec<usize>> {
    let cells = looks.first()?.lags.len() / CELL;
    let mut score = vec![0.0_f32; cells];
    let mut from: Vec<Vec<u16>> = Vec::with_capacity(looks.len());
    for (i, look) in looks.iter().enumerate() {
        let apart = if i == 0 { 0.0 } else { look.clip_s - looks[i - 1].clip_s };
        let (reach, usual) = (allowed(apart), (USUAL * apart / CELL_S) as f32);
        let turn = |cells: usize| ANY * cells as f32 + TURN * (cells as f32 - usual).max(0.0);
        let best = (0..cells).max_by(|&a, &b| score[a].total_cmp(&score[b]))?;
        let mut next = vec![0.0_f32; cells];
        let mut came = vec![0_u16; cells];
        for cell in 0..cells {
            let (mut top, mut source) = (score[best] - JUMP, best);
            let (low, high) = (cell.saturating_sub(reach), (cell + reach).min(cells - 1));
            for (near, before) in score[low..=high].iter().enumerate() {
                let value = before - turn((low + near).abs_diff(cell));
                if value > top {
                    (top, source) = (value, low + near);
                }
            }
            (next[cell], came[cell]) = (top, source as u16);
        }
        let heights: Vec<f32> =
            look.lags.chunks_exact(CELL).map(|cell| highest(cell, sign).min(CAP)).take(cells).collect();
        let mean = heights.iter().sum::<f32>() / cells as f32;
        for (value, height) in next.iter_mut().zip(&heights) {
            *value += height - mean;
        }
        score = next;
        from.push(came);
    }
    let mut cell = (0..cells).max_by(|&a, &b| score[a].total_cmp(&score[b]))?;
    let mut path = vec![cell; looks.len()];
    for i in (1..looks.len()).rev() {
        cell = usize::from(from[i][cell]);
        path[i - 1] = cell;
    }
    Some(path)
}

fn highest(cell: &[f32], sign: f32) -> f32 {
    cell.iter().map(|value| value * sign).fold(f32::MIN, f32::max)
}

/// The straight line through most points, by least squares with those beyond three robust deviations left out.
fn straight(points: &[(f64, f64)]) -> (f64, f64) {
    let mut kept: Vec<(f64, f64)> = points.to_vec();
    let mut line = (0.0, 0.0);
    for _ in 0..3 {
        let count = kept.len().max(1) as f64;
        let (x0, y0) =
            kept.iter().fold((0.0, 0.0), |sum, point| (sum.0 + point.0 / count, sum.1 + point.1 / count));
        let sxx: f64 = kept.iter().map(|point| (point.0 - x0).powi(2)).sum();
        let sxy: f64 = kept.iter().map(|point| (point.0 - x0) * (point.1 - y0)).sum();
        let slope = if sxx > 0.0 { sxy / sxx } else { 0.0 };
        line = (y0 - slope * x0, slope);
        let away = |point: &(f64, f64)| (point.1 - line.0 - line.1 * point.0).abs();
        let mut sizes: Vec<f64> = points.iter().map(away).collect();
        let limit = (3.0 * scaled_median(&mut sizes).unwrap_or(0.0)).max(0.5e-3);
        kept = points.iter().copied().filter(|point| away(point) <= limit).collect();
    }
    line
}
