//! What a clip's own labels say of when it began: timecode in its file, timecode on its sound, its device's clock.

use crate::{clip::ClipFacts, signal::ChannelState, sync::answer::EvidenceKind};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Time of day at which a clip began, by one of its labels.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Label {
    /// [`EvidenceKind::FileTimecode`], [`EvidenceKind::AudioTimecode`] or [`EvidenceKind::DeviceClock`].
    pub kind: EvidenceKind,
    /// Seconds since midnight at the clip's own time zero.
    pub time_s: f64,
    /// Standard deviation of one such label against the next of the same device, seconds.
    pub sigma_s: f64,
    /// Length of a frame of its count, for saying how far off it is; a second for clocks.
    pub unit_s: f64,
}

/// Frames that a person took off a device's labels, kind by kind; negative ones were added.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct TakenOff {
    /// Off the timecode in its files.
    #[ts(type = "number")]
    pub file_timecode: i64,
    /// Off the timecode on its sound.
    #[ts(type = "number")]
    pub audio_timecode: i64,
    /// Off the timecode that stands on its slates.
    #[ts(type = "number")]
    pub slate: i64,
}

impl TakenOff {
    /// Those of a kind; clocks count no frames.
    pub fn of(&self, kind: EvidenceKind) -> i64 {
        match kind {
            EvidenceKind::FileTimecode => self.file_timecode,
            EvidenceKind::AudioTimecode => self.audio_timecode,
            EvidenceKind::Slate => self.slate,
            EvidenceKind::Waveform | EvidenceKind::DeviceClock | EvidenceKind::Hand => 0,
        }
    }

    /// Sets those of a kind, where it counts frames.
    pub fn set(&mut self, kind: EvidenceKind, frames: i64) {
        match kind {
            EvidenceKind::FileTimecode => self.file_timecode = frames,
            EvidenceKind::AudioTimecode => self.audio_timecode = frames,
            EvidenceKind::Slate => self.slate = frames,
            EvidenceKind::Waveform | EvidenceKind::DeviceClock | EvidenceKind::Hand => {}
        }
    }
}

/// Standard deviation of what is rounded to a whole unit.
const ROUNDED: f64 = 0.289;
/// Creation times are written in whole seconds, some at the press of the button and some when the file was made.
const CLOCK_SIGMA_S: f64 = 1.0;
/// A decoded timecode signal is known to a sample; what drives it jitters a little more.
const SIGNAL_SIGMA_S: f64 = 0.1e-3;
/// A time reference counts samples.
const REFERENCE_SIGMA_S: f64 = 0.05e-3;
/// Share of a clip's audio timecode that one count has to make up to be believed.
const MOSTLY: f64 = 0.6;
/// Timecode that ran this much faster or slower was played from something else.
const OWN_SPEED: f64 = 2e-3;

/// The labels of a clip, from what its file says and what its channels carry.
pub fn labels(facts: &ClipFacts, channels: &[ChannelState]) -> Vec<Label> {
    let mut found = vec![];
    let frame_of =
        |timecode: Option<crate::time::FrameRate>| timecode.map_or(0.04, |rate| 1.0 / rate.as_f64());
    if let Some(time_s) = facts.time_reference_s() {
        found.push(Label {
            kind: EvidenceKind::FileTimecode,
            time_s,
            sigma_s: REFERENCE_SIGMA_S,
            unit_s: frame_of(facts.speed.timecode_rate),
        });
    } else if let Some(label) = facts.timecode {
        let unit_s = 1.0 / label.rate.as_f64();
        found.push(Label {
            kind: EvidenceKind::FileTimecode,
            // It labels the first picture, which may not begin with the sound.
            time_s: label.since_midnight().seconds() - facts.picture_delay_s(),
            sigma_s: ROUNDED * unit_s,
            unit_s,
        });
    }
    let carried = channels.iter().filter_map(|channel| channel.audio_timecode.as_ref());
    // Where labels stand or jump about, none of their counts is the clip's; at another speed they are not its time.
    let running =
        |found: &&crate::ltc::LtcFound| found.steady > MOSTLY && (found.speed() - 1.0).abs() < OWN_SPEED;
    if let Some(signal) = carried.filter(running).max_by(|a, b| a.share.total_cmp(&b.share)) {
        found.push(Label {
            kind: EvidenceKind::AudioTimecode,
            time_s: signal.first.since_midnight().seconds() - signal.first_s * signal.speed(),
            sigma_s: SIGNAL_SIGMA_S,
            unit_s: 1.0 / signal.first.rate.as_f64(),
        });
    }
    if let Some(time_s) = facts.created_clock_s() {
        found.push(Label { kind: EvidenceKind::DeviceClock, time_s, sigma_s: CLOCK_SIGMA_S, unit_s: 1.0 });
    }
    found
}
