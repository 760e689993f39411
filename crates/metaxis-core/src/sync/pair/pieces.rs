//! A robust line through many local offsets, with steps where samples were lost.

use super::{
    bend::fit_bend,
    course::{Bend, Course},
    line::MAX_SLOPE,
    offset::LocalOffset,
};
use crate::signal::scaled_median;

/// One straight part between two breaks.
#[derive(Debug, Clone, PartialEq)]
pub struct Piece {
    /// Offset (reference minus clip time) extrapolated to clip time zero, seconds.
    pub offset_s: f64,
    /// Standard deviation of the offset at the piece's own middle, seconds.
    pub sigma_s: f64,
    /// Clip time of the first agreeing window.
    pub first_s: f64,
    /// Clip time of the last agreeing window.
    pub last_s: f64,
    /// Number of agreeing windows.
    pub windows: usize,
}

/// All pieces of a clip; one clock, so one slope and one bend.
#[derive(Debug, Clone, PartialEq)]
pub struct PieceFit {
    /// Pieces in time order; never empty.
    pub pieces: Vec<Piece>,
    /// Change of offset per second of clip time (−ppm·1e-6 to first order).
    pub slope: f64,
    /// Standard deviation of the slope.
    pub slope_sigma: f64,
    /// How the clock departs from that slope.
    pub bend: Bend,
    /// Sum of weights of agreeing windows.
    pub weight: f64,
    /// (clip time, measured − fitted) of agreeing windows, seconds.
    pub residuals: Vec<(f64, f64)>,
}

impl PieceFit {
    /// Windows that agree, over all pieces.
    pub fn agreeing(&self) -> usize {
        self.pieces.iter().map(|piece| piece.windows).sum()
    }

    /// Offset of a piece at a moment of the clip's own time, seconds.
    pub fn offset_s(&self, piece: &Piece, clip_s: f64) -> f64 {
        piece.offset_s + self.slope * clip_s + self.bend.at(clip_s)
    }
}

/// Steps smaller than this are none, seconds.
pub(crate) const STEP_S: f64 = 1.5e-3;
/// Two windows agree when they are this near one line, seconds.
const TOLERANCE_S: f64 = 1.2e-3;
/// Moments at which a split is tried at once.
const MOMENTS: usize = 320;
/// A break must save this many windows: keeps the number of pieces honest.
const PIECE_COST: usize = 4;

/// Fits pieces to `windows` (in time order) whose slope is near `slope`. `None` where no two windows agree.
pub fn fit_pieces(windows: &[LocalOffset], slope: f64) -> Option<PieceFit> {
    if windows.len() < 2 {
        return None;
    }
    let flat: Vec<f64> = windows.iter().map(|w| w.offset_s - slope * w.clip_s).collect();
    let mut bounds = vec![];
    split(&flat, 0, &mut bounds);
    bounds.push(flat.len());
    let mut groups = vec![];
    let mut from = 0;
    for to in bounds {
        let (level, _) = best_level(&flat[from..to]);
        let members: Vec<usize> = (from..to).filter(|&i| (flat[i] - level).abs() <= TOLERANCE_S).collect();
        groups.push(members);
        from = to;
    }
    refine(windows, groups, slope)
}

/// Fits pieces around a course: its bend is what breaks are told from, and is measured anew from all pieces at once.
pub(super) fn fit_course(windows: &[LocalOffset], course: &Course) -> Option<PieceFit> {
    let flat: Vec<LocalOffset> = windows
        .iter()
        .map(|window| LocalOffset { offset_s: window.offset_s - course.bend.at(window.clip_s), ..*window })
        .collect();
    let rough = PieceFit { bend: course.bend.clone(), ..fit_pieces(&flat, course.line.slope)? };
    let near = |window: &LocalOffset| {
        let of_piece = |piece: &Piece| (window.offset_s - rough.offset_s(piece, window.clip_s)).abs();
        let within = |piece: &Piece| (piece.first_s - 1.0..=piece.last_s + 1.0).contains(&window.clip_s);
        rough.pieces.iter().position(|piece| within(piece) && of_piece(piece) < TOLERANCE_S)
    };
    let agreeing: Vec<(LocalOffset, usize)> =
        windows.iter().filter_map(|window| Some((*window, near(window)?))).collect();
    let Some(curve) = fit_bend(&agreeing, rough.pieces.len()) else {
        return if course.bend.is_straight() { Some(rough) } else { fit_pieces(windows, course.line.slope) };
    };
    let mut fit = PieceFit { slope: curve.slope, slope_sigma: curve.slope_sigma, bend: curve.bend, ..rough };
    for (piece, level) in fit.pieces.iter_mut().zip(curve.levels) {
        piece.offset_s = level;
    }
    let left = |(window, piece): &(LocalOffset, usize)| {
        (window.clip_s, window.offset_s - fit.offset_s(&fit.pieces[*piece], window.clip_s))
    };
    fit.residuals = agreeing.iter().map(left).collect();
    // As for a straight clock: neighbours share errors.
    let mean = fit.residuals.iter().map(|(_, r)| r * r).sum::<f64>() / fit.residuals.len() as f64;
    for piece in &mut fit.pieces {
        piece.sigma_s = (2.0 * mean).sqrt() / (piece.windows as f64).sqrt();
    }
    Some(fit)
}

/// A few windows this far from all others are strays, seconds.
const STRAY_S: f64 = 6.0;
const STRAYS: usize = 2;

/// First and last of some moments (in order) without strays at either end, which chance put on the line.
pub(crate) fn extent(times: &[f64]) -> Option<(f64, f64)> {
    let gap_after = |count: usize| (1..=count).rev().find(|&i| times[i] - times[i - 1] > STRAY_S);
    let gap_before = |count: usize| {
        (1..=count).rev().find(|&i| times[times.len() - i] - times[times.len() - i - 1] > STRAY_S)
    };
    let most = STRAYS.min(times.len().saturating_sub(1) / 4);
    let (head, tail) = (gap_after(most).unwrap_or(0), gap_before(most).unwrap_or(0));
    Some((*times.get(head)?, *times.get(times.len().checked_sub(1 + tail)?)?))
}

/// The slope near which most weight gathers on one line through some pair of windows; `slope` where none does better.
/// Steps are allowed for by counting only what lies on the line.
pub fn best_slope(windows: &[LocalOffset], slope: f64) -> f64 {
    let gathered = |a: &LocalOffset, slope: f64| -> f64 {
        windows
            .iter()
            .filter(|w| (w.offset_s - a.offset_s - slope * (w.clip_s - a.clip_s)).abs() < 0.5 * TOLERANCE_S)
            .map(|w| w.weight)
            .sum()
    };
    // Of many windows a share makes the pairs.
    let some: Vec<&LocalOffset> = windows.iter().step_by(windows.len() / 40 + 1).collect();
    let mut best = (some.iter().map(|a| gathered(a, slope)).fold(0.0, f64::max), slope);
    for (i, a) in some.iter().enumerate() {
        for b in &some[i + 1..] {
            let own = (b.offset_s - a.offset_s) / (b.clip_s - a.clip_s);
            if own.abs() <= MAX_SLOPE {
                let sum = gathered(a, own);
                if sum > best.0 * 1.02 {
                    best = (sum, own);
                }
            }
        }
    }
    best.1
}

/// The level near which most values lie, and how many do not.
fn best_level(values: &[f64]) -> (f64, usize) {
    let mut sorted = values.to_vec();
    sorted.sort_unstable_by(f64::total_cmp);
    let (mut from, mut best) = (0, (0, 0));
    for to in 0..sorted.len() {
        while sorted[to] - sorted[from] > 2.0 * TOLERANCE_S {
            from += 1;
        }
        if to + 1 - from > best.1 - best.0 {
            best = (from, to + 1);
        }
    }
    let members = &sorted[best.0..best.1];
    let level = members.get(members.len() / 2).copied().unwrap_or(0.0);
    (level, values.len() - members.len())
}

/// Binary segmentation: split where two levels leave clearly fewer windows outside than one.
fn split(values: &[f64], base: usize, bounds: &mut Vec<usize>) {
    let (_, outside) = best_level(values);
    if outside <= PIECE_COST {
        return;
    }
    let among = |moments: &mut dyn Iterator<Item = usize>| {
        moments
            .map(|at| {
                let (left, lost_left) = best_level(&values[..at]);
                let (right, lost_right) = best_level(&values[at..]);
                (at, lost_left + lost_right, (left - right).abs() > 2.0 * TOLERANCE_S)
            })
            .filter(|&(_, lost, apart)| apart && lost + PIECE_COST < outside)
            .min_by_key(|&(_, lost, _)| lost)
    };
    // Of many windows some are tried first, and then all about the best of them.
    let (last, step) = (values.len().saturating_sub(1), values.len() / MOMENTS + 1);
    let mut best = among(&mut (2..last).step_by(step));
    if step > 1
        && let Some((at, ..)) = best
    {
        best = among(&mut (at.saturating_sub(step).max(2)..(at + step).min(last)));
    }
    if let Some((at, _, _)) = best {
        split(&values[..at], base, bounds);
        bounds.push(base + at);
        split(&values[at..], base + at, bounds);
    }
}

/// Least squares over the agreeing windows, one slope and an offset a piece; windows beyond three robust
/// sigmas are dropped and the fit repeated.
fn refine(windows: &[LocalOffset], mut groups: Vec<Vec<usize>>, mut slope: f64) -> Option<PieceFit> {
    let mut levels = vec![];
    for _ in 0..3 {
        groups.retain(|group| group.len() >= 2);
        let (mut sxx, mut sxy) = (0.0, 0.0);
        let centres: Vec<(f64, f64)> = groups.iter().map(|group| centre(windows, group)).collect();
        for (group, (x0, y0)) in groups.iter().zip(&centres) {
            for &i in group {
                let w = windows[i];
                sxx += w.weight * (w.clip_s - x0).powi(2);
                sxy += w.weight * (w.clip_s - x0) * (w.offset_s - y0);
            }
        }
        if sxx > 0.0 {
            slope = sxy / sxx;
        }
        levels = centres.iter().map(|(x0, y0)| y0 - slope * x0).collect::<Vec<_>>();
        let mut sizes: Vec<f64> = groups
            .iter()
            .zip(&levels)
            .flat_map(|(group, level)| group.iter().map(move |&i| residual(windows[i], slope, *level).abs()))
            .collect();
        let limit = (scaled_median(&mut sizes)? * 3.5).clamp(0.02e-3, TOLERANCE_S);
        for (group, level) in groups.iter_mut().zip(&levels) {
            group.retain(|&i| residual(windows[i], slope, *level).abs() <= limit);
        }
    }
    summarise(windows, &groups, slope, &levels)
}

fn centre(windows: &[LocalOffset], group: &[usize]) -> (f64, f64) {
    let total: f64 = group.iter().map(|&i| windows[i].weight).sum();
    let mean = |value: fn(&LocalOffset) -> f64| {
        group.iter().map(|&i| windows[i].weight * value(&windows[i])).sum::<f64>() / total
    };
    (mean(|w| w.clip_s), mean(|w| w.offset_s))
}

fn residual(window: LocalOffset, slope: f64, level: f64) -> f64 {
    window.offset_s - level - slope * window.clip_s
}

fn summarise(windows: &[LocalOffset], groups: &[Vec<usize>], slope: f64, levels: &[f64]) -> Option<PieceFit> {
    let kept: Vec<(&Vec<usize>, f64)> = groups
        .iter()
        .zip(levels)
        .filter(|(group, _)| group.len() >= 2)
        .map(|(group, level)| (group, *level))
        .collect();
    let residuals: Vec<(f64, f64)> = kept
        .iter()
        .flat_map(|(group, level)| {
            group.iter().map(|&i| (windows[i].clip_s, residual(windows[i], slope, *level)))
        })
        .collect();
    let freedom = residuals.len().saturating_sub(kept.len() + 1).max(1) as f64;
    // Windows overlap by half, so neighbours share errors: count half of them.
    let spread = (residuals.iter().map(|(_, r)| r * r).sum::<f64>() / freedom).sqrt().max(2e-6)
        * std::f64::consts::SQRT_2;
    let mut sxx = 0.0;
    let mut pieces = vec![];
    for (group, level) in &kept {
        let (x0, _) = centre(windows, group);
        sxx += group.iter().map(|&i| (windows[i].clip_s - x0).powi(2)).sum::<f64>();
        let times: Vec<f64> = group.iter().map(|&i| windows[i].clip_s).collect();
        let (first_s, last_s) = extent(&times)?;
        pieces.push(Piece {
            offset_s: *level,
            sigma_s: spread / (group.len() as f64).sqrt(),
            first_s,
            last_s,
            windows: group.len(),
        });
    }
    if pieces.is_empty() {
        return None;
    }
    let weight = kept.iter().flat_map(|(group, _)| group.iter().map(|&i| windows[i].weight)).sum();
    Some(PieceFit {
        pieces,
        slope,
        slope_sigma: spread / sxx.sqrt().max(1e-9),
        bend: Bend::default(),
        weight,
        residuals,
    })
}
