//! Where a clip lies on the axis, why, and how far that is to be trusted.

use super::GivenDistance;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How far a position is to be trusted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// Placed, beyond reasonable doubt.
    Solid,
    /// Placed; a person should look.
    Check,
    /// No position.
    Unplaced,
    /// A person decided.
    ByHand,
}

/// A part of a clip that lies on the axis in one piece.
///
/// `axis = start_s + (clip − clip_start_s) / (1 + rate_ppm·1e-6)`.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Stretch {
    /// Beginning in the clip's own time, seconds.
    pub clip_start_s: f64,
    /// End in the clip's own time, seconds.
    pub clip_end_s: f64,
    /// Beginning on the axis, seconds.
    pub start_s: f64,
    /// How much faster the clip's clock runs than the reference's.
    pub rate_ppm: f64,
    /// Standard deviation of `start_s`.
    pub start_sigma_s: f64,
    /// Standard deviation of `rate_ppm`.
    pub rate_sigma_ppm: f64,
}

impl Stretch {
    /// Axis time of the clip's own time `clip_s`.
    pub fn axis_s(&self, clip_s: f64) -> f64 {
        self.start_s + (clip_s - self.clip_start_s) / (1.0 + self.rate_ppm * 1e-6)
    }

    /// The clip's own time at axis time `axis_s`.
    pub fn clip_s(&self, axis_s: f64) -> f64 {
        self.clip_start_s + (axis_s - self.start_s) * (1.0 + self.rate_ppm * 1e-6)
    }

    /// How fast the clip plays on the axis, 1 at its own speed; `None` where it differs by no more than clocks do.
    pub fn retimed(&self) -> Option<f64> {
        (self.rate_ppm.abs() > RETIMED_PPM).then_some(1.0 + self.rate_ppm * 1e-6)
    }

    /// End on the axis, seconds.
    pub fn end_s(&self) -> f64 {
        self.axis_s(self.clip_end_s)
    }
}

/// No device's clock is this far off: beyond, it is another speed (0.1 % pulled down is 1000).
const RETIMED_PPM: f64 = 600.0;

/// A jump on the axis from one stretch to the next that is larger than this is a break; what is smaller is the joint of a
/// clock that bends.
const JOINED_S: f64 = 1e-4;

/// Whether `next` goes on where `last` ends, on the clip and on the axis.
pub fn joined(last: &Stretch, next: &Stretch) -> bool {
    (next.clip_start_s - last.clip_end_s).abs() < JOINED_S && (next.start_s - last.end_s()).abs() < JOINED_S
}

/// The runs of `stretches` without a break: each is one stretch, or several where the clock bends.
pub fn runs(stretches: &[Stretch]) -> impl Iterator<Item = &[Stretch]> {
    stretches.chunk_by(joined)
}

/// Length of a run in the clip's own time, seconds.
pub(super) fn length_s(run: &[Stretch]) -> f64 {
    match run {
        [] => 0.0,
        [first, .., last] => last.clip_end_s - first.clip_start_s,
        [only] => only.clip_end_s - only.clip_start_s,
    }
}

/// What a piece of evidence rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum EvidenceKind {
    /// The same sound heard by two devices.
    Waveform,
    /// Timecode in the file: a timecode track or BWF time reference.
    FileTimecode,
    /// Timecode signal on a sound channel.
    AudioTimecode,
    /// Sticks seen and heard.
    Slate,
    /// Creation time.
    DeviceClock,
    /// A person said so.
    Hand,
}

impl EvidenceKind {
    /// Whether it is timecode, which counts frames.
    pub fn counts_frames(self) -> bool {
        matches!(self, Self::FileTimecode | Self::AudioTimecode | Self::Slate)
    }
}

/// One reason for a position, with its uncertainty. `against` names a clip by the caller's index.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Evidence {
    /// What it rests on.
    pub kind: EvidenceKind,
    /// The clip it was measured against.
    pub against: Option<usize>,
    /// Where it puts the start of the clip on the axis, seconds.
    pub start_s: f64,
    /// Standard deviation, seconds.
    pub sigma_s: f64,
    /// Strength, 0 to 1.
    pub score: f64,
    /// Whether the position rests on it.
    pub used: bool,
    /// How far it lies from the position taken, seconds.
    pub disagrees_by_s: f64,
}

/// Another position that fits, though less well.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Alternative {
    /// Start of the clip on the axis, seconds.
    pub start_s: f64,
    /// Strength relative to the position taken, 0 to 1.
    pub score: f64,
}

/// What is left at one moment of the clip after the fit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, TS)]
pub struct Residual {
    /// The clip's own time, seconds.
    pub clip_s: f64,
    /// Measured minus fitted offset, milliseconds.
    pub error_ms: f64,
}

/// What a confidence was reckoned from.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Signs {
    /// Whether the waves agree, not only the rise and fall of the sound.
    pub waves: bool,
    /// How far the windows together stand above the lags beside them (or the pattern above its other lags), in
    /// standard deviations.
    pub height: f64,
    /// Height of the best neighbour within 64 ms over that.
    pub beside: f64,
    /// How far echoes hide the direct sound, see [`Alignment`](super::Alignment).
    pub murk: f64,
    /// Windows measured,
    pub tried: usize,
    /// and those that agree.
    pub agreeing: usize,
    /// Other clips that say the same.
    pub confirmed: usize,
    /// Height of the best other position that is free, over this one's.
    pub rival: f64,
    /// Whether a long part of a take agrees with no place on the track.
    pub astray: bool,
    /// Whether it holds a jump that nothing but what repeats speaks for.
    pub unforced: bool,
}

/// The engine's answer for one clip.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Placement {
    /// How far to trust it.
    pub verdict: Verdict,
    /// Estimated probability that the position is right to within half a frame.
    pub confidence: f64,
    /// Island of clips whose positions can be compared.
    pub component: u32,
    /// Where it lies; empty when unplaced.
    pub stretches: Vec<Stretch>,
    /// Why.
    pub evidence: Vec<Evidence>,
    /// What else would fit.
    pub alternatives: Vec<Alternative>,
    /// Share of what sound compared that agreeing windows cover; `None` where it does not lie by its waves.
    #[serde(default)]
    pub covered: Option<f64>,
    /// How much later it was laid than its microphone hears, since that is far from what it shows, seconds.
    #[serde(default)]
    pub travel_s: f64,
    /// What was left along the clip.
    pub residuals: Vec<Residual>,
    /// In sentences: what decided, what is doubtful.
    pub reasons: Vec<String>,
    /// What the confidence was reckoned from; not kept.
    #[serde(skip)]
    #[ts(skip)]
    pub signs: Option<Signs>,
}

impl Placement {
    /// No position, with the sentence that says why.
    pub fn unplaced(reason: impl Into<String>) -> Self {
        Self {
            verdict: Verdict::Unplaced,
            confidence: 0.0,
            component: 0,
            stretches: vec![],
            evidence: vec![],
            alternatives: vec![],
            covered: None,
            travel_s: 0.0,
            residuals: vec![],
            reasons: vec![reason.into()],
            signs: None,
        }
    }

    /// Lays a clip that was placed by its sound so much later that its picture is right.
    pub(super) fn step_back(&mut self, given: GivenDistance) {
        let by = given.travel_s();
        if by <= 0.0 || self.stretches.is_empty() {
            return;
        }
        self.stretches.iter_mut().for_each(|stretch| stretch.start_s += by);
        self.alternatives.iter_mut().for_each(|other| other.start_s += by);
        self.travel_s = by;
        self.reasons.push(format!(
            "Its microphone is {:.1} m away: it lies {:.0} ms later than it hears.",
            given.metres(),
            by * 1e3
        ));
    }

    /// Lays it so much later with everything that is said of its place.
    pub(super) fn shift(&mut self, by_s: f64) {
        self.stretches.iter_mut().for_each(|stretch| stretch.start_s += by_s);
        self.alternatives.iter_mut().for_each(|other| other.start_s += by_s);
        self.evidence.iter_mut().for_each(|evidence| evidence.start_s += by_s);
    }

    /// Where it would lie by what its microphone hears.
    pub(super) fn heard_at(&self) -> Vec<Stretch> {
        let heard = |own: &Stretch| Stretch { start_s: own.start_s - self.travel_s, ..*own };
        self.stretches.iter().map(heard).collect()
    }

    /// Axis time of a moment of the clip's own time; None where no stretch holds it.
    pub fn axis_s(&self, clip_s: f64) -> Option<f64> {
        let holds = |own: &&Stretch| (own.clip_start_s..=own.clip_end_s).contains(&clip_s);
        self.stretches.iter().find(holds).map(|own| own.axis_s(clip_s))
    }

    /// The clip's own time at an axis time; None where it did not run then.
    pub fn clip_s(&self, axis_s: f64) -> Option<f64> {
        let holds = |own: &&Stretch| (own.start_s..=own.end_s()).contains(&axis_s);
        self.stretches.iter().find(holds).map(|own| own.clip_s(axis_s))
    }

    /// Extent on the axis, seconds; `None` when unplaced.
    pub fn extent_s(&self) -> Option<(f64, f64)> {
        Some((self.stretches.first()?.start_s, self.stretches.last()?.end_s()))
    }
}
