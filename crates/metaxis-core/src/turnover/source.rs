//! What documents say of a source, so that it is found again and whoever reads on knows what it is.

use crate::{
    clip::{ClipFacts, ClipId},
    sync::Verdict,
    time::{FrameRate, Tick, Timecode},
};
use serde_json::{Value, json};

/// What a document must know of a source to be linked back to it.
#[derive(Debug, Clone, Default)]
pub struct Source {
    /// File name as it came from the card.
    pub file_name: String,
    /// Where it lies, as a `file://` URL.
    pub url: String,
    /// What its file says.
    pub facts: ClipFacts,
    /// What else is known of it.
    pub origin: Origin,
}

/// What is known of a source beside its file.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Origin {
    /// Scene.
    pub scene: Option<String>,
    /// Take.
    pub take: Option<String>,
    /// What was noted at the take.
    pub notes: Option<String>,
    /// The take was chosen on set.
    pub circled: bool,
    /// How far its place is to be believed, and the probability that it is right; `None` where it has none.
    pub placed: Option<(Verdict, f64)>,
    /// What its content is known by.
    pub fingerprint: Option<String>,
    /// Metres from what its sound came from, where they are known.
    pub distance_m: Option<f64>,
    /// Moments of its own time that are to be found again, seconds, and what they are: slates.
    pub marks: Vec<(f64, String)>,
}

impl Origin {
    /// Scene and take, as far as they are known.
    pub fn slate(&self) -> String {
        let known = [&self.scene, &self.take].into_iter().flatten();
        known.map(String::as_str).collect::<Vec<_>>().join(" / ")
    }
}

impl Source {
    /// Label of the source's first frame, as a frame count at `rate`: its file timecode, else its time
    /// reference, else zero.
    pub(super) fn first_frame(&self, rate: FrameRate) -> i64 {
        if let Some(timecode) = self.facts.timecode {
            return timecode.since_midnight().frame(rate);
        }
        match (&self.facts.sound, self.facts.time_reference) {
            (Some(sound), Some(samples)) => {
                Tick::of_sample(i64::try_from(samples).unwrap_or(0), sound.rate.0).frame(rate)
            }
            _ => 0,
        }
    }

    /// The same for its sound: samples since midnight, else zero.
    pub(super) fn first_sample(&self) -> i64 {
        let Some(sound) = &self.facts.sound else { return 0 };
        match (self.facts.time_reference, self.facts.timecode) {
            (Some(samples), _) => i64::try_from(samples).unwrap_or(0),
            (None, Some(timecode)) => timecode.since_midnight().sample(sound.rate.0),
            (None, None) => 0,
        }
    }

    /// How many frames its file has: as it counts them, else what its length comes to.
    pub(super) fn frames(&self) -> Option<i64> {
        let picture = self.facts.picture.as_ref()?;
        // At varying rates it is counted by time, as all that is taken of it.
        let counted = picture.frames.filter(|_| picture.constant_rate);
        let by_length = || (picture.duration_s * picture.rate.as_f64()).round() as i64;
        Some(if picture.still { 1 } else { counted.unwrap_or_else(by_length) })
    }

    /// How many samples its sound has, to a channel.
    pub(super) fn samples(&self) -> Option<f64> {
        let sound = self.facts.sound.as_ref()?;
        Some((sound.duration_s * f64::from(sound.rate.0)).round())
    }

    /// Whether its file says what time it was, or a label.
    pub(super) fn has_label(&self) -> bool {
        self.facts.timecode.is_some() || self.facts.time_reference.is_some()
    }

    /// The label that its file has on one of its frames (`own` a second), as a list that counts as `list` does writes it; from
    /// nought on where it has none.
    pub(super) fn label(&self, frame: i64, own: FrameRate, list: Timecode) -> Timecode {
        let Some(first) = self.facts.timecode else {
            // Samples since midnight have no label of their own: they are counted as the list counts.
            let passed = if own == list.rate { frame } else { Tick::of_frame(frame, own).frame(list.rate) };
            let drop = list.drop && self.has_label();
            return Timecode::new(self.first_frame(list.rate) + passed, list.rate, drop);
        };
        let passed = if first.rate == own { frame } else { Tick::of_frame(frame, own).frame(first.rate) };
        first.plus(passed).written_at(list.rate)
    }

    /// The reel: as the file names it, else the file name without its extension.
    pub(super) fn reel(&self) -> String {
        let stem =
            || self.file_name.rsplit_once('.').map_or(self.file_name.as_str(), |(stem, _)| stem).to_owned();
        self.facts.reel.clone().unwrap_or_else(stem)
    }

    /// All of it for whoever reads on; what is not known is left out.
    pub(super) fn metadata(&self, clip: ClipId) -> Value {
        let Origin { scene, take, notes, circled, placed, fingerprint, distance_m, .. } = &self.origin;
        let label = self.facts.timecode;
        let mut all = json!({
            "reel": self.reel(),
            "clip_id": clip.0,
            "timecode": label.map(|own| own.to_string()),
            "timecode_rate": label.map(|own| own.rate.to_string()),
            "drop_frame": label.map(|own| own.drop),
            "time_reference": self.facts.time_reference,
            "scene": scene,
            "take": take,
            "notes": notes,
            "circled": circled,
            "verdict": placed.map(|(verdict, _)| verdict),
            "confidence": placed.map(|(_, confidence)| confidence),
            "fingerprint": fingerprint,
            "distance_m": distance_m,
        });
        if let Some(all) = all.as_object_mut() {
            all.retain(|_, own| !own.is_null());
        }
        all
    }
}
