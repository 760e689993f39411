//! One clip against one reference clip near a coarse position: a rough line, then many narrow windows along it.

use super::{
    alignment::{Alignment, log_odds},
    arrival::{first_arrival, higher_elsewhere},
    breaks::BreakFinder,
    contrast::{Contrast, HALF_OVERLAPPING},
    course::Course,
    follow::follow,
    line::{RoughLine, stack, vote},
    offset::LocalOffset,
    passage::Passage,
    pieces::{PieceFit, fit_course},
    referee::{Ruling, Sure, rule},
    shape::{ECHO_SIGMA_S, bounds, collapsed, middles_between, steeper, stretches},
    windows::{ELSEWHERE, Look, NARROW, Windows, common, near_best, places},
};
use crate::sync::{
    answer::{Stretch, length_s, runs},
    input::{HeardSound, Pair, RATE},
};

/// Wide windows look half a second either way: a coarse position, an hour's drift.
const WIDE: (usize, usize) = (16_384, 8_192);
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
pub enum Density {
    /// A few, to rank candidates.
    Probe,
    /// All that help.
    Full,
    /// One at least every few seconds, however long the clip.
    Whole,
    /// All that help, and more to find the line.
    Deep,
}

/// Buffers for aligning; one a thread.
pub struct Aligner {
    wide: Windows,
    pub(crate) narrow: Windows,
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
        part: Option<Passage>,
        start_s: f64,
        effort: Density,
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
        effort: Density,
    ) -> Option<Alignment> {
        // The longest run without a break, from end to end.
        let run = runs(&rough.stretches).max_by(|a, b| length_s(a).total_cmp(&length_s(b)))?;
        let (first, last) = (run[0], run[run.len() - 1]);
        let slope = (last.end_s() - first.start_s) / length_s(run) - 1.0;
        let offset_s = first.start_s - first.clip_start_s - slope * first.clip_start_s;
        let line = RoughLine { offset_s, slope, sign: rough.sign(), log_odds: rough.log_odds };
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
        let line = self.rough(reference, clip, part, expected, Density::Probe)?;
        let near = (line.at(middle) - expected).abs() < 0.03;
        if near { self.along((reference, clip), part, line, Density::Probe) } else { None }
    }

    fn rough(
        &mut self,
        reference: &HeardSound,
        clip: &HeardSound,
        part: Passage,
        start_s: f64,
        effort: Density,
    ) -> Option<RoughLine> {
        let most = match effort {
            Density::Probe => 28,
            Density::Full | Density::Whole => 32,
            Density::Deep => 60,
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
    fn along(&mut self, pair: Pair, part: Passage, line: RoughLine, effort: Density) -> Option<Alignment> {
        let (length, span) = (NARROW.0 as f64 / RATE, part.to_s - part.from_s);
        let most = match effort {
            Density::Probe => 16,
            Density::Full | Density::Deep => FULL,
            Density::Whole => FULL.max((span / EVERY_S) as usize),
        };
        let mut course = Course::straight(line);
        let starts = places(pair.0, pair.1, part, &|clip_s| line.at(clip_s), length, most);
        let middles: Vec<f64> = starts.into_iter().map(|start| start + 0.5 * length).collect();
        let mut looks = self.narrow.looks(pair, &middles, &|clip_s| course.at(clip_s));
        let mut found = self.offsets(pair, &looks, &course, effort);
        // The rough line may be a bad guide to the far ends, and clocks bend.
        let better = if effort != Density::Probe && span > BENDS_S {
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
            if effort == Density::Probe { None } else { self.refute(pair, &mut found, &mut fit, &course) };
        if let Some(by) = higher_elsewhere(&looks, &fit, line.sign) {
            // The few windows of the rough line fell for an echo.
            let piece = fit.pieces.iter().max_by_key(|piece| piece.windows)?;
            let moved = RoughLine { offset_s: piece.offset_s + by / RATE, slope: fit.slope, ..line };
            course = Course { line: moved, bend: fit.bend.clone() };
            self.look_again(pair, &mut looks, &course);
            found = self.offsets(pair, &looks, &course, effort);
            fit = fit_course(&found, &course)?;
        }
        let mut contrast = Contrast::new(NARROW.1);
        looks.iter().for_each(|look| contrast.add(&look.lags, line.sign));
        let (height, runner_up) = contrast.heights(HALF_OVERLAPPING);
        let arrival = first_arrival(&looks, &fit, line.sign);
        for piece in &mut fit.pieces {
            piece.offset_s += arrival.later / RATE;
        }
        let mut breaks = match effort {
            Density::Probe => middles_between(&fit),
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
            runner_up,
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
            let passage = Passage { from_s: piece.first_s, to_s: piece.last_s };
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
            let course =
                Course { line: RoughLine { slope: fit.slope, ..course.line }, bend: fit.bend.clone() };
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
    fn offsets(&mut self, pair: Pair, looks: &[Look], course: &Course, effort: Density) -> Vec<LocalOffset> {
        let sign = course.line.sign;
        let (mut found, mut unsure) = (vec![], vec![]);
        for look in looks {
            let agreeing = look.agreeing(course.at(look.clip_s), sign);
            match agreeing.or_else(|| look.top(ELSEWHERE).map(|other| look.local(other))) {
                Some(local) => found.push(local),
                None => unsure.push(look.clip_s),
            }
        }
        if effort != Density::Probe {
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
    pub(crate) fn break_between(
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
