//! What is said of each clip in the end: verdict, evidence, alternatives, reasons.

use super::{
    Alternative, DayClip, Evidence, EvidenceKind, HeardSound, Part, Placement, Residual, Stretch, Verdict,
    component::Lies,
    coverage::{has_sound, share, uncovered},
    ends::OpenEnd,
    graph::{Layout, RIVAL, compose},
    input::devices,
    link::{ECHO_S, Link, SAME_PLACE_S},
    moved::said_of_moves,
    placement::{joined, length_s, runs},
    slates::SlatePair,
    speeds::said_of_speed,
    timed::{Sibling, Timed, called},
    verdict::{Judgement, judge, signs},
};

/// Everything that was found.
pub(super) struct Outcome<'a> {
    pub clips: &'a [DayClip<'a>],
    pub origin: usize,
    pub tied: &'a [(usize, f64)],
    pub anchors: &'a [usize],
    pub links: &'a [Link],
    pub layout: Layout,
    /// The components of the layout, each with the clip whose clock is its axis.
    pub bases: Vec<(usize, usize)>,
    /// Where the islands lie.
    pub lies: Vec<Lies>,
    /// What the labels of each clip say.
    pub timed: Vec<Vec<Timed>>,
    /// Clips for which a label chose between positions.
    pub decided: Vec<Option<EvidenceKind>>,
    /// Clips that a label laid on the axis, with the clip whose label it is.
    pub laid: Vec<Option<(usize, Timed)>>,
    /// Clips that a label puts where nothing else ran.
    pub ran_alone: Vec<Option<Timed>>,
    /// Takes that were not heard and lie beside one that was.
    pub siblings: Vec<Option<Sibling>>,
    /// Places by sound that a label outweighed.
    pub outweighed: Vec<Option<Alternative>>,
    /// The sounds that each picture mark of each clip may lie against.
    pub slates: Vec<Vec<Vec<SlatePair>>>,
    /// Clips that their slate alone places.
    pub slated: Vec<bool>,
    /// Ends that another clip heard otherwise.
    pub open_ends: Vec<Option<OpenEnd>>,
}

/// Log odds below which another position is not worth mentioning.
const WORTH_SAYING: f64 = 4.0;
/// Ambiguous clips of a device that are put in order together.
const MOST_OPEN: usize = 6;
/// A part this long that agrees with nothing makes a take doubtful, seconds.
const ASTRAY_S: f64 = 6.0;
/// A part this long in which nothing agrees is said, seconds.
const UNSHOWN_S: f64 = 60.0;
/// A place of this share of the best one's height is taken where it alone keeps the order of the device's clips.
const ORDERED: f64 = 0.45;
/// Confidence that the order of a device's clips can give a position among equals.
const BY_ORDER: f64 = 0.93;

/// One placement a clip.
pub(super) fn placements(outcome: &mut Outcome) -> Vec<Placement> {
    let judged: Vec<Judgement> = outcome.judge_all();
    let judged: Vec<Judgement> =
        judged.into_iter().enumerate().map(|(clip, own)| outcome.weigh(clip, own)).collect();
    let numbers = outcome.component_numbers();
    let placed = |(clip, own): (usize, &Judgement)| {
        let mut placement = outcome.placement(clip, numbers[clip], own);
        if outcome.travel_s(clip) > 0.0 {
            placement.step_back(outcome.clips[clip].distance_of_picture());
        }
        placement
    };
    judged.iter().enumerate().map(placed).collect()
}

/// What a narrow search says: the best of `links` on the axis where the other clip lies at `map`.
pub(super) fn near_placement(
    links: &[Link],
    there: &Placement,
    map: &[Stretch],
    duration_s: f64,
    within_s: f64,
) -> Placement {
    let Some(best) = links.first() else {
        return Placement::unplaced(format!("Nothing fits within {within_s:.1} s of that place."));
    };
    let others = || links[1..].iter().filter(|link| link.rivals(best));
    let rival = others().map(|link| link.height() / best.height().max(1e-9)).fold(0.0, f64::max);
    let Judgement { verdict, confidence, doubt, signs } = judge(signs(best, 0, rival, false), None);
    // A person pointed there: what fits best is shown, to be looked at.
    let verdict = if verdict == Verdict::Unplaced { Verdict::Check } else { verdict };
    let stretches = compose(map, &best.alignment.stretches, duration_s);
    let start_by = |link: &Link| compose(map, &link.alignment.stretches, duration_s)[0].start_s;
    let mut reasons: Vec<String> = doubt.into_iter().collect();
    reasons.push(format!(
        "Looked for within {within_s:.1} s: sound agrees in {} of {} windows.",
        best.alignment.agreeing, best.alignment.tried
    ));
    Placement {
        verdict,
        confidence,
        component: there.component,
        evidence: vec![Evidence {
            kind: EvidenceKind::Waveform,
            against: Some(best.against),
            start_s: stretches[0].start_s,
            sigma_s: best.alignment.sigma_s,
            score: best.alignment.agreeing as f64 / best.alignment.tried.max(1) as f64,
            used: true,
            disagrees_by_s: 0.0,
        }],
        alternatives: others()
            .take(5)
            .map(|link| Alternative {
                start_s: start_by(link),
                score: (link.height() / best.height()).min(1.0),
            })
            .collect(),
        covered: covered(best),
        travel_s: 0.0,
        residuals: residuals(best, best.clip),
        stretches,
        reasons,
        signs,
    }
}

impl Outcome<'_> {
    pub fn is_axis(&self, clip: usize) -> bool {
        clip == self.origin || self.tied.iter().any(|(tied, _)| *tied == clip)
    }

    fn tree(&self) -> impl Iterator<Item = usize> {
        self.layout.tree.iter().copied()
    }

    /// Links of a clip that agree with its place, strongest first.
    pub fn support(&self, clip: usize) -> Vec<&Link> {
        let mut own: Vec<&Link> = self
            .links
            .iter()
            .filter(|link| (link.clip == clip || link.against == clip) && self.layout.agrees(link))
            .collect();
        own.sort_by(|a, b| b.height().total_cmp(&a.height()));
        own
    }

    /// The moment of a clip's own time at which its position was measured best.
    pub fn measured_middle_s(&self, clip: usize) -> Option<f64> {
        let link = self.support(clip).into_iter().find(|link| link.clip == clip)?;
        let residuals = &link.alignment.residuals;
        let sum: f64 = residuals.iter().map(|r| r.0).sum();
        Some(if residuals.is_empty() { link.middle_s() } else { sum / residuals.len() as f64 })
    }

    /// Other positions of a clip: the link, where it would begin, its height over the best one's (less where fewer
    /// windows agree), and whether another clip of the device lies there.
    fn others(&self, clip: usize, best: &Link) -> Vec<(&Link, f64, f64, bool)> {
        let mut others: Vec<(&Link, f64, f64, bool)> = vec![];
        for link in
            self.links.iter().filter(|link| link.clip == clip && link.alignment.log_odds > WORTH_SAYING)
        {
            let same = self.layout.disagreement_s(link).is_none_or(|by| by.abs() < ECHO_S);
            if same || !self.compares_the_same(link, best) {
                continue;
            }
            let start_s = self.layout.start_by(link, self.clips[clip].duration_s);
            if others.iter().any(|(_, other, ..)| (other - start_s).abs() < SAME_PLACE_S) {
                continue;
            }
            let in_the_way = || {
                let other = self.layout.in_the_way(self.clips, clip, start_s);
                other.is_some_and(|other| !self.is_ambiguous(other))
            };
            let ruled_out =
                self.decided[clip].is_some() && self.timed[clip].iter().any(|t| t.rules_out(start_s));
            let taken = ruled_out || self.layout.apart && in_the_way();
            // A repeat holds the whole of what was compared, not a part of it.
            let whole = (link.alignment.agreeing as f64 / best.alignment.agreeing.max(1) as f64).min(1.0);
            let whole = if link.alignment.fine { whole } else { 1.0 };
            others.push((link, start_s, whole * link.height() / best.height().max(1e-9), taken));
        }
        others.sort_by(|a, b| b.2.total_cmp(&a.2));
        others
    }

    /// The longest part of a clip that was to be somewhere on the track and is not.
    fn astray(&self, clip: usize, best: &Link) -> Option<Part> {
        let whole = Part { from_s: 0.0, to_s: self.clips[clip].duration_s };
        uncovered(&best.alignment, whole, ASTRAY_S).first().copied()
    }

    /// Whether the links of a clip hold two positions of nearly equal height.
    pub fn is_ambiguous(&self, clip: usize) -> bool {
        let own = || self.links.iter().filter(move |link| link.clip == clip);
        own().any(|a| own().any(|b| a.rivals(b) && b.height() > RIVAL * a.height()))
    }

    /// In playback a clip may hold several stretches: a link that speaks of another part is no rival.
    fn compares_the_same(&self, link: &Link, best: &Link) -> bool {
        self.layout.apart
            || best.clip != link.clip
            || !best.alignment.stretches.iter().any(|stretch| {
                let at = 0.5 * (stretch.clip_start_s + stretch.clip_end_s);
                (stretch.axis_s(at) - link.there_s(at)).abs() < SAME_PLACE_S
            })
    }

    /// Where sound cannot decide between several positions, the order of the device's clips may: of all ways to put
    /// its ambiguous clips, the only one that keeps the order.
    pub fn keep_order(&mut self) {
        for device in devices(self.clips) {
            let open: Vec<usize> = (0..self.clips.len())
                .filter(|&clip| {
                    self.clips[clip].device == device && !self.is_axis(clip) && self.is_ambiguous(clip)
                })
                .take(MOST_OPEN)
                .collect();
            let choices: Vec<Vec<Vec<Stretch>>> = open.iter().map(|&clip| self.choices(clip)).collect();
            let mut fitting = vec![];
            self.orders(&open, &choices, &mut vec![], &mut fitting);
            if let [only] = &fitting[..] {
                for (&clip, map) in open.iter().zip(only) {
                    self.layout.maps[clip] = map.clone();
                }
            }
        }
    }

    /// The place a clip has, and the others that fit nearly as well.
    pub fn choices(&self, clip: usize) -> Vec<Vec<Stretch>> {
        let mut all = vec![self.layout.maps[clip].clone()];
        if let Some(best) = self.support(clip).into_iter().find(|link| link.clip == clip) {
            all.extend(
                self.others(clip, best).into_iter().filter(|(_, _, share, _)| *share > ORDERED).take(3).map(
                    |(link, ..)| {
                        let there = &self.layout.maps[link.against];
                        compose(there, &link.alignment.stretches, self.clips[clip].duration_s)
                    },
                ),
            );
        }
        all
    }

    /// All ways to choose a place for each of `open` so that the order of the device's clips is kept.
    fn orders(
        &self,
        open: &[usize],
        choices: &[Vec<Vec<Stretch>>],
        chosen: &mut Vec<Vec<Stretch>>,
        fitting: &mut Vec<Vec<Vec<Stretch>>>,
    ) {
        let Some(&clip) = open.get(chosen.len()) else {
            if !open.is_empty() {
                fitting.push(chosen.clone());
            }
            return;
        };
        for map in &choices[chosen.len()] {
            let after_chosen = open.iter().zip(chosen.iter()).all(|(other, theirs)| {
                self.layout.component[*other] != self.layout.component[clip]
                    || theirs[theirs.len() - 1].end_s() <= map[0].start_s + 0.2
            });
            if after_chosen && self.in_order(clip, map[0].start_s, open) {
                chosen.push(map.clone());
                self.orders(open, choices, chosen, fitting);
                chosen.pop();
            }
        }
    }

    /// Whether a clip that began at `start_s` would keep the order of its device's clips, those of `besides` left out.
    fn in_order(&self, clip: usize, start_s: f64, besides: &[usize]) -> bool {
        let end_s = start_s + self.clips[clip].duration_s;
        (0..self.clips.len())
            .filter(|&other| {
                other != clip
                    && !besides.contains(&other)
                    && self.clips[other].device == self.clips[clip].device
                    && self.layout.component[other] == self.layout.component[clip]
            })
            .all(|other| {
                let map = &self.layout.maps[other];
                let (from, to) = (map[0].start_s, map[map.len() - 1].end_s());
                if other < clip { to <= start_s + 0.2 } else { end_s <= from + 0.2 }
            })
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
                let why = "The sound repeats itself; of the places that fit equally, only this one keeps the order of the device's clips.";
                return Judgement {
                    verdict: Verdict::Check,
                    confidence: BY_ORDER,
                    doubt: Some(why.into()),
                    ..judgement
                };
            }
        }
        judgement
    }

    fn placement(&self, clip: usize, component: u32, judged: &Judgement) -> Placement {
        let Judgement { verdict, confidence, doubt, signs } = judged;
        let (confidence, signs) = (*confidence, *signs);
        if self.is_axis(clip) {
            return self.axis_placement(clip);
        }
        let support = self.support(clip);
        if self.is_islands_axis(clip) && !support.is_empty() {
            let evidence = self.evidence(clip);
            return self.on_the_axis(
                clip,
                component,
                evidence,
                "Reference of its island: its clock is the axis there.",
            );
        }
        let by_label = self.laid[clip].is_some() || self.slated[clip] || self.siblings[clip].is_some();
        if by_label && support.is_empty() {
            return self.placed_by_label(clip, component, judged);
        }
        if let Some(label) = self.ran_alone[clip] {
            let why = format!(
                "Its sound was found nowhere, and by its {} it ran when nothing else did: it belongs to no take.",
                called(label.kind)
            );
            let alternatives = vec![Alternative { start_s: label.start_s, score: 0.5 }];
            return Placement { alternatives, ..Placement::unplaced(why) };
        }
        if !self.clips[clip].is_heard() {
            return Placement::unplaced("It has no sound to listen to.");
        }
        let Some(best) = support.iter().find(|link| link.clip == clip).or(support.first()).copied() else {
            return self.nowhere(clip, component);
        };
        if *verdict == Verdict::Unplaced {
            let alternatives = vec![];
            let why = doubt.clone().unwrap_or_else(|| "Its sound was found nowhere beyond doubt.".into());
            return Placement { alternatives, confidence, ..Placement::unplaced(why) };
        }
        let stretches = self.layout.maps[clip].clone();
        let mut reasons: Vec<String> = doubt.iter().cloned().collect();
        if best.alignment.tried > 0 {
            reasons.push(format!(
                "Sound agrees in {} of {} windows.",
                best.alignment.agreeing, best.alignment.tried
            ));
        }
        reasons.extend(self.spoken_channels(clip, best));
        if support.len() > 1 {
            reasons.push(format!("{} clips say the same.", support.len()));
        }
        reasons.extend(self.said_of_labels(clip));
        reasons.extend(self.said_of_slates(clip));
        reasons.extend(self.spoken_faults(clip, best, &stretches));
        let alternatives = self
            .others(clip, best)
            .into_iter()
            .filter(|(.., taken)| !taken)
            .take(5)
            .map(|(_, start_s, share, _)| Alternative { start_s, score: share.min(1.0) })
            .collect();
        Placement {
            verdict: *verdict,
            confidence,
            component,
            evidence: self.evidence(clip),
            alternatives,
            covered: covered(best),
            travel_s: 0.0,
            residuals: residuals(best, clip),
            stretches,
            reasons,
            signs,
        }
    }

    fn placed_by_label(&self, clip: usize, component: u32, judged: &Judgement) -> Placement {
        let mut reasons: Vec<String> = judged.doubt.iter().cloned().collect();
        reasons.extend(self.said_of_labels(clip));
        reasons.extend(self.said_of_slates(clip));
        Placement {
            verdict: judged.verdict,
            confidence: judged.confidence,
            component,
            stretches: self.layout.maps[clip].clone(),
            evidence: self.evidence(clip),
            alternatives: self.outweighed[clip].into_iter().collect(),
            covered: None,
            travel_s: 0.0,
            residuals: vec![],
            reasons,
            signs: None,
        }
    }

    fn spoken_faults(&self, clip: usize, best: &Link, stretches: &[Stretch]) -> Vec<String> {
        let mut said = vec![];
        said.extend(spoken_bend(stretches));
        for pair in stretches.windows(2).filter(|pair| !joined(&pair[0], &pair[1])) {
            let lost = pair[1].start_s - pair[0].end_s() - (pair[1].clip_start_s - pair[0].clip_end_s);
            if self.layout.apart {
                let what = if lost > 0.0 { "lost" } else { "repeated" };
                said.push(format!(
                    "{:.3} s of sound were {what} at {:.1} s.",
                    lost.abs(),
                    pair[1].clip_start_s
                ));
            } else {
                let way = if lost > 0.0 { "on" } else { "back" };
                said.push(format!(
                    "The track was stopped at {:.1} s and started again {:.1} s further {way}.",
                    pair[0].clip_end_s,
                    lost.abs()
                ));
            }
        }
        if best.clip == clip {
            said.extend(said_of_moves(&best.alignment.moves));
        }
        let rate = stretches.first().map_or(0.0, |stretch| stretch.rate_ppm);
        said.extend(self.spoken_gaps(clip, best));
        if let Some(speed) = said_of_speed(best.speed, best.alignment.fine) {
            said.push(speed);
        } else if (rate.abs() - 1000.0).abs() < 60.0 {
            let way = if rate > 0.0 { "faster" } else { "slower" };
            said.push(format!("It runs 0.1 % {way} than the reference (1000/1001): a pulled-down rate."));
        }
        let in_the_way = self.layout.refused.iter().map(|(index, _)| &self.links[*index]);
        if in_the_way.filter(|link| link.clip == clip).any(|link| link.height() > best.height()) {
            said.push("A stronger position lies over another clip of the same device.".into());
        }
        said
    }

    /// On which channels a position was measured, where there are several.
    fn spoken_channels(&self, clip: usize, best: &Link) -> Option<String> {
        let (mut own, mut there) = (
            (&self.clips[best.clip].sounds, best.sounds.0),
            (&self.clips[best.against].sounds, best.sounds.1),
        );
        if own.0.len() * there.0.len() < 2 {
            return None;
        }
        if best.clip != clip {
            (own, there) = (there, own);
        }
        let name = |(sounds, at): (&Vec<HeardSound>, usize)| match sounds[at].channel {
            _ if sounds.len() == 1 => "its sound".to_owned(),
            Some(channel) => format!("channel {}", channel + 1),
            None => "all channels together".to_owned(),
        };
        Some(format!("Measured on {}, against {} of the other.", name(own), name(there)))
    }

    /// What shows that a clip is in step: the share of it that agreeing windows cover, and the longest part with sound
    /// on both sides that none does.
    fn spoken_gaps(&self, clip: usize, best: &Link) -> Option<String> {
        if best.clip != clip || !best.alignment.fine || !self.layout.apart {
            return None;
        }
        let own = &self.clips[clip].sounds[best.sounds.0];
        let there = &self.clips[best.against].sounds[best.sounds.1];
        let sounds = |part: &Part| {
            let (from_s, to_s) = (best.there_s(part.from_s), best.there_s(part.to_s));
            has_sound(own, *part) && has_sound(there, Part { from_s, to_s })
        };
        let part = uncovered(&best.alignment, best.alignment.part, UNSHOWN_S).into_iter().find(sounds)?;
        Some(format!(
            "From {:.0} s to {:.0} s nothing shows that it is in step, though there is sound on both sides.",
            part.from_s.max(0.0),
            part.to_s
        ))
    }

    fn evidence(&self, clip: usize) -> Vec<Evidence> {
        let mut all: Vec<Evidence> = self
            .links
            .iter()
            .filter(|link| link.clip == clip || link.against == clip)
            .filter_map(|link| {
                let by = self.layout.disagreement_s(link)?;
                let by = if link.clip == clip { by } else { -by };
                let other = if link.clip == clip { link.against } else { link.clip };
                Some(Evidence {
                    kind: EvidenceKind::Waveform,
                    against: Some(other),
                    start_s: self.layout.maps[clip][0].start_s + by,
                    sigma_s: link.alignment.sigma_s,
                    score: if link.alignment.fine {
                        link.alignment.agreeing as f64 / link.alignment.tried.max(1) as f64
                    } else {
                        0.3
                    },
                    used: by.abs() < SAME_PLACE_S,
                    disagrees_by_s: by,
                })
            })
            .chain(self.slate_evidence(clip))
            .chain(self.sibling_evidence(clip))
            .chain(self.timed[clip].iter().map(|label| {
                let own = label.evidence(self.origin, self.layout.maps[clip][0].start_s);
                Evidence { start_s: own.start_s + self.travel_s(clip), ..own }
            }))
            .collect();
        all.sort_by(|a, b| b.used.cmp(&a.used).then(b.score.total_cmp(&a.score)));
        all.truncate(12);
        all
    }

    fn nowhere(&self, clip: usize, component: u32) -> Placement {
        if self.anchors.contains(&clip) {
            let reason = "Reference without a time reference: an island of its own.";
            return self.on_the_axis(clip, component, vec![], reason);
        }
        let refused = self.layout.refused.iter().find(|(index, _)| self.links[*index].clip == clip);
        Placement::unplaced(match refused {
            Some(_) => "Its only position lies over another clip of the same device.",
            None => "Its sound was found nowhere.",
        })
    }

    fn axis_placement(&self, clip: usize) -> Placement {
        let start_s = self.layout.maps[clip][0].start_s;
        if clip == self.origin {
            return self.on_the_axis(clip, 0, vec![], "Reference: its clock is the axis.");
        }
        let evidence = Evidence {
            kind: EvidenceKind::FileTimecode,
            against: Some(self.origin),
            start_s,
            sigma_s: 1e-3,
            score: 1.0,
            used: true,
            disagrees_by_s: 0.0,
        };
        self.on_the_axis(clip, 0, vec![evidence], "Reference: placed by its own time reference.")
    }

    fn on_the_axis(&self, clip: usize, component: u32, evidence: Vec<Evidence>, reason: &str) -> Placement {
        Placement {
            verdict: Verdict::Solid,
            confidence: 0.999,
            component,
            stretches: self.layout.maps[clip].clone(),
            evidence,
            alternatives: vec![],
            covered: None,
            travel_s: 0.0,
            residuals: vec![],
            reasons: vec![reason.into()],
            signs: None,
        }
    }
}

/// The share of what a link compared that agreeing windows cover.
fn covered(link: &Link) -> Option<f64> {
    link.alignment.fine.then(|| share(&link.alignment))
}

/// A clock that bends, in a sentence: from which rate to which.
fn spoken_bend(stretches: &[Stretch]) -> Option<String> {
    let bent =
        runs(stretches).filter(|run| run.len() > 1).max_by(|a, b| length_s(a).total_cmp(&length_s(b)))?;
    let (first, last) = (bent[0], bent[bent.len() - 1]);
    // Farthest from the straight line between its ends.
    let slope = (last.end_s() - first.start_s) / length_s(bent);
    let away = |stretch: &Stretch| {
        (stretch.start_s - first.start_s - slope * (stretch.clip_start_s - first.clip_start_s)).abs()
    };
    let farthest_ms = bent.iter().map(away).fold(0.0, f64::max) * 1e3;
    Some(format!(
        "Its clock bends: from {:+.1} ppm at its beginning to {:+.1} ppm at its end, {farthest_ms:.1} ms from a straight line.",
        first.rate_ppm, last.rate_ppm
    ))
}

/// What is left of a link's windows after the fit, in the clip's own time.
fn residuals(link: &Link, clip: usize) -> Vec<Residual> {
    if link.clip != clip {
        return vec![];
    }
    link.alignment
        .residuals
        .iter()
        .map(|&(clip_s, error)| Residual { clip_s, error_ms: error * 1e3 })
        .collect()
}
