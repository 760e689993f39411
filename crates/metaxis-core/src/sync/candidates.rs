//! Where a clip could lie: candidates over all reference clips, ranked and judged.

use super::{
    Aligner, Alignment, Alternative, DayClip, Effort, Evidence, EvidenceKind, HeardSound, Placement,
    Residual, Stretch, Verdict, anchor::Anchor, verdict::judge,
};
use crate::signal::{BAND_RATE, Correlator};

/// How much is spent on each clip.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum Search {
    /// The best few candidates, the best two of these closely.
    #[default]
    Normal,
    /// Three times as many candidates, all of them closely.
    Deep,
}

impl Search {
    /// Coarse candidates examined for a clip.
    fn candidates(self) -> usize {
        match self {
            Search::Normal => 8,
            Search::Deep => 24,
        }
    }

    /// Candidates measured over all windows.
    fn closely(self) -> usize {
        match self {
            Search::Normal => 2,
            Search::Deep => usize::MAX,
        }
    }
}

/// Shortest overlap looked at, seconds.
const MIN_OVERLAP_S: f64 = 3.0;

/// One position that was looked at closely.
pub(super) struct Candidate {
    against: usize,
    shift_s: f64,
    pub(super) component: u32,
    alignment: Alignment,
}

impl Candidate {
    fn start_s(&self) -> f64 {
        self.alignment.stretches[0].start_s + self.shift_s
    }

    fn stretches(&self) -> Vec<Stretch> {
        let shifted = |s: &Stretch| Stretch { start_s: s.start_s + self.shift_s, ..*s };
        self.alignment.stretches.iter().map(shifted).collect()
    }

    fn same_place(&self, other: &Candidate) -> bool {
        self.component == other.component && (self.start_s() - other.start_s()).abs() < 0.02
    }
}

/// All positions found for a clip, best first.
#[derive(Default)]
pub(super) struct Found {
    pub(super) candidates: Vec<Candidate>,
}

pub(super) fn search(
    clips: &[DayClip],
    anchors: &[usize],
    axis: &[Anchor],
    sound: &HeardSound,
    effort: Search,
    correlator: &mut Correlator,
    aligner: &mut Aligner,
) -> Found {
    let frames = |seconds: f64| (seconds * f64::from(BAND_RATE)) as usize;
    let mut coarse = vec![];
    for (anchor, &clip) in axis.iter().zip(anchors) {
        if let Some(reference) = &clips[clip].sound {
            let matches = correlator.search(
                reference.bands,
                sound.bands,
                frames(MIN_OVERLAP_S),
                frames(0.3),
                effort.candidates(),
            );
            coarse.extend(matches.into_iter().map(|m| (m, anchor, reference)));
        }
    }
    coarse.sort_by(|a, b| b.0.score.total_cmp(&a.0.score));
    coarse.truncate(effort.candidates());

    let mut found = Found::default();
    for (coarse, anchor, reference) in coarse {
        let start_s = coarse.lag_frames as f64 / f64::from(BAND_RATE);
        let Some(alignment) = aligner.align(reference, sound, start_s, Effort::Probe) else { continue };
        let candidate = Candidate {
            against: anchor.clip,
            shift_s: anchor.start_s,
            component: anchor.component,
            alignment,
        };
        match found.candidates.iter_mut().find(|other| other.same_place(&candidate)) {
            Some(other) if candidate.alignment.strength > other.alignment.strength => *other = candidate,
            Some(_) => {}
            None => found.candidates.push(candidate),
        }
    }
    found.candidates.sort_by(|a, b| b.alignment.strength.total_cmp(&a.alignment.strength));
    // The rivals were ranked on few windows; what counts is measured on all.
    for candidate in found.candidates.iter_mut().take(effort.closely()) {
        if let Some(reference) = &clips[candidate.against].sound {
            let start_s = candidate.alignment.stretches[0].start_s;
            if let Some(full) = aligner.align(reference, sound, start_s, Effort::Full) {
                candidate.alignment = full;
            }
        }
    }
    found.candidates.sort_by(|a, b| b.alignment.strength.total_cmp(&a.alignment.strength));
    found
}

impl Found {
    /// The placement by candidate `take`; the others are its alternatives.
    pub(super) fn placement(&self, take: usize) -> Placement {
        let Some(best) = self.candidates.get(take) else {
            return Placement::unplaced("Its sound was found nowhere in the reference.");
        };
        let strength = best.alignment.strength.max(f64::MIN_POSITIVE);
        let others =
            || self.candidates.iter().enumerate().filter(|(i, other)| *i != take && !other.same_place(best));
        let rival = others()
            .filter(|(_, other)| other.alignment.log_odds > 0.0)
            .map(|(_, other)| other.alignment.strength / strength)
            .fold(0.0, f64::max);
        let (verdict, confidence, doubt) = judge(&best.alignment, rival);
        let mut alternatives: Vec<Alternative> = others()
            .filter(|(_, other)| other.alignment.log_odds > 0.0)
            .map(|(_, other)| Alternative {
                start_s: other.start_s(),
                score: (other.alignment.strength / strength).min(1.0),
            })
            .collect();
        alternatives.sort_by(|a, b| b.score.total_cmp(&a.score));
        alternatives.truncate(5);
        if verdict == Verdict::Unplaced {
            return Placement { alternatives: vec![], ..Placement::unplaced(doubt.unwrap_or_default()) };
        }
        let mut reasons: Vec<String> = doubt.into_iter().collect();
        reasons.push(format!(
            "Sound agrees in {} of {} windows.",
            best.alignment.agreeing, best.alignment.tried
        ));
        let stretches = best.stretches();
        for pair in stretches.windows(2) {
            let lost = pair[1].start_s - pair[0].end_s();
            let what = if lost > 0.0 { "lost" } else { "repeated" };
            reasons.push(format!(
                "{:.3} s of sound were {what} at {:.1} s.",
                lost.abs(),
                pair[1].clip_start_s
            ));
        }
        Placement {
            verdict,
            confidence,
            component: best.component,
            evidence: vec![Evidence {
                kind: EvidenceKind::Waveform,
                against: Some(best.against),
                start_s: best.start_s(),
                sigma_s: stretches[0].start_sigma_s,
                score: best.alignment.agreeing as f64 / best.alignment.tried.max(1) as f64,
                used: true,
                disagrees_by_s: 0.0,
            }],
            stretches,
            alternatives,
            residuals: best
                .alignment
                .residuals
                .iter()
                .map(|&(clip_s, error)| Residual { clip_s, error_ms: error * 1e3 })
                .collect(),
            reasons,
        }
    }
}
