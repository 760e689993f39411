//! What labels say of a clip's place, and what is believed of a clip that they alone place.

use super::{
    Evidence, EvidenceKind, Verdict,
    clocks::{ClockTrust, DeviceClock, KINDS, counts_by, label_of},
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
/// Timecodes this near to each other are level, frames.
pub(super) const LEVEL_FRAMES: f64 = 1.5;
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
    pub fn decides(&self) -> bool {
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
    pub fn outweighs(&self, start_s: f64, own: &Judgement) -> bool {
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
            let mut all: Vec<Timed> = KINDS
                .into_iter()
                .filter_map(|kind| {
                    let label = label_of(clip, kind)?;
                    let clock = counts_by(clocks, clip.device, &label).filter(|clock| clock.is_of_use())?;
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

/// A clip that ran with another, by the timecode of both.
#[derive(Debug, Clone, Copy)]
pub(super) struct Sibling {
    /// The clip that was heard.
    pub with: usize,
    /// Kind of the labels that say so.
    pub kind: EvidenceKind,
    /// Other pairs of these two devices that were heard and say the same.
    pub confirmed: usize,
    /// Standard deviation of the place, seconds.
    pub sigma_s: f64,
}
