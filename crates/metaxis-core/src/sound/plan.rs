//! The sound of one file that is to be made: what lies in it, from which moment on, and what is done about each clock.

use super::{
    Along, Correction, Fill, Hole, Laid, Leg, Proposal, Rates, Recording, Samples, SoundHabit, Track,
    by_cable, filled, lay, left, propose_along, recut,
};
use crate::{
    clip::ClipFacts,
    signal::Carries,
    time::{SampleRate, TICKS_PER_SECOND, Tick},
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What was chosen for a sound.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct Handling {
    /// What is done about its clock; what is proposed unless given.
    pub correction: Option<Correction>,
    /// What stands for what it lost.
    pub fill: Fill,
}

/// What is done about one sound.
#[derive(Debug, Clone, PartialEq)]
pub struct Treatment {
    /// What is done about its clock.
    pub correction: Correction,
    /// What stands for what it lost.
    pub fill: Fill,
    /// What was proposed, and why.
    pub proposal: Proposal,
    /// Whether it was laid by a signal that the leading clip had by cable.
    pub by_cable: bool,
    /// The channels that are listened to where a quiet moment is looked for.
    listened: Vec<bool>,
}

/// The sound of a file to be made.
#[derive(Debug, Clone, PartialEq)]
pub struct SoundPlan {
    /// Samples a second.
    pub rate: SampleRate,
    /// Length in samples.
    pub samples: i64,
    /// What lies in it.
    pub laid: Laid,
    /// Tracks that are left out by choice.
    pub off: Vec<Track>,
    /// A re-cut sound is never further off than this, seconds.
    pub recut_s: f64,
    /// What is done about each of its sources.
    pub treatments: Vec<Treatment>,
}

/// Plans what lies along a clip whose pictures are `frame_s` seconds long.
pub fn plan_sound(along: &Along, frame_s: f64, recordings: &[Recording], habit: &SoundHabit) -> SoundPlan {
    let mut laid = lay(along, recordings, habit.form.with_timecode);
    // A group begins and ends with whole frames, a recorder anywhere within one: that is no hole.
    let frame = (frame_s * f64::from(along.rate.0)).ceil() as i64;
    let is_edge = |hole: &Hole| hole.from == 0 || hole.to == along.samples;
    laid.holes.retain(|hole| hole.to - hole.from >= frame || !is_edge(hole));
    let off = habit.tracks.apply(&mut laid);
    let treatments = laid.sources.iter().map(|source| {
        let recording = &recordings[source.files[0].0];
        let Handling { correction, fill } = habit.handling(recording.device, recording.clip);
        let proposal = propose_along(&source.legs, source.rates, frame_s);
        let count = recording.facts.sound.as_ref().map_or(0, |sound| sound.channels as usize);
        let is_sound = |channel: usize| {
            recording.channels.get(channel).is_none_or(|state| state.carries != Carries::Timecode)
        };
        Treatment {
            correction: correction.unwrap_or(proposal.correction),
            fill,
            proposal,
            by_cable: false,
            listened: (0..count).map(is_sound).collect(),
        }
    });
    let treatments = treatments.collect();
    let recut_s = f64::from(habit.form.recut_ms.max(1)) / 1000.0;
    SoundPlan { rate: along.rate, samples: along.samples, laid, off, recut_s, treatments }
}

impl SoundPlan {
    /// Corrects the course of source number `number`, whose samples `sound` has. Where the leading clip may have had the same
    /// signal by cable, `leading` is its own sound, with its course in the file and its rates.
    ///
    /// # Errors
    /// Those of the sounds.
    pub fn correct<S: Samples>(
        &mut self,
        number: usize,
        sound: &mut S,
        leading: Option<(&mut S, Leg, Rates)>,
    ) -> Result<(), S::Error> {
        let (Some(source), Some(own)) = (self.laid.sources.get_mut(number), self.treatments.get_mut(number))
        else {
            return Ok(());
        };
        if own.correction == Correction::Resample
            && let Some((leading, leg, rates)) = leading
            && let Some(legs) = by_cable(&source.legs, source.rates, sound, (leg, rates), leading)?
        {
            source.legs = legs;
            own.by_cable = true;
        }
        let legs: Vec<Leg> = match own.correction {
            Correction::Resample => source.legs.clone(),
            Correction::Leave => left(&source.legs, source.rates),
            Correction::Recut => recut(&source.legs, source.rates, self.recut_s, &own.listened, sound)?,
        };
        source.legs = filled(&legs, own.fill);
        Ok(())
    }
}

/// A picture's range in its clip's own time: its beginning, seconds, and its length in samples at `rate`, with handles of so many
/// samples on both sides. `None` where it has no picture.
pub fn picture_range(facts: &ClipFacts, rate: SampleRate, handles: i64) -> Option<(f64, i64)> {
    let picture = facts.picture.as_ref()?;
    let length = match picture.frames {
        // Frames of one length say it exactly.
        Some(frames) if picture.constant_rate => Tick::of_frame(frames, picture.rate),
        _ => Tick::from_seconds(picture.duration_s),
    };
    let begins_s = facts.picture_delay_s() - handles as f64 / f64::from(rate.0);
    Some((begins_s, length.sample(rate.0) + 2 * handles))
}

/// The sample since midnight at a time of day, less so many before it; around midnight it is that of the day before.
pub fn time_reference(of_day: Tick, rate: SampleRate, before: i64) -> u64 {
    let day = Tick(24 * 3600 * TICKS_PER_SECOND).sample(rate.0);
    (of_day.sample(rate.0) - before).rem_euclid(day) as u64
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        clip::{ClipId, DeviceId, PictureFacts, SoundFacts},
        sync::Stretch,
        time::FrameRate,
    };

    fn picture(rate: FrameRate, frames: Option<i64>) -> ClipFacts {
        let picture = PictureFacts {
            rate,
            constant_rate: true,
            width: 16,
            height: 9,
            codec: String::new(),
            start_s: 0.0,
            duration_s: 10.01,
            frames,
            still: false,
            colour: crate::clip::ColourFacts::default(),
        };
        ClipFacts { duration_s: 10.01, picture: Some(picture), ..ClipFacts::default() }
    }

    #[test]
    fn a_part_of_a_frame_at_an_end_is_no_hole() {
        let sound = SoundFacts {
            rate: SampleRate(48_000),
            channels: 1,
            channel_names: vec![],
            codec: "pcm_s24le".into(),
            start_s: 0.0,
            duration_s: 20.0,
            labelled_s: None,
            streams: vec![],
            left_out: 0,
        };
        let facts = ClipFacts { duration_s: 20.0, sound: Some(sound), ..ClipFacts::default() };
        let leading = [Stretch::whole(20.0, 0.0)];
        let along = Along { leading: &leading, from_s: 0.0, samples: 960_000, rate: SampleRate(48_000) };
        let holes = |begins_s: f64| {
            let stretches = [Stretch::whole(20.0, begins_s)];
            let recording = Recording {
                clip: ClipId(1),
                device: DeviceId(1),
                facts: &facts,
                channels: &[],
                stretches: &stretches,
            };
            let laid = plan_sound(&along, 0.04, &[recording], &SoundHabit::default()).laid;
            laid.holes.iter().map(|hole| (hole.from, hole.to)).collect::<Vec<_>>()
        };
        assert_eq!(holes(0.039), []);
        assert_eq!(holes(-0.039), []);
        assert_eq!(holes(0.041), [(0, 1968)]);
        assert_eq!(holes(-0.041), [(958_032, 960_000)]);
    }

    #[test]
    fn a_range_is_as_long_as_its_frames() {
        let ntsc = FrameRate::new(30_000, 1001).unwrap_or(FrameRate::FPS_25);
        let rate = SampleRate(48_000);
        // 301 frames of 1601.6 samples.
        assert_eq!(picture_range(&picture(ntsc, Some(301)), rate, 0), Some((0.0, 482_082)));
        assert_eq!(picture_range(&picture(ntsc, None), rate, 48_000), Some((-1.0, 480_480 + 96_000)));
        assert_eq!(picture_range(&ClipFacts::default(), rate, 0), None);
    }

    #[test]
    fn time_references_go_around_midnight() {
        let rate = SampleRate(48_000);
        assert_eq!(time_reference(Tick::from_seconds(3600.0), rate, 48_000), 3599 * 48_000);
        assert_eq!(time_reference(Tick(0), rate, 48_000), 86_399 * 48_000);
    }
}
