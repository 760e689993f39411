//! Labels at work: they decide between positions that sound fits equally, place what sound does not, lay islands on the
//! axis, and speak for or against what sound says.

use super::{
    DeviceRate, Evidence, EvidenceKind, Verdict,
    clocks::{ClockTrust, DeviceClock, label_of},
    graph::overlap_s,
    outcome::Outcome,
    verdict::Judgement,
};

/// Where one of a clip's labels puts its start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Timed {
    pub kind: EvidenceKind,
    /// Start on the axis by what the clip hears, where it lies by that, seconds: labels are of the picture, and what is
    /// far is heard later.
    pub start_s: f64,
    pub sigma_s: f64,
    /// Length of a frame of its count, seconds.
    pub unit_s: f64,
    /// Clips on which its device's offset was measured; 0 where it is only assumed.
    pub measured: usize,
    /// Probability that it is right to half a frame.
    pub within_half: f64,
    /// Devices whose measured timecode is level with the reference's: what it is taken to be jammed with.
    pub level: usize,
}

/// Confidence of a clip placed by audio timecode, and by file timecode, of which this many other clips agree.
const BY_SIGNAL: f64 = 0.99;
const BY_FILE: f64 = 0.985;
const FEW_AGREE: (usize, f64) = (2, 0.93);
/// By timecode that nothing heard confirms.
const UNHEARD: f64 = 0.7;
/// The same where there was sound that ought to have been found.
const UNHEARD_AND_UNLIKE: f64 = 0.5;
/// Share of a weak sound's doubt that an agreeing timecode leaves.
const AGREEING: f64 = 0.08;
/// A sound this weak gives way to timecode that was measured.
const WEAK: f64 = 0.6;
/// Timecodes this near to each other are level, frames.
const LEVEL_FRAMES: f64 = 1.5;
/// Timecode this likely to be right to half a frame is exact.
const EXACT: f64 = 0.9;
/// So few windows are weak.
const FEW_WINDOWS: usize = 6;
/// Timecode that is off by a fault is off by less than this, or by hours, seconds.
const SLIPS_S: f64 = 2.0;
/// Clocks decide between positions at least this far apart, seconds.
const CLOCK_APART_S: f64 = 8.0;

impl Timed {
    /// How far it can be told from another position, seconds.
    fn tolerance_s(&self) -> f64 {
        if self.is_timecode() { 1.5 * self.unit_s + 3.0 * self.sigma_s } else { CLOCK_APART_S / 2.0 }
    }

    pub fn is_timecode(&self) -> bool {
        self.kind != EvidenceKind::DeviceClock
    }

    /// Whether it may choose between positions: a clock read off one clip alone may be one of when files are closed.
    fn decides(&self) -> bool {
        self.measured >= if self.is_timecode() { 1 } else { 2 }
    }

    /// Whether it agrees with a start.
    pub fn agrees(&self, start_s: f64) -> bool {
        (self.start_s - start_s).abs() <= self.tolerance_s()
    }

    /// Whether a start cannot be right if it is.
    pub fn rules_out(&self, start_s: f64) -> bool {
        self.measured > 0 && !self.agrees(start_s)
    }

    /// Whether it outweighs a sound that puts the clip at `start_s`: it is exact, and the sound few windows in a place that no
    /// timecode slips to.
    fn outweighs(&self, start_s: f64, own: &Judgement) -> bool {
        let few = own.signs.is_none_or(|signs| {
            let doubtful = own.verdict != Verdict::Solid && signs.agreeing < FEW_WINDOWS;
            signs.confirmed == 0 && (doubtful || 2 * signs.agreeing < signs.tried)
        });
        let exact = self.kind == EvidenceKind::AudioTimecode || self.within_half >= EXACT;
        few && exact && (start_s - self.start_s).abs() > SLIPS_S
    }

    /// What is believed of a clip that it alone places.
    pub fn judgement(&self, clip_is_silent: bool) -> Judgement {
        let called = called(self.kind);
        let why = if clip_is_silent { "It has no sound to match" } else { "Its sound was found nowhere" };
        let (confidence, doubt) = match (self.kind, self.measured) {
            (EvidenceKind::DeviceClock, _) => {
                let half_frame = 0.02 / self.sigma_s.max(0.02);
                let about = (2.0 * self.sigma_s).ceil();
                (half_frame, format!("{why}: placed by its {called} alone, to about {about:.0} s."))
            }
            (_, 0) => {
                let alone = if clip_is_silent { UNHEARD } else { UNHEARD_AND_UNLIKE };
                // The more are jammed alike, the likelier one more is.
                let alike = 2 * self.level.max(1) - 1;
                let confidence = (1.0 - (1.0 - alone) / alike as f64).min(FEW_AGREE.1);
                let others = match self.level {
                    0 | 1 => String::new(),
                    count => format!("; {count} other devices are jammed alike"),
                };
                (
                    confidence,
                    format!("{why}: placed by its {called}, which no clip of the device confirms{others}."),
                )
            }
            (_, count) if count < FEW_AGREE.0 => (
                FEW_AGREE.1.min(self.within_half),
                format!("{why}: placed by its {called}, confirmed by one clip of the device."),
            ),
            (EvidenceKind::AudioTimecode, _) => (BY_SIGNAL, String::new()),
            _ if self.within_half >= BY_FILE => (BY_FILE, String::new()),
            (_, count) => (
                self.within_half,
                format!(
                    "{why}: placed by its {called} to the frame it names, as sound has it in {count} clips of the device."
                ),
            ),
        };
        let verdict = if doubt.is_empty() { Verdict::Solid } else { Verdict::Check };
        Judgement { verdict, confidence, doubt: Some(doubt).filter(|doubt| !doubt.is_empty()), signs: None }
    }

    pub fn evidence(&self, against: usize, start_s: f64) -> Evidence {
        let by = self.start_s - start_s;
        Evidence {
            kind: self.kind,
            against: Some(against),
            start_s: self.start_s,
            sigma_s: self.sigma_s,
            score: if self.measured > 0 { 1.0 } else { 0.5 },
            used: self.is_timecode() && by.abs() <= self.tolerance_s(),
            disagrees_by_s: by,
        }
    }
}

/// A kind of label in words.
pub(super) fn called(kind: EvidenceKind) -> &'static str {
    match kind {
        EvidenceKind::AudioTimecode => "audio timecode",
        EvidenceKind::DeviceClock => "device's clock",
        EvidenceKind::Slate => "timecode slate",
        _ => "file timecode",
    }
}

/// What the labels of every clip say, the surest first; `travel_s` is how much later each belongs than it hears.
pub(super) fn timed(
    clips: &[super::DayClip],
    clocks: &[DeviceClock],
    travel_s: &dyn Fn(usize) -> f64,
) -> Vec<Vec<Timed>> {
    let mut level: Vec<usize> = clocks
        .iter()
        .filter(|clock| {
            let measured = matches!(clock.trust, ClockTrust::Measured(_));
            measured
                && clock.kind.counts_frames()
                && clock.late_s.is_some_and(|late_s| late_s.abs() < LEVEL_FRAMES * clock.unit_s)
        })
        .map(|clock| clock.device)
        .collect();
    level.sort_unstable();
    level.dedup();
    clips
        .iter()
        .enumerate()
        .map(|(number, clip)| {
            let travel_s = travel_s(number);
            let own = clocks.iter().filter(|clock| clock.device == clip.device && clock.is_of_use());
            let mut all: Vec<Timed> = own
                .filter_map(|clock| {
                    let label = label_of(clip, clock.kind)?;
                    let measured = match clock.trust {
                        ClockTrust::Measured(count) => count,
                        _ => 0,
                    };
                    Some(Timed {
                        kind: clock.kind,
                        start_s: clock.axis_of(label.time_s) - travel_s,
                        sigma_s: clock.sigma_s,
                        unit_s: clock.unit_s,
                        measured,
                        within_half: clock.within_half,
                        level: level.iter().filter(|device| **device != clip.device).count(),
                    })
                })
                .collect();
            all.sort_by(|a, b| a.sigma_s.total_cmp(&b.sigma_s));
            all
        })
        .collect()
}

impl Outcome<'_> {
    /// The surest label of a clip that may place it.
    fn best_label(&self, clip: usize) -> Option<Timed> {
        self.timed[clip].first().copied()
    }

    /// Sound that found nothing beyond doubt has no vote where timecode says something else: such clips are set apart, for
    /// their labels to place.
    pub fn set_weak_apart(&mut self) {
        let judged = self.judge_all();
        for (clip, own) in judged.iter().enumerate() {
            let start_s = self.layout.maps[clip][0].start_s;
            let mut timecodes = self.timed[clip].iter().filter(|label| label.is_timecode()).peekable();
            let told = timecodes.peek().is_some() && !timecodes.any(|label| label.agrees(start_s));
            let weak = own.verdict == Verdict::Unplaced && !self.support(clip).is_empty();
            if weak && told && !self.is_axis(clip) && !self.is_islands_axis(clip) {
                self.layout.set_apart(clip, self.clips[clip].duration_s, self.links);
            }
        }
    }

    /// Of several positions that sound fits nearly alike, the only one that a measured label does not rule out.
    pub fn choose_by_labels(&mut self) {
        for clip in 0..self.clips.len() {
            let Some(label) = self.best_label(clip).filter(Timed::decides) else { continue };
            if self.is_axis(clip) || !self.is_ambiguous(clip) {
                continue;
            }
            let fitting: Vec<_> =
                self.choices(clip).into_iter().filter(|map| label.agrees(map[0].start_s)).collect();
            if let [only] = &fitting[..] {
                self.layout.maps[clip] = only.clone();
                self.decided[clip] = Some(label.kind);
            }
        }
    }

    /// Lays single clips that sound has not placed by their own labels; each runs as its device does.
    pub fn place_by_labels(&mut self, rates: &[DeviceRate]) {
        let origin = self.layout.component[self.origin];
        for clip in 0..self.clips.len() {
            let island = self.layout.component[clip];
            let alone = self.layout.members(island).len() == 1 && !self.anchors.contains(&clip);
            let Some(label) = self.best_label(clip).filter(|_| alone && island != origin) else { continue };
            if let Some(rate) = rates.iter().find(|rate| rate.device == self.clips[clip].device) {
                for stretch in &mut self.layout.maps[clip] {
                    (stretch.rate_ppm, stretch.rate_sigma_ppm) = (rate.rate_ppm, rate.sigma_ppm);
                }
            }
            if !label.is_timecode() {
                // Where there is sound to find and none was found, a clock's guess is worse than none.
                if !self.clips[clip].is_heard() {
                    self.laid[clip] = Some((clip, label));
                    self.lie_alone(clip, &label);
                }
                continue;
            }
            let start_s = label.start_s;
            let free = self.layout.in_the_way_at(self.clips, clip, start_s, origin).is_none();
            if free && self.timed[clip].iter().all(|other| !other.is_timecode() || other.agrees(start_s)) {
                let by_s = start_s - self.layout.maps[clip][0].start_s;
                self.layout.merge(island, origin, by_s);
                for stretch in &mut self.layout.maps[clip] {
                    stretch.start_sigma_s = stretch.start_sigma_s.hypot(label.sigma_s);
                }
                self.laid[clip] = Some((clip, label));
            }
        }
        self.leave_what_ran_alone();
    }

    /// A clip with sound that a label alone puts where nothing else ran belongs to no take: where it would lie stays
    /// an alternative.
    fn leave_what_ran_alone(&mut self) {
        let by_label_only = |outcome: &Self, clip: usize| {
            outcome.laid[clip].is_some() && outcome.support(clip).is_empty() && outcome.clips[clip].is_heard()
        };
        let only: Vec<usize> = (0..self.clips.len()).filter(|&clip| by_label_only(self, clip)).collect();
        let origin = self.layout.component[self.origin];
        let alone: Vec<usize> = only
            .iter()
            .copied()
            .filter(|&clip| {
                (0..self.clips.len()).all(|other| {
                    only.contains(&other)
                        || self.layout.component[other] != origin
                        || overlap_s(&self.layout.maps[clip], &self.layout.maps[other]) <= 0.0
                })
            })
            .collect();
        for clip in alone {
            self.layout.component[clip] = clip;
            self.ran_alone[clip] = self.laid[clip].take().map(|(_, label)| label);
        }
    }

    /// What labels make of what sound makes a clip's position: `own` with them heard.
    pub fn weigh(&mut self, clip: usize, own: Judgement) -> Judgement {
        if self.slated[clip] {
            return self.by_slate(clip);
        }
        if let Some(sibling) = &self.siblings[clip] {
            return self.by_sibling(sibling);
        }
        if let Some((_, label)) = self.laid[clip] {
            let silent = !self.clips[clip].is_heard();
            let by_label = label.judgement(silent);
            if self.support(clip).is_empty() {
                return by_label;
            }
            // Its island hangs together by sound, and on the axis by timecode.
            return Judgement { confidence: own.confidence.min(by_label.confidence), ..own };
        }
        let Some(label) = self.timed[clip].iter().find(|label| label.is_timecode() && label.measured > 1)
        else {
            return own;
        };
        let label = *label;
        let start_s = self.layout.maps[clip][0].start_s;
        if self.is_axis(clip) || self.support(clip).is_empty() {
            return own;
        }
        if label.agrees(start_s) {
            if own.verdict == Verdict::Unplaced {
                // Each by itself leaves a doubt; that they meet by chance is unlikely.
                let by = label.judgement(false);
                let confidence = by.confidence.max(1.0 - (1.0 - own.confidence) * AGREEING);
                let doubt = format!("Its sound is weak, but lies where its {} says.", called(label.kind));
                return Judgement { verdict: Verdict::Check, confidence, doubt: Some(doubt), ..own };
            }
            let confidence = 1.0 - (1.0 - own.confidence) * AGREEING;
            let sure = own.verdict == Verdict::Check && confidence >= super::verdict::SOLID;
            return Judgement {
                confidence: confidence.min(0.999).max(own.confidence),
                verdict: if sure { Verdict::Solid } else { own.verdict },
                doubt: own.doubt.filter(|_| !sure),
                ..own
            };
        }
        let is_weak = own.verdict != Verdict::Solid && own.confidence < WEAK;
        if is_weak || label.outweighs(start_s, &own) {
            let stretch = self.layout.maps[clip][0];
            // It no longer lies by what it hears.
            let start_s = label.start_s + self.travel_s(clip);
            let end_s = self.clips[clip].duration_s;
            self.layout.maps[clip] = vec![super::Stretch {
                clip_start_s: 0.0,
                clip_end_s: end_s,
                start_s,
                start_sigma_s: label.sigma_s,
                ..stretch
            }];
            self.layout.component[clip] = self.layout.component[self.origin];
            self.laid[clip] = Some((clip, label));
            self.outweighed[clip] =
                Some(super::Alternative { start_s: stretch.start_s, score: own.confidence });
            let by = label.judgement(false);
            let why = format!("Its sound fits too weakly elsewhere: its {} was used.", called(label.kind));
            return Judgement {
                verdict: Verdict::Check,
                doubt: Some(why),
                confidence: by.confidence.min(0.93),
                ..by
            };
        }
        own
    }

    /// What a clip's labels have to say about its place, in sentences.
    pub fn said_of_labels(&self, clip: usize) -> Vec<String> {
        let start_s = self.layout.maps[clip][0].start_s;
        let mut said = vec![];
        if let Some(kind) = self.decided[clip] {
            said.push(format!("The sound repeats itself; its {} decided.", called(kind)));
        }
        if let Some((guide, label)) = self.laid[clip] {
            if guide == clip && self.support(clip).is_empty() {
                let count = label.measured;
                // What is in doubt has said so already.
                if label.judgement(true).doubt.is_none() {
                    let (kind, silent) = (called(label.kind), !self.clips[clip].is_heard());
                    let why = if silent { "It has no sound to match: placed" } else { "Placed" };
                    said.push(format!(
                        "{why} by its {kind}, which agrees with sound in {count} clips of its device."
                    ));
                }
            }
            return said;
        }
        for label in self.timed[clip].iter().filter(|label| label.is_timecode()) {
            let late_s = start_s - label.start_s;
            if label.agrees(start_s) {
                if label.measured > 1 {
                    said.push(format!("Its {} says the same.", called(label.kind)));
                }
            } else {
                let way = if late_s < 0.0 { "ahead of" } else { "behind" };
                said.push(format!(
                    "Its {} is {} {way} its sound: sound was used.",
                    called(label.kind),
                    in_frames(late_s, label.unit_s)
                ));
            }
        }
        said
    }
}

/// A difference in frames of `unit_s`, or in seconds where it is long.
fn in_frames(seconds: f64, unit_s: f64) -> String {
    let frames = (seconds / unit_s).abs();
    if frames < 500.0 { format!("{frames:.1} frames") } else { format!("{:.1} s", seconds.abs()) }
}
