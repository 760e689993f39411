//! The placed clips of a day, and the files of sound that can be made of them.

use super::{
    file::{About, SoundFile},
    mix::{Grouped, Mix, grid_of, heard_instead},
};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Group, Piece},
    line::Layer,
    signal::ChannelState,
    sound::{
        Along, Container, Correction, GroupTracks, Recording, SoundPlan, Stems, TrackKey, picture_range,
        plan_sound, stem, time_reference,
    },
    sync::{Skipped, Stretch},
    time::{SampleRate, Tick},
};
use metaxis_media::Fingerprint;
use metaxis_store::SoundOrder;
use std::{collections::HashMap, path::PathBuf, sync::Arc};

/// A clip with what is known of it.
#[derive(Clone)]
pub struct SoundClip {
    /// Number of the clip.
    pub id: ClipId,
    /// Its device.
    pub device: DeviceId,
    /// Where it lies.
    pub path: PathBuf,
    /// The same below the folder that it was taken in from, with forward slashes.
    pub relative: String,
    /// What its content is known by.
    pub fingerprint: Fingerprint,
    /// What its file says.
    pub facts: ClipFacts,
    /// What its channels carry.
    pub channels: Vec<ChannelState>,
    /// Where it lies on the axis; empty where it has no place.
    pub stretches: Vec<Stretch>,
    /// Which island its place is of.
    pub component: u32,
    /// Whether its sound may run under pictures.
    pub is_heard: bool,
}

impl SoundClip {
    /// Whether it has pictures that move.
    pub fn is_picture(&self) -> bool {
        self.facts.picture.as_ref().is_some_and(|picture| !picture.still)
    }

    pub(super) fn file_name(&self) -> &str {
        self.relative.rsplit('/').next().unwrap_or_default()
    }
}

/// A day whose clips have their places.
pub struct SoundDay {
    /// The production.
    pub project: String,
    /// Its clips.
    pub clips: Vec<SoundClip>,
    /// What the devices are called.
    pub devices: HashMap<DeviceId, String>,
    /// Time of day at the axis's zero.
    pub zero: Tick,
    /// The device of the track that everything was performed to, where that is the axis: takes lie over each other then, and
    /// only the track belongs to all of them.
    pub track: Option<DeviceId>,
    /// Every file of the day: they are only read.
    pub sources: Arc<[PathBuf]>,
}

/// The files that are to be made, and what there is no sound for.
#[derive(Default)]
pub struct Asked {
    /// To be made.
    pub files: Vec<SoundFile>,
    /// Pictures and groups without, and why.
    pub without: Vec<Skipped>,
}

impl Asked {
    /// Bytes that the files take.
    pub fn bytes(&self) -> u64 {
        self.files.iter().map(SoundFile::bytes).sum()
    }
}

impl SoundDay {
    /// The recordings whose sound runs under pictures, device by device in the order of time; of the cameras too where wanted.
    fn recordings(&self, component: u32, scratch: bool) -> Vec<&SoundClip> {
        let mut own: Vec<&SoundClip> = self
            .clips
            .iter()
            .filter(|clip| clip.is_heard && clip.facts.sound.is_some() && clip.component == component)
            .filter(|clip| !clip.stretches.is_empty() && (scratch || clip.facts.picture.is_none()))
            .filter(|clip| self.track.is_none_or(|track| clip.device == track || clip.is_picture()))
            .collect();
        let start = |clip: &SoundClip| clip.stretches.first().map_or(0.0, |own| own.start_s);
        own.sort_by(|a, b| {
            (a.is_picture(), self.name(a.device), a.device)
                .cmp(&(b.is_picture(), self.name(b.device), b.device))
                .then(start(a).total_cmp(&start(b)))
                .then(a.relative.cmp(&b.relative))
        });
        own
    }

    /// Whether a device takes pictures.
    pub fn is_camera(&self, device: DeviceId) -> bool {
        self.clips.iter().any(|clip| clip.device == device && clip.is_picture())
    }

    pub(super) fn name(&self, device: DeviceId) -> &str {
        if Layer::is_device(device) {
            return "Over the line";
        }
        self.devices.get(&device).map_or("", String::as_str)
    }

    /// The rate at which files are written: as asked, else that of the recordings where all of them have one that is usual.
    fn rate(&self, recordings: &[&SoundClip], order: &SoundOrder) -> SampleRate {
        let all_are = |rate: u32| {
            let mut rates =
                recordings.iter().filter_map(|clip| clip.facts.sound.as_ref()).map(|sound| sound.rate.0);
            !recordings.is_empty() && rates.all(|own| own == rate)
        };
        SampleRate(order.habit.form.rate.unwrap_or(if all_are(96_000) { 96_000 } else { 48_000 }))
    }

    /// A file for each of the picture clips that `wanted` names: what recorders have over its range.
    pub fn for_clips(&self, wanted: impl Fn(&SoundClip) -> bool, order: &SoundOrder) -> Asked {
        let mut asked = Asked::default();
        let stems =
            Stems::of(self.clips.iter().filter(|clip| clip.is_picture()).map(|clip| clip.relative.as_str()));
        let mut pictures: Vec<&SoundClip> =
            self.clips.iter().filter(|clip| clip.is_picture() && wanted(clip)).collect();
        pictures.sort_by(|a, b| a.relative.cmp(&b.relative));
        for clip in pictures {
            match self.for_clip(clip, stems.of_path(&clip.relative), order) {
                Ok(file) => asked.files.push(file),
                Err(why) => {
                    asked.without.push(Skipped { path: clip.relative.clone(), root: None, why: why.into() })
                }
            }
        }
        asked
    }

    fn for_clip(
        &self,
        clip: &SoundClip,
        stem: String,
        order: &SoundOrder,
    ) -> Result<SoundFile, &'static str> {
        let form = &order.habit.form;
        let with_picture = form.container != Container::Wave;
        let mut recordings = self.beside(clip, form.scratch);
        // Its own sound stays in the file as it is, or is not wanted.
        recordings.retain(|own| !with_picture || own.id != clip.id);
        self.along(clip, stem, &recordings, order, false)
    }

    /// What is heard with a picture in a film: what recorders have over its range, mixed as `order` says of groups, else its own
    /// sound.
    ///
    /// # Errors
    /// In words, why there is none.
    pub fn for_film(&self, id: ClipId, order: &SoundOrder) -> Result<SoundFile, &'static str> {
        let clip = self.clips.iter().find(|own| own.id == id).ok_or("it is not there any more")?;
        let mut recordings = self.beside(clip, true);
        recordings.retain(|own| !own.is_picture());
        let stem = stem(&clip.relative).to_owned();
        let by_recorders = self.along(clip, stem.clone(), &recordings, order, true);
        by_recorders.or_else(|why| match &clip.facts.sound {
            // Where it has no place, its own sound lies along itself.
            Some(_) => {
                let whole = Stretch::whole(clip.facts.duration_s, 0.0);
                let placed = SoundClip { stretches: vec![whole], ..clip.clone() };
                self.along(&placed, stem, &[&placed], order, true)
            }
            None => Err(why),
        })
    }

    /// The recordings that run with a picture, of cameras too where wanted.
    fn beside(&self, clip: &SoundClip, scratch: bool) -> Vec<&SoundClip> {
        let takes_part = |other: &&SoundClip| {
            other.device != clip.device && self.track.is_none_or(|track| other.device == track)
                || other.id == clip.id
        };
        let mut recordings = self.recordings(clip.component, scratch);
        recordings.retain(takes_part);
        recordings
    }

    fn along(
        &self,
        clip: &SoundClip,
        stem: String,
        recordings: &[&SoundClip],
        order: &SoundOrder,
        mixed: bool,
    ) -> Result<SoundFile, &'static str> {
        if clip.stretches.is_empty() {
            return Err("it has no place yet");
        }
        let rate = self.rate(recordings, order);
        let with_picture = order.habit.form.container != Container::Wave;
        let handles = if with_picture { 0 } else { order.habit.form.handles(rate) };
        let (from_s, samples) = picture_range(&clip.facts, rate, handles).ok_or("it has no picture")?;
        let along = Along { leading: &clip.stretches, from_s, samples, rate };
        let frame_s = clip.facts.picture.as_ref().map_or(0.04, |picture| 1.0 / picture.rate.as_f64());
        let plan = self.plan(&along, frame_s, recordings, order);
        heard(&plan)?;
        let first_s = clip.stretches[0].axis_s(clip.facts.picture_delay_s());
        let of_day = match clip.facts.timecode {
            Some(label) => label.since_midnight(),
            None => Tick::from_seconds(first_s) + self.zero,
        };
        let mix = if mixed { Mix::plain(|device| self.is_camera(device), &plan, &order.habit) } else { None };
        let about = About {
            belongs_to: clip.relative.clone(),
            name: clip.file_name().to_owned(),
            leading: Some((clip, from_s)),
            counts: clip.facts.timecode.map(|label| (label.rate, label.drop)),
            time_reference: time_reference(of_day, rate, handles),
            timecode: clip.facts.timecode.map(|label| label.to_string()),
            mix,
            group: None,
        };
        Ok(SoundFile::new(self, stem, plan, recordings, about, order))
    }

    /// A file for each group: its whole extent, every recorder, or what comes out of its grid.
    pub fn for_groups(&self, groups: &[Grouped], order: &SoundOrder) -> Asked {
        let mut asked = Asked::default();
        let mixed = order.habit.form.of_groups != GroupTracks::Recorded;
        for (number, grouped) in (1..).zip(groups) {
            let group = &grouped.group;
            // What is only mixed has no say in the rate.
            let rate = self.rate(&self.recordings(group.component, order.habit.form.scratch), order);
            let mut recordings = self.recordings(group.component, order.habit.form.scratch || mixed);
            let over = self.layers(grouped);
            recordings.extend(&over);
            let handles = order.habit.form.handles(rate);
            let (begins, samples) = grouped.extent(rate);
            let leading = pieces_of(group);
            let from_s = (begins - handles) as f64 / f64::from(rate.0);
            let along = Along { leading: &leading, from_s, samples: samples + 2 * handles, rate };
            let frame_s = 1.0 / group.rate().as_f64();
            let mut plan = self.plan(&along, frame_s, &recordings, order);
            if mixed {
                plan =
                    self.needed(plan, grouped, order, |order| self.plan(&along, frame_s, &recordings, order));
            }
            let mix = Mix::of(|device| self.is_camera(device), grouped, &plan, &order.habit);
            if let Err(why) = heard(&plan) {
                asked.without.push(Skipped { path: group.name.clone(), root: None, why: why.into() });
                continue;
            }
            let first = group.label(grouped.range.map_or(0, |(from, _)| from));
            let about = About {
                belongs_to: group.name.clone(),
                name: group.name.clone(),
                leading: None,
                counts: Some((group.rate(), group.start.drop)),
                time_reference: time_reference(first.since_midnight(), rate, handles),
                timecode: Some(first.to_string()),
                mix,
                group: Some(number - 1),
            };
            let stem = format!("{number:02} {}", crate::file_stem(&group.name));
            asked.files.push(SoundFile::new(self, stem, plan, &recordings, about, order));
        }
        asked
    }

    /// The own sound of what lies over a line, where that is heard, as recordings of devices that stand for it.
    fn layers(&self, grouped: &Grouped) -> Vec<SoundClip> {
        let layers = grouped.line.iter().flat_map(|line| line.layers().iter().enumerate());
        let one = |(number, layer): (usize, &Layer)| {
            let clip = self.clips.iter().find(|own| own.id == layer.clip && own.facts.sound.is_some())?;
            let part = layer.part(&grouped.group, clip.facts.picture.as_ref()?, clip.facts.picture_delay_s());
            Some(SoundClip {
                device: Layer::device(number),
                stretches: vec![part.stretch],
                component: grouped.group.component,
                is_heard: true,
                ..clip.clone()
            })
        };
        layers.filter(|(_, own)| own.own_sound).filter_map(one).collect()
    }

    /// The plan without what nothing comes out of: cameras that go nowhere are not read.
    fn needed(
        &self,
        whole: SoundPlan,
        grouped: &Grouped,
        order: &SoundOrder,
        plan: impl Fn(&SoundOrder) -> SoundPlan,
    ) -> SoundPlan {
        let tracks = &whole.laid.tracks;
        let (grid, _) =
            grid_of(grouped.group.grid.as_ref(), &order.habit, tracks, |device| self.is_camera(device));
        let factors = grid.factors(tracks);
        let instead = heard_instead(grouped);
        let form = &order.habit.form;
        let is_needed = |number: usize| {
            let is_behind = form.of_groups == GroupTracks::Both
                && !Layer::is_device(tracks[number].device)
                && (form.scratch || !self.is_camera(tracks[number].device));
            is_behind
                || instead.contains(&tracks[number].device)
                || factors.iter().any(|row| row[number] != 0.0)
        };
        let unheard: Vec<TrackKey> =
            (0..tracks.len()).filter(|own| !is_needed(*own)).map(|own| TrackKey::of(&tracks[own])).collect();
        let mut narrow = order.clone();
        narrow.habit.tracks.off.extend(unheard);
        SoundPlan { off: whole.off, ..plan(&narrow) }
    }

    fn plan(&self, along: &Along, frame_s: f64, recordings: &[&SoundClip], order: &SoundOrder) -> SoundPlan {
        let all: Vec<Recording> = recordings
            .iter()
            .map(|clip| Recording {
                clip: clip.id,
                device: clip.device,
                facts: &clip.facts,
                channels: &clip.channels,
                stretches: &clip.stretches,
            })
            .collect();
        let mut plan = plan_sound(along, frame_s, &all, &order.habit);
        for (source, own) in plan.laid.sources.iter().zip(&mut plan.treatments) {
            // It goes as fast as its pictures, whatever is done about clocks.
            if Layer::is_device(all[source.files[0].0].device) {
                own.correction = Correction::Resample;
            }
        }
        plan
    }
}

/// Nothing, where anything is to be heard; else why not.
fn heard(plan: &SoundPlan) -> Result<(), &'static str> {
    match (plan.laid.tracks.is_empty(), plan.off.is_empty()) {
        (false, _) => Ok(()),
        (true, true) => Err("no recorder ran with it"),
        (true, false) => Err("every track that ran with it is left out"),
    }
}

/// Where a group lies on the axis, in its own time: a stretch more than pieces are taken out of it.
fn pieces_of(group: &Group) -> Vec<Stretch> {
    let stretch = |piece: &Piece| Stretch {
        clip_start_s: group.passed(piece.from).seconds(),
        clip_end_s: group.passed(piece.to).seconds(),
        ..Stretch::whole((piece.ends - piece.begins).seconds(), piece.begins.seconds())
    };
    group.pieces().iter().map(stretch).collect()
}
