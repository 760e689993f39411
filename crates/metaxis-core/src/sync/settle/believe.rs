//! What sound alone lets one believe of each clip.

use super::{settling::Settling, support::WORTH_SAYING};
use crate::sync::{
    answer::{Reason, Verdict},
    find::{Link, RIVAL},
    judge::{Judgement, judge, signs},
    pair::{Passage, uncovered},
};

/// A part this long that agrees with nothing makes a take doubtful, seconds.
const ASTRAY_S: f64 = 6.0;
/// Confidence that the order of a device's clips can give a position among equals.
const BY_ORDER: f64 = 0.93;

impl Settling<'_> {
    /// The longest part of a clip that was to be somewhere on the track and is not.
    fn astray(&self, clip: usize, best: &Link) -> Option<Passage> {
        let whole = Passage { from_s: 0.0, to_s: self.clips[clip].duration_s };
        uncovered(&best.alignment, whole, ASTRAY_S).first().copied()
    }

    /// What is believed of each clip, outward from the axis: a clip is no surer than the one it hangs on.
    pub fn judge_all(&self) -> Vec<Judgement> {
        let by_definition = |clip: usize| self.is_axis(clip) || self.is_islands_axis(clip);
        let mut judged: Vec<Option<Judgement>> =
            (0..self.clips.len()).map(|clip| by_definition(clip).then(Judgement::axis)).collect();
        let mut queue: Vec<usize> = (0..judged.len()).filter(|&clip| by_definition(clip)).collect();
        loop {
            while let Some(at) = queue.pop() {
                for index in self.tree() {
                    let link = &self.links[index];
                    let next = if link.clip == at { link.against } else { link.clip };
                    if (link.clip != at && link.against != at) || judged[next].is_some() {
                        continue;
                    }
                    let own = self.judge(next, link);
                    judged[next] = Some(match &judged[at] {
                        Some(surer) if !self.lies_on_axis(next) => own.hung_on(surer),
                        _ => own,
                    });
                    queue.push(next);
                }
            }
            // The next island begins at its best-linked clip, which lies where it does by definition.
            let next = self
                .tree()
                .filter(|&index| judged[self.links[index].clip].is_none())
                .max_by(|&a, &b| self.links[a].height().total_cmp(&self.links[b].height()));
            let Some(index) = next else { break };
            let link = &self.links[index];
            let own = self.judge(link.clip, link);
            judged[link.against] = Some(own.clone());
            judged[link.clip] = Some(own);
            queue.extend([link.against, link.clip]);
        }
        judged.into_iter().map(|own| own.unwrap_or_else(Judgement::nothing)).collect()
    }

    /// Whether a clip was heard on the axis itself (its island's, where it lies on one), whatever else it was heard with.
    fn lies_on_axis(&self, clip: usize) -> bool {
        let axis = |other: usize| self.is_axis(other) || self.is_islands_axis(other);
        let direct = |link: &&Link| link.clip == clip && axis(link.against);
        self.support(clip).into_iter().filter(direct).any(|link| link.alignment.log_odds > WORTH_SAYING)
    }

    fn judge(&self, clip: usize, link: &Link) -> Judgement {
        let support = self.support(clip);
        let best = support.iter().find(|own| own.clip == clip).copied().unwrap_or(link);
        let others = self.others(clip, best);
        let highest = |taken: bool| {
            others
                .iter()
                .filter(|(.., is_taken)| *is_taken == taken)
                .map(|(_, _, share, _)| *share)
                .fold(0.0, f64::max)
        };
        let confirmed = support.iter().filter(|own| own.alignment.log_odds > 6.0).count().saturating_sub(1);
        let astray = if self.layout.apart { None } else { self.astray(clip, best) };
        let rival = highest(false);
        let judgement = judge(signs(best, confirmed, rival, astray.is_some()), astray);
        let judgement = match self.open_ends[clip] {
            Some(end) => judgement.left_open(end),
            None => judgement,
        };
        if rival > RIVAL && judgement.verdict != Verdict::Unplaced {
            let free: Vec<_> =
                others.iter().filter(|(_, _, share, taken)| *share > RIVAL && !taken).collect();
            let start_s = self.layout.maps[clip][0].start_s;
            if self.in_order(clip, start_s, &[])
                && free.iter().all(|(_, other, ..)| !self.in_order(clip, *other, &[]))
            {
                return Judgement {
                    verdict: Verdict::Check,
                    confidence: BY_ORDER,
                    doubt: Some(Reason::KeepsOrder),
                    ..judgement
                };
            }
        }
        judgement
    }
}
