//! One clip against one reference clip near a coarse position: a rough line, then many narrow windows along it.

use super::{
    HeardSound, Stretch,
    arrival::{first_arrival, higher_elsewhere},
    breaks::BreakFinder,
    contrast::{Contrast, HALF_OVERLAPPING},
    course::Course,
    follow::follow,
    line::{Line, stack, vote},
    moved::Moved,
    pieces::{LocalOffset, Piece, PieceFit, STEP_S, best_slope, fit_course},
    placement::{length_s, runs},
    referee::{Ruling, Sure, rule},
    sound::{Pair, RATE},
    windows::{ELSEWHERE, Look, Windows, common, near_best, places},
};
use crate::signal::PATTERN_RATE;

/// Wide windows look half a second either way: a coarse position, an hour's drift.
const WIDE: (usize, usize) = (16_384, 8_192);
/// Narrow windows look 64 ms either way of a line.
const NARROW: (usize, usize) = (30_720, 1_024);
/// Below these log odds of the rough line the correlations are stacked.
const SURE_VOTE: f64 = 8.0;
/// Below these of the stack, only the lags nearest to the expected place are stacked.
const SURE_STACK: f64 = 6.0;
/// Windows of a full measurement; a whole one has one at least every so many seconds.
const FULL: usize = 160;
const EVERY_S: f64 = 4.0;
/// A clip this long is followed along its bends, seconds.
const BENDS_S: f64 = 180.0;
/// Where the course moved by more than this under a window, it is looked at again, seconds.
const MOVED_S: f64 = 0.25e-3;

/// How many windows to spend.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Effort {
    /// A few, to rank candidates.
    Probe,
    /// All that help.
    Full,
    /// One at least every few seconds, however long the clip.
    Whole,
    /// All that help, and more to find the line.
    Deep,
}

/// A part of a clip's own time, seconds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Part {
    /// Beginning.
    pub from_s: f64,
    /// End.
    pub to_s: f64,
}

/// A clip laid against a reference.
#[derive(Debug, Clone, PartialEq)]
pub struct Alignment {
    /// Where the clip lies on the reference's own time.
    pub stretches: Vec<Stretch>,
    /// What was compared, in the clip's own time.
    pub part: Part,
    /// Windows measured.
    pub tried: usize,
    /// Windows that agree with the fit.
    pub agreeing: usize,
    /// How far the windows together stand above the lags beside the line, in standard deviations.
    pub height: f64,
    /// The same for the next best lag within 64 ms.
    pub beside: f64,
    /// Natural log of the odds against so much agreement by chance.
    pub log_odds: f64,
    /// Whether the waves themselves agree, not only the rise and fall of the sound.
    pub fine: bool,
    /// How far echoes hide the direct sound: 0 not at all, above 0.12 they may have been taken for it.
    pub murk: f64,
    /// Whether one of the two is inverted.
    pub inverted: bool,
    /// Standard deviation of the position in the middle of the longest stretch, seconds.
    pub sigma_s: f64,
    /// (clip time, error) of agreeing windows, seconds.
    pub residuals: Vec<(f64, f64)>,
    /// Clip times of the windows that did not agree, seconds.
    pub missed: Vec<f64>,
    /// A moment from which on nothing but what repeats says where the clip goes on, seconds.
    pub unforced: Option<f64>,
    /// Passages that were heard by another way than the rest.
    pub(super) moves: Vec<Moved>,
}

/// Log odds of a height: from them is taken what the number of lags and slopes looked at makes of it.
fn log_odds(height: f64) -> f64 {
    0.5 * height.max(0.0).powi(2) - 13.0
}

impl Alignment {
    /// As it is where the clip is counted from `own_s` later on and the other from `there_s` later on.
    pub(super) fn shift(&mut self, own_s: f64, there_s: f64) {
        for stretch in &mut self.stretches {
            stretch.start_s += own_s / (1.0 + stretch.rate_ppm * 1e-6) - there_s;
        }
    }

    /// −1 where one of the two is inverted, else 1.
    pub(super) fn sign(&self) -> f32 {
        if self.inverted { -1.0 } else { 1.0 }
    }

    /// Notes that from a moment on it is open where the clip goes on, seconds.
    pub(super) fn leave_open(&mut self, from_s: f64) {
        self.unforced = Some(self.unforced.map_or(from_s, |at| at.min(from_s)));
    }

    /// Makes it count half: another place of the same passage fits clearly better, window by window, so that what it
    /// has in common with that repeats itself.
    pub(super) fn beaten(&mut self) {
        self.height *= 0.5;
        self.log_odds = self.log_odds.min(log_odds(self.height));
    }
}

/// Buffers for aligning; one a thread.
pub struct Aligner {
    wide: Windows,
    pub(super) narrow: Windows,
    breaks: BreakFinder,
}

impl Default for Aligner {
    fn default() -> Self {
        Self {
            wide: Windows::new(WIDE.0, WIDE.1),
            narrow: Windows::new(NARROW.0, NARROW.1),
            breaks: BreakFinder::default(),
        }
    }
}

impl Aligner {
    /// Aligns `part` of `clip` (all of it where `None`), whose start is expected at `start_s` of the reference's own
    /// time, give or take half a second. `None` where nothing agrees.
    pub fn align(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Option<Part>,
        start_s: f64,
        effort: Effort,
    ) -> Option<Alignment> {
        let part = common(reference, clip, part, start_s)?;
        let line = self.rough(reference, clip, part, start_s, effort)?;
        self.along((reference, clip), part, line, effort)
    }

    /// Measures again what `rough` found, with more windows.
    pub fn closely(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        rough: &Alignment,
        effort: Effort,
    ) -> Option<Alignment> {
        // The longest run without a break, from end to end.
        let run = runs(&rough.stretches).max_by(|a, b| length_s(a).total_cmp(&length_s(b)))?;
        let (first, last) = (run[0], run[run.len() - 1]);
        let slope = (last.end_s() - first.start_s) / length_s(run) - 1.0;
        let offset_s = first.start_s - first.clip_start_s - slope * first.clip_start_s;
        let line = Line { offset_s, slope, sign: rough.sign(), log_odds: rough.log_odds };
        self.along((reference, clip), rough.part, line, effort)
    }

    /// Aligns along a line that is known already: `offset_s` (reference minus clip time, at clip time zero) and its
    /// change a second, to 30 ms. Finds breaks, but no other position.
    pub fn check(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        offset_s: f64,
        slope: f64,
    ) -> Option<Alignment> {
        let part = common(reference, clip, None, offset_s)?;
        let middle = 0.5 * (part.from_s + part.to_s);
        let expected = offset_s + slope * middle;
        let line = self.rough(reference, clip, part, expected, Effort::Probe)?;
        let near = (line.at(middle) - expected).abs() < 0.03;
        if near { self.along((reference, clip), part, line, Effort::Probe) } else { None }
    }

    fn rough(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Part,
        start_s: f64,
        effort: Effort,
    ) -> Option<Line> {
        let most = match effort {
            Effort::Probe => 28,
            Effort::Full | Effort::Whole => 32,
            Effort::Deep => 60,
        };
        let probes = self.wide.probes(reference, clip, part, start_s, most);
        let line = vote(&probes, WIDE.1 as f64 / RATE);
        if line.is_some_and(|line| line.log_odds > SURE_VOTE) {
            return line;
        }
        // Far apart windows drift too much to be stacked: the best two minutes are enough.
        let more = self.wide.probes(
            reference,
            clip,
            near_best(reference, clip, part, start_s),
            start_s,
            most.max(24),
        );
        let denser = vote(&more, WIDE.1 as f64 / RATE);
        let stacked = stack(&more, WIDE.1, start_s);
        let best =
            [line, denser, stacked].into_iter().flatten().max_by(|a, b| a.log_odds.total_cmp(&b.log_odds));
        if best.is_some_and(|line| line.log_odds > SURE_STACK) {
            return best;
        }
        // The patterns know the place to a tenth of a second: of so few lags a weaker sum is believed.
        let near = near_best(reference, clip, part, start_s);
        let narrow = self.narrow.probes(reference, clip, near, start_s, most.max(60));
        let close = stack(&narrow, NARROW.1, start_s);
        [best, close].into_iter().flatten().max_by(|a, b| a.log_odds.total_cmp(&b.log_odds))
    }

    /// Measures along `line` and fits.
    fn along(&mut self, pair: Pair, part: Part, line: Line, effort: Effort) -> Option<Alignment> {
        let (length, span) = (NARROW.0 as f64 / RATE, part.to_s - part.from_s);
        let most = match effort {
            Effort::Probe => 16,
            Effort::Full | Effort::Deep => FULL,
            Effort::Whole => FULL.max((span / EVERY_S) as usize),
        };
        let mut course = Course::straight(line);
        let starts = places(pair.0, pair.1, part, &|clip_s| line.at(clip_s), length, most);
        let middles: Vec<f64> = starts.into_iter().map(|start| start + 0.5 * length).collect();
        let mut looks = self.narrow.looks(pair, &middles, &|clip_s| course.at(clip_s));
        let mut found = self.offsets(pair, &looks, &course, effort);
        // The rough line may be a bad guide to the far ends, and clocks bend.
        let better = if effort != Effort::Probe && span > BENDS_S {
            follow(&looks, &course)
        } else {
            steeper(&found, &course, span)
        };
        if let Some(better) = better {
            course = better;
            self.look_again(pair, &mut looks, &course);
            found = self.offsets(pair, &looks, &course, effort);
        }
        let mut fit = fit_course(&found, &course)?;
        let unforced =
            if effort == Effort::Probe { None } else { self.refute(pair, &mut found, &mut fit, &course) };
        if let Some(by) = higher_elsewhere(&looks, &fit, line.sign) {
            // The few windows of the rough line fell for an echo.
            let piece = fit.pieces.iter().max_by_key(|piece| piece.windows)?;
            let moved = Line { offset_s: piece.offset_s + by / RATE, slope: fit.slope, ..line };
            course = Course { line: moved, bend: fit.bend.clone() };
            self.look_again(pair, &mut looks, &course);
            found = self.offsets(pair, &looks, &course, effort);
            fit = fit_course(&found, &course)?;
        }
        let mut contrast = Contrast::new(NARROW.1);
        looks.iter().for_each(|look| contrast.add(&look.lags, line.sign));
        let (height, beside) = contrast.heights(HALF_OVERLAPPING);
        let arrival = first_arrival(&looks, &fit, line.sign);
        for piece in &mut fit.pieces {
            piece.offset_s += arrival.later / RATE;
        }
        let mut breaks = match effort {
            Effort::Probe => middles_between(&fit),
            _ => self.breaks(pair, &looks, &fit, line.sign),
        };
        while let Some(chance) = collapsed(&fit, &breaks) {
            fit.pieces.remove(chance + 1);
            fit.pieces.remove(chance);
            breaks.drain(chance - 1..=chance);
        }
        let by_echoes = ECHO_SIGMA_S * (arrival.murk / 0.1).powi(3);
        let mut stretches = stretches(&fit, &breaks, pair.1.duration_s());
        for stretch in &mut stretches {
            stretch.start_sigma_s = stretch.start_sigma_s.hypot(by_echoes);
        }
        let agrees = |at: f64| fit.residuals.iter().any(|(time, _)| (time - at).abs() < 1e-6);
        let missed = looks.iter().map(|look| look.clip_s).filter(|at| !agrees(*at)).collect();
        Some(Alignment {
            stretches,
            part,
            tried: looks.len(),
            agreeing: fit.agreeing(),
            height,
            beside,
            log_odds: log_odds(height),
            fine: true,
            murk: arrival.murk,
            inverted: line.sign < 0.0,
            sigma_s: fit.pieces.iter().max_by_key(|piece| piece.windows)?.sigma_s.hypot(by_echoes),
            residuals: fit.residuals,
            missed,
            unforced,
            moves: vec![],
        })
    }

    /// Takes out the pieces whose jump does not beat the continuation of the longest one; the moment from which on that is
    /// not beyond doubt.
    fn refute(
        &mut self,
        pair: Pair,
        found: &mut Vec<LocalOffset>,
        fit: &mut PieceFit,
        course: &Course,
    ) -> Option<f64> {
        let mut unforced: Option<f64> = None;
        // Every piece but the longest, beside each of its neighbours; each one taken out makes the fit anew.
        let mut upheld: Vec<(f64, f64)> = vec![];
        while let Some(main) = (0..fit.pieces.len()).max_by_key(|&i| fit.pieces[i].windows) {
            let last = fit.pieces.len() - 1;
            let beside = |i: usize| [i.checked_sub(1), Some(i + 1).filter(|next| *next <= last)];
            let mut pairs = (0..=last)
                .filter(|&i| i != main)
                .flat_map(|i| beside(i).into_iter().flatten().map(move |other| (i, other)));
            let open = |(i, other): &(usize, usize)| {
                !upheld.contains(&(fit.pieces[*i].first_s, fit.pieces[*other].first_s))
                    && fit.pieces[*other].windows >= fit.pieces[*i].windows
            };
            let Some((own, beside)) = pairs.find(open) else { break };
            let (piece, beside) = (fit.pieces[own].clone(), fit.pieces[beside].clone());
            let passage = Part { from_s: piece.first_s, to_s: piece.last_s };
            let old = |clip_s: f64| fit.offset_s(&beside, clip_s);
            let new = |clip_s: f64| fit.offset_s(&piece, clip_s);
            let Ruling::Continues(instead, Sure(sure)) =
                rule(&mut self.narrow, pair, passage, (&old, &new), course.line.sign)
            else {
                upheld.push((piece.first_s, beside.first_s));
                continue;
            };
            if !sure {
                unforced = Some(unforced.map_or(piece.first_s, |at| at.min(piece.first_s)));
            }
            let refuted = |window: &LocalOffset| {
                let within = (piece.first_s - 1e-6..=piece.last_s + 1e-6).contains(&window.clip_s);
                within
                    && (window.offset_s - new(window.clip_s)).abs()
                        < (window.offset_s - old(window.clip_s)).abs()
            };
            found.retain(|window| !refuted(window));
            found.extend(instead);
            found.sort_by(|a, b| a.clip_s.total_cmp(&b.clip_s));
            let course = Course { line: Line { slope: fit.slope, ..course.line }, bend: fit.bend.clone() };
            match fit_course(found, &course) {
                Some(again) => *fit = again,
                None => break,
            }
        }
        unforced
    }

    /// Looks again where the course now expects another offset.
    fn look_again(&mut self, pair: Pair, looks: &mut [Look], course: &Course) {
        for look in looks {
            let expected = course.at(look.clip_s);
            if (expected - look.offset as f64 / RATE).abs() > MOVED_S
                && let Some(fresh) = self.narrow.look_at(pair.0, pair.1, look.clip_s, expected)
            {
                *look = fresh;
            }
        }
    }

    /// The offset that each look shows: on the course, or clearly elsewhere.
    fn offsets(&mut self, pair: Pair, looks: &[Look], course: &Course, effort: Effort) -> Vec<LocalOffset> {
        let sign = course.line.sign;
        let (mut found, mut unsure) = (vec![], vec![]);
        for look in looks {
            let agreeing = look.agreeing(course.at(look.clip_s), sign);
            match agreeing.or_else(|| look.top(ELSEWHERE).map(|other| look.local(other))) {
                Some(local) => found.push(local),
                None => unsure.push(look.clip_s),
            }
        }
        if effort != Effort::Probe {
            self.look_wider(pair, course, &unsure, &mut found);
        }
        found
    }

    /// Where several windows in a row find nothing near the line, half a second is searched: a longer loss.
    fn look_wider(&mut self, pair: Pair, course: &Course, unsure: &[f64], found: &mut Vec<LocalOffset>) {
        for &clip_s in unsure {
            let Some(look) = self.wide.look_at(pair.0, pair.1, clip_s, course.at(clip_s)) else { continue };
            found.extend(look.top(ELSEWHERE + 0.5).map(|peak| look.local(peak)));
        }
        found.sort_by(|a, b| a.clip_s.total_cmp(&b.clip_s));
    }

    /// Where between two pieces samples were lost.
    fn breaks(&mut self, pair: Pair, looks: &[Look], fit: &PieceFit, sign: f32) -> Vec<f64> {
        let looked: Vec<f64> = looks.iter().map(|look| look.clip_s).collect();
        fit.pieces
            .windows(2)
            .map(|pieces| {
                let [before, after] =
                    [&pieces[0], &pieces[1]].map(|piece| move |clip_s: f64| fit.offset_s(piece, clip_s));
                let (last_s, first_s) = bounds(&pieces[0], &pieces[1], fit, &looked);
                self.breaks.between(pair, (&before, &after), (last_s - 1.0, first_s + 1.0), sign)
            })
            .collect()
    }

    /// Where between the moments `within` a clip passes from one stretch into the other.
    pub(super) fn break_between(
        &mut self,
        (reference, clip): (&HeardSound, &HeardSound),
        stretches: [&Stretch; 2],
        within: (f64, f64),
        inverted: bool,
    ) -> f64 {
        let [before, after] = stretches.map(|stretch| move |clip_s: f64| stretch.axis_s(clip_s) - clip_s);
        let sign = if inverted { -1.0 } else { 1.0 };
        self.breaks.between((reference, clip), (&before, &after), within, sign)
    }
}

/// What echoes add to the standard deviation of a position where the murk is 0.1, seconds.
const ECHO_SIGMA_S: f64 = 0.2e-3;
/// Standard deviation of a position known by patterns alone, seconds, and of the rate, ppm.
const BY_PATTERN: (f64, f64) = (0.015, 50.0);
/// A far microphone's room makes its pattern late by about this, half of what the worst rooms do.
const ECHO_BIAS_S: f64 = 0.012;

/// Where a clip lies by its pattern alone: so much noise or echo that no window agrees, yet the sound rises and falls
/// as the reference's does. `score` is the coarse one.
pub(super) fn by_pattern(
    reference: &HeardSound,
    clip: &HeardSound,
    start_s: f64,
    score: f32,
) -> Option<Alignment> {
    let part = common(reference, clip, None, start_s)?;
    let lag = (start_s * f64::from(PATTERN_RATE)).round() as i64;
    let sum = |lag: i64| f64::from(clip.pattern.agreement(reference.pattern, lag).iter().sum::<f32>());
    let (before, top, after) = (sum(lag - 1), sum(lag), sum(lag + 1));
    let bend = before - 2.0 * top + after;
    let part_of_frame = if bend < 0.0 { (0.5 * (before - after) / bend).clamp(-0.7, 0.7) } else { 0.0 };
    let stretch = Stretch {
        clip_start_s: 0.0,
        clip_end_s: clip.duration_s(),
        start_s: (lag as f64 + part_of_frame) / f64::from(PATTERN_RATE) + ECHO_BIAS_S,
        rate_ppm: 0.0,
        start_sigma_s: BY_PATTERN.0,
        rate_sigma_ppm: BY_PATTERN.1,
    };
    Some(Alignment {
        stretches: vec![stretch],
        part,
        tried: 0,
        agreeing: 0,
        height: f64::from(score),
        beside: 0.0,
        // Two thousand lags a minute have a highest one; and of what is left half is not believed.
        log_odds: 0.25 * f64::from(score).powi(2) - 8.0,
        fine: false,
        murk: 0.0,
        inverted: false,
        sigma_s: BY_PATTERN.0,
        residuals: vec![],
        missed: vec![],
        unforced: None,
        moves: vec![],
    })
}

/// The course with another slope, where that gathers more and moves the far end by a millisecond.
fn steeper(found: &[LocalOffset], course: &Course, span_s: f64) -> Option<Course> {
    let slope = best_slope(found, course.line.slope);
    if (slope - course.line.slope).abs() * span_s <= 1e-3 {
        return None;
    }
    let at = found.iter().max_by(|a, b| a.weight.total_cmp(&b.weight))?;
    Some(Course::straight(Line { offset_s: at.offset_s - slope * at.clip_s, slope, ..course.line }))
}

/// A piece to which its breaks leave less than a window, between two that lie in one line: chance put it there. The piece
/// before it goes on in the one after it.
fn collapsed(fit: &PieceFit, breaks: &[f64]) -> Option<usize> {
    (1..fit.pieces.len().saturating_sub(1)).find(|&i| {
        let apart = fit.pieces[i - 1].offset_s - fit.pieces[i + 1].offset_s;
        breaks[i] - breaks[i - 1] < NARROW.0 as f64 / RATE && apart.abs() < STEP_S
    })
}

/// The last moment that is surely of one piece and the first that is of the next: a window that agrees while its
/// neighbour on the piece's own side does not may do so by chance, a long way into the other piece.
fn bounds(one: &Piece, next: &Piece, fit: &PieceFit, looked: &[f64]) -> (f64, f64) {
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

fn middles_between(fit: &PieceFit) -> Vec<f64> {
    fit.pieces.windows(2).map(|pair| 0.5 * (pair[0].last_s + pair[1].first_s)).collect()
}

/// The stretches of the pieces, each cut where the clock's rate changes.
fn stretches(fit: &PieceFit, breaks: &[f64], duration_s: f64) -> Vec<Stretch> {
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
