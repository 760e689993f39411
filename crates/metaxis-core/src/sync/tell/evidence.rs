//! The evidence for a clip's place, and against it.

use crate::sync::{
    answer::{Alternative, Evidence, EvidenceKind, Residual},
    find::{Link, SAME_PLACE_S},
    labels::{EYE_S, FRAME_S},
    pair::share,
    settle::{Ground, Laid, Settling},
};

/// Pieces of evidence told of a clip.
const MOST: usize = 12;
/// Alternatives told of a clip.
const MOST_OTHERS: usize = 5;
/// Strength of evidence by patterns alone.
const BY_PATTERN: f64 = 0.3;

/// Everything that says where a clip lies, what its place rests on first.
pub(super) fn evidence(day: &Settling, clip: usize) -> Vec<Evidence> {
    let start_s = day.layout.maps[clip][0].start_s;
    let labels = day.told[clip].iter().map(|label| {
        let own = label.evidence(day.axis.origin, start_s);
        Evidence { start_s: own.start_s + day.travel_s(clip), ..own }
    });
    let own = day.links.iter().filter(|link| link.clip == clip || link.against == clip);
    let mut all: Vec<Evidence> = own
        .filter_map(|link| by_sound(day, clip, link))
        .chain(by_slates(day, clip))
        .chain(by_sibling(day, clip))
        .chain(labels)
        .collect();
    all.sort_by(|a, b| b.used.cmp(&a.used).then(b.score.total_cmp(&a.score)));
    all.truncate(MOST);
    all
}

fn by_sound(day: &Settling, clip: usize, link: &Link) -> Option<Evidence> {
    let by = day.layout.disagreement_s(link)?;
    let (by, other) = if link.clip == clip { (by, link.against) } else { (-by, link.clip) };
    Some(Evidence {
        kind: EvidenceKind::Waveform,
        against: Some(other),
        start_s: day.layout.maps[clip][0].start_s + by,
        sigma_s: link.alignment.sigma_s,
        score: if link.alignment.fine { agreement(link) } else { BY_PATTERN },
        used: by.abs() < SAME_PLACE_S,
        disagrees_by_s: by,
        aside: false,
    })
}

/// Each mark as evidence of the clip's start.
fn by_slates(day: &Settling, clip: usize) -> Vec<Evidence> {
    let (start_s, travel_s) = (day.layout.maps[clip][0].start_s, day.travel_s(clip));
    let evidence = |mark: &Laid| {
        let by = day.late_s(clip, mark) - travel_s;
        Evidence {
            kind: EvidenceKind::Slate,
            against: Some(mark.pair.sound),
            start_s: start_s + travel_s + by,
            sigma_s: EYE_S,
            score: 1.0,
            used: by.abs() < 1.5 * FRAME_S,
            disagrees_by_s: by,
            aside: false,
        }
    };
    day.laid_marks(clip).iter().map(evidence).collect()
}

fn by_sibling(day: &Settling, clip: usize) -> Option<Evidence> {
    let Ground::Sibling(sibling) = day.grounds[clip] else { return None };
    Some(Evidence {
        kind: sibling.kind,
        against: Some(sibling.with),
        start_s: day.layout.maps[clip][0].start_s,
        sigma_s: sibling.sigma_s,
        score: 1.0,
        used: true,
        disagrees_by_s: 0.0,
        aside: false,
    })
}

/// The share of a link's windows that agree.
pub(super) fn agreement(link: &Link) -> f64 {
    link.alignment.agreeing as f64 / link.alignment.tried.max(1) as f64
}

/// The free places that fit nearly as well as the one that `best` speaks for.
pub(super) fn alternatives(day: &Settling, clip: usize, best: &Link) -> Vec<Alternative> {
    let free = day.others(clip, best).into_iter().filter(|(.., taken)| !taken);
    let other =
        |(_, start_s, share, _): (&Link, f64, f64, bool)| Alternative { start_s, score: share.min(1.0) };
    free.take(MOST_OTHERS).map(other).collect()
}

/// The share of what a link compared that agreeing windows cover.
pub(super) fn covered(link: &Link) -> Option<f64> {
    link.alignment.fine.then(|| share(&link.alignment))
}

/// What is left of a link's windows after the fit, in the clip's own time.
pub(super) fn residuals(link: &Link, clip: usize) -> Vec<Residual> {
    if link.clip != clip {
        return vec![];
    }
    let left = |&(clip_s, error): &(f64, f64)| Residual { clip_s, error_ms: error * 1e3 };
    link.alignment.residuals.iter().map(left).collect()
}
