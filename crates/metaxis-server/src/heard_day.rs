//! Between files that were listened to and the engine in the core: shared by the page and the command.

use crate::pictures::Pictured;
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Group, GroupBy, GroupDay, PlacedClip, Slate, day_zero, propose_groups},
    ltc::{AgainstBox, LtcFound},
    signal::{Bands, ChannelState, Heard, Mix, Pattern},
    sync::{
        DayClip, EvidenceKind, GivenDistance, HeardSound, Island, Label, Placement, SlateMark, TakenOff,
        labels,
    },
    time::Tick,
};
use metaxis_media::{
    Cache, Fingerprint, MediaError, Stop, StoredSamples, forget_heard, guarded, is_heard, listen, still_holds,
};
use std::{path::Path, sync::LazyLock};

/// One of a clip's sounds as the engine needs it.
pub struct Sound {
    samples: StoredSamples,
    pattern: Pattern,
    late_s: f64,
    channel: Option<usize>,
}

impl Sound {
    fn heard(&self) -> HeardSound<'_> {
        let Self { samples, pattern, late_s, channel } = self;
        HeardSound { pattern, samples, late_s: *late_s, channel: *channel }
    }
}

/// A clip that was listened to.
pub struct Listened {
    /// Number of the clip.
    pub id: ClipId,
    /// Number of the device.
    pub device: DeviceId,
    /// What its file says.
    pub facts: ClipFacts,
    /// What its channels carry.
    pub channels: Vec<ChannelState>,
    /// What was marked of its slates.
    pub marks: Vec<SlateMark>,
    /// Time of day at its own time zero, by the timecode a person read off a slate, seconds.
    pub slate_label_s: Option<f64>,
    /// Distance of its microphone.
    pub distance: GivenDistance,
    /// Frames that are to be taken off its timecodes.
    pub taken_off: TakenOff,
    /// Its sounds, where it has any to match.
    pub sounds: Vec<Sound>,
}

impl Listened {
    /// A clip of which nothing but what its file says is known.
    pub fn new(id: ClipId, device: DeviceId, facts: ClipFacts) -> Self {
        Self {
            id,
            device,
            facts,
            channels: vec![],
            marks: vec![],
            slate_label_s: None,
            distance: GivenDistance::None,
            taken_off: TakenOff::default(),
            sounds: vec![],
        }
    }

    /// As a picture to look at; its file, and the fingerprint of that.
    pub fn pictured<'a>(&'a self, path: &'a Path, fingerprint: &'a Fingerprint) -> Pictured<'a> {
        let both = |mark: &SlateMark| mark.picture_s.is_some() && mark.sound_s.is_some();
        Pictured {
            device: self.device,
            path,
            fingerprint,
            facts: &self.facts,
            distance: self.distance,
            marked: self.marks.iter().any(both),
        }
    }

    /// When it began by its own labels, and by what a person read off a timecode slate.
    fn labels(&self) -> Vec<Label> {
        let mut all: Vec<Label> =
            labels(&self.facts, &self.channels).into_iter().map(|label| self.shifted(label)).collect();
        all.extend(self.slate_label_s.map(|time_s| {
            self.shifted(Label { kind: EvidenceKind::Slate, time_s, sigma_s: 0.012, unit_s: 0.04 })
        }));
        all
    }

    /// How fast its clock runs by the timecode on its sound.
    fn against_box(&self) -> Option<AgainstBox> {
        let carried = self.channels.iter().filter_map(|channel| channel.audio_timecode.as_ref());
        carried.filter_map(LtcFound::against_box).min_by(|a, b| a.sigma_ppm.total_cmp(&b.sigma_ppm))
    }

    /// A label of it, with what a person took off its device's timecode.
    fn shifted(&self, label: Label) -> Label {
        Label { time_s: label.time_s - self.taken_off.of(label.kind) as f64 * label.unit_s, ..label }
    }
}

/// Listens to a file unless the cache knows it; `progress` is told the samples a channel decoded so far. `None`
/// where it has no sound stream.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn hear(
    path: &Path,
    fingerprint: &Fingerprint,
    facts: &ClipFacts,
    cache: &Cache,
    stop: &Stop,
    progress: &dyn Fn(u64),
) -> Result<Option<Heard>, MediaError> {
    let Some(sound) = &facts.sound else { return Ok(None) };
    let clip = cache.clip(fingerprint);
    let known = is_heard(&clip);
    let heard = guarded(path, || listen(path, sound, &clip, stop, progress))?;
    // Half a file, still being copied, must not be believed to be the whole of it.
    if !known && let Err(e) = fingerprint.still_of(path) {
        forget_heard(&clip);
        return Err(e);
    }
    Ok(Some(heard))
}

/// The sounds to match, from the cache; none where no channel carries any. Where they are no longer what was heard (the
/// power failed, somebody touched the cache), the file is listened to again.
///
/// # Errors
/// [`MediaError`] naming the file or the cache.
pub fn sounds(
    path: &Path,
    fingerprint: &Fingerprint,
    facts: &ClipFacts,
    heard: Option<&Heard>,
    cache: &Cache,
    stop: &Stop,
) -> Result<Vec<Sound>, MediaError> {
    let Some(mut heard) = heard.filter(|heard| !heard.used.is_empty()).cloned() else { return Ok(vec![]) };
    let clip = cache.clip(fingerprint);
    if !still_holds(&clip)
        && let Some(again) = hear(path, fingerprint, facts, cache, stop, &|_| {})?
    {
        heard = again;
    }
    let open = |(sound, mix): (usize, &Mix)| {
        let (samples, bands) = StoredSamples::open(&clip, sound)?;
        Ok(Sound { samples, pattern: Pattern::new(&bands), late_s: mix.late_s, channel: mix.only() })
    };
    heard.mixes.iter().enumerate().map(open).collect()
}

/// The clips as the day's solver sees them.
pub fn day_clips(clips: &[Listened]) -> Vec<DayClip<'_>> {
    clips.iter().map(|clip| day_clip(clip, clip.sounds.iter().map(Sound::heard).collect())).collect()
}

/// The same where nothing is to be listened to: of their sounds only which there are. `heard` is what was heard of each.
pub fn known_clips<'a>(clips: &'a [Listened], heard: &[Option<&Heard>]) -> Vec<DayClip<'a>> {
    static SILENT: LazyLock<(Pattern, Vec<f32>)> =
        LazyLock::new(|| (Pattern::new(&Bands::default()), Vec::new()));
    let sound = |mix: &Mix| HeardSound {
        pattern: &SILENT.0,
        samples: &SILENT.1,
        late_s: mix.late_s,
        channel: mix.only(),
    };
    let sounds = |heard: &Option<&Heard>| {
        let heard = heard.filter(|heard| !heard.used.is_empty());
        heard.map_or_else(Vec::new, |heard| heard.mixes.iter().map(sound).collect())
    };
    clips.iter().zip(heard).map(|(clip, heard)| day_clip(clip, sounds(heard))).collect()
}

fn day_clip<'a>(clip: &Listened, sounds: Vec<HeardSound<'a>>) -> DayClip<'a> {
    DayClip {
        device: clip.device.0 as usize,
        duration_s: clip.facts.duration_s,
        has_picture: clip.facts.picture.is_some(),
        sounds,
        time_reference_s: clip.facts.time_reference_s(),
        labels: clip.labels(),
        against_box: clip.against_box(),
        marks: clip.marks.clone(),
        distance: clip.distance,
    }
}

/// The slates of a clip.
pub fn slates(clip: &Listened) -> impl Iterator<Item = Slate> {
    clip.marks.iter().filter_map(|mark| {
        let at_s = mark.sound_s.or(mark.picture_s)?;
        let take = Some(mark.take.clone()).filter(|take| take.chars().any(char::is_alphanumeric));
        Some(Slate { clip: clip.id, at_s, take })
    })
}

/// Time of day at the axis's zero, and the groups proposed from a result; `to_track` where the axis is a track that everything
/// was performed to.
pub fn groups(
    clips: &[Listened],
    placements: &[Placement],
    origin: usize,
    reference: DeviceId,
    islands: &[Island],
    order: &[DeviceId],
    to_track: bool,
) -> (Tick, Vec<Group>) {
    let placed: Vec<PlacedClip> = clips
        .iter()
        .zip(placements)
        .map(|(clip, placement)| PlacedClip {
            id: clip.id,
            device: clip.device,
            facts: &clip.facts,
            placement,
            reference: clip.device == reference,
        })
        .collect();
    let slates: Vec<Slate> = clips.iter().flat_map(slates).collect();
    // Days are laid by what is known of the axis alone; groups are labelled by what is likely, too.
    let labelled = day_zero(&placed, origin, islands.first().and_then(|axis| axis.day_start_s));
    let day = GroupDay { clips: &placed, slates: &slates, axis_zero: labelled, order, to_track };
    (axis_zero(&clips[origin].facts, islands), propose_groups(&day, &GroupBy::Takes))
}

/// Time of day at the axis's zero, which the clip with `facts` starts.
pub fn axis_zero(facts: &ClipFacts, islands: &[Island]) -> Tick {
    match (facts.time_reference, &facts.sound) {
        (Some(samples), Some(sound)) => Tick::of_sample(i64::try_from(samples).unwrap_or(0), sound.rate.0),
        // No sample counts: a label or a clock may tell.
        _ => Tick::from_seconds(islands.first().and_then(|axis| axis.day_start_s).unwrap_or(0.0)),
    }
}
