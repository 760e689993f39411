//! One file of sound that is to be made: its plan, its names, what is written in it beside the samples.

use super::{SoundClip, SoundDay, aaf::Aaf, mix::Mix};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    sound::{
        Container, Correction, Depth, HoleReport, LaidSource, Layout, MadeReport, MadeState, NamedFor,
        OwnSound, SoundForm, SoundPlan, SourceReport, Track, TrackKey, TrackReport, Treatment,
        stem as file_name_stem, track_names,
    },
    time::FrameRate,
    turnover::{FileSet, LaidSound, OwnPicture, Source, Sources, WaveNotes, synced_document},
};
use metaxis_media::{Fingerprint, MediaError, PictureForm, WaveForm};
use metaxis_store::SoundOrder;
use serde_json::{Value, json};
use std::{path::PathBuf, sync::Arc};

/// What a file is about.
pub(super) struct About<'a> {
    /// The picture's path, or the group's name.
    pub belongs_to: String,
    /// The picture's clip, and the moment of its own time at the first sample.
    pub leading: Option<(&'a SoundClip, f64)>,
    /// The same without folders.
    pub name: String,
    /// How its timecode counts, and whether in drop-frame.
    pub counts: Option<(FrameRate, bool)>,
    /// Samples since midnight at the first.
    pub time_reference: u64,
    /// Timecode at the beginning of the picture.
    pub timecode: Option<String>,
    /// What comes out of its tracks, where it is not they.
    pub mix: Option<Mix>,
    /// Which of the groups it is of that were asked for, where it is.
    pub group: Option<usize>,
}

/// A recording that a file is made of.
#[derive(Clone)]
pub(super) struct Ingredient {
    pub clip: ClipId,
    pub path: PathBuf,
    pub relative: String,
    pub device: String,
    pub made_by: DeviceId,
    pub facts: ClipFacts,
    pub fingerprint: Fingerprint,
}

/// A file of sound that is to be made; several where each track is one.
#[derive(Clone)]
pub struct SoundFile {
    /// Path below the output folder without extension.
    pub(super) stem: String,
    belongs_to: String,
    timecode: Option<String>,
    names: Vec<String>,
    /// Tracks that are left out, with their devices.
    off: Vec<(TrackKey, String)>,
    notes: WaveNotes,
    pub(super) form: SoundForm,
    pub(super) replace: bool,
    /// Files that are only read, whatever is to be replaced.
    pub(super) sources: Arc<[PathBuf]>,
    pub(super) plan: SoundPlan,
    pub(super) mix: Option<Mix>,
    /// In the order of the plan's recordings; those that are not used are `None`.
    pub(super) ingredients: Vec<Option<Ingredient>>,
    /// The picture's own sound, and the moment of its time at the first sample.
    pub(super) leading: Option<(Ingredient, f64)>,
    /// Which of the groups it is of that were asked for, where it is.
    group: Option<usize>,
    /// What is written beside it.
    pub(super) beside: Beside,
}

impl SoundFile {
    pub(super) fn new(
        day: &SoundDay,
        stem: String,
        plan: SoundPlan,
        recordings: &[&SoundClip],
        about: About,
        order: &SoundOrder,
    ) -> Self {
        let used = |number: usize| {
            plan.laid.sources.iter().any(|source| source.files.iter().any(|(own, _)| *own == number))
        };
        let of = |clip: &SoundClip| Ingredient {
            clip: clip.id,
            path: clip.path.clone(),
            relative: clip.relative.clone(),
            device: day.name(clip.device).to_owned(),
            made_by: clip.device,
            facts: clip.facts.clone(),
            fingerprint: clip.fingerprint.clone(),
        };
        let ingredient = |(number, clip): (usize, &&SoundClip)| used(number).then(|| of(clip));
        let ingredients: Vec<Option<Ingredient>> = recordings.iter().enumerate().map(ingredient).collect();
        let longest = plan.laid.sources.iter().max_by_key(|source| source.extent().1 - source.extent().0);
        let heard = longest.and_then(|source| ingredients[source.files[0].0].as_ref()).map(|own| &own.facts);
        let own = about.leading.map(|(clip, _)| &clip.facts);
        let said = |of: fn(&ClipFacts) -> Option<String>| heard.and_then(of).or_else(|| own.and_then(of));
        let (scene, take) = (said(|facts| facts.scene.clone()), said(|facts| facts.take.clone()));
        let named_for = NamedFor {
            picture: own.map_or(&about.name, |_| file_name_stem(&about.name)),
            scene: scene.as_deref(),
            take: take.as_deref(),
        };
        let pattern = &order.habit.tracks.pattern;
        let mut names = track_names(&plan.laid.tracks, pattern, &named_for, |device| day.name(device));
        if let Some(mix) = &about.mix {
            let behind = mix.behind.iter().map(|number| names[*number].clone());
            names = mix.outputs.iter().cloned().chain(behind).collect();
        }
        let off =
            plan.off.iter().map(|track| (TrackKey::of(track), day.name(track.device).to_owned())).collect();
        let notes = WaveNotes {
            project: day.project.clone(),
            scene,
            take,
            tape: said(|facts| facts.reel.clone()),
            circled: heard.is_some_and(|facts| facts.circled),
            notes: said(|facts| facts.notes.clone()),
            belongs_to: about.name.clone(),
            created: own.or(heard).and_then(|facts| facts.created.clone()),
            timecode: about.counts,
            rate: plan.rate,
            bits: depth_of(&order.habit.form, about.leading.is_some()).bits(),
            time_reference: about.time_reference,
            tracks: names.clone(),
            uid: String::new(),
            set: None,
            history: vec![],
        };
        let mut file = Self {
            stem,
            belongs_to: about.belongs_to,
            timecode: about.timecode,
            names,
            off,
            notes,
            form: order.habit.form,
            replace: order.replace,
            sources: day.sources.clone(),
            plan,
            mix: about.mix,
            ingredients,
            leading: about.leading.map(|(clip, from_s)| (of(clip), from_s)),
            group: about.group,
            beside: Beside::default(),
        };
        file.notes.history = file.history();
        file.notes.uid = file.uid();
        file
    }

    /// The same, with everything corrected as was planned.
    pub(super) fn corrected(&self, plan: SoundPlan) -> Self {
        let mut file = Self { plan, ..self.clone() };
        file.notes.history = file.history();
        file
    }

    /// Tells what is in the file from everything else: made of the same in the same way, it is the same.
    fn uid(&self) -> String {
        let prints: Vec<&str> =
            self.ingredients.iter().flatten().map(|own| own.fingerprint.as_str()).collect();
        let mut all = format!("{} {:?} {:?} {prints:?}", env!("CARGO_PKG_VERSION"), self.notes, self.plan);
        if let Some(mix) = &self.mix {
            all.push_str(&format!(" {mix:?}"));
        }
        Fingerprint::of_bytes(all.as_bytes()).to_string()
    }

    /// What was done, a sentence a source.
    fn history(&self) -> Vec<String> {
        let one = |source: &SourceReport| {
            let what = match source.correction {
                Correction::Resample => "resampled",
                Correction::Recut => "re-cut",
                Correction::Leave => "left as it ran",
            };
            format!("{} {what} at {:+.2} ppm ({})", source.files.join(" + "), source.rate_ppm, source.why)
        };
        self.sources().iter().map(one).collect()
    }

    /// Bytes that its files take.
    pub fn bytes(&self) -> u64 {
        let picture = |output: &Output| {
            let (path, _) = output.picture.as_ref()?;
            Some(path.metadata().ok()?.len())
        };
        // A document is about so long.
        let least = |output: &Output| if output.is_linked() { 16_384 } else { 4096 };
        let own = |output: &Output| output.form.data_bytes() + least(output) + picture(output).unwrap_or(0);
        self.outputs().iter().map(own).sum()
    }

    pub(super) fn depth(&self) -> Depth {
        depth_of(&self.form, self.leading.is_some())
    }

    /// The picture that is written again with its tracks.
    fn picture(&self) -> Option<(PathBuf, PictureForm)> {
        let is_made = matches!(self.form.container, Container::Mov | Container::Mxf);
        let (own, _) = self.leading.as_ref().filter(|_| is_made)?;
        let picture = own.facts.picture.as_ref()?;
        let begins_s =
            own.facts.sound.as_ref().map_or(picture.start_s, |sound| sound.start_s.min(picture.start_s));
        let form = self.form;
        let all = format!("{} {:?} {:?} {}", self.notes.uid, form.container, form.own, own.fingerprint);
        let notes = &self.notes;
        let said = [
            ("scene", notes.scene.clone()),
            ("take", notes.take.clone()),
            ("reel_name", own.facts.reel.clone()),
            ("source", Some(notes.belongs_to.clone())),
            ("sound", Some(notes.history.join("; "))),
        ];
        let form = PictureForm {
            container: form.container,
            rate: self.plan.rate.0,
            samples: u64::try_from(self.plan.samples).unwrap_or(0),
            tracks: self.names.clone(),
            delay_s: picture.start_s - begins_s,
            keeps_own: form.own == OwnSound::Muted && own.facts.sound.is_some(),
            timecode: self.timecode.clone(),
            notes: said.into_iter().filter_map(|(name, value)| Some((name.to_owned(), value?))).collect(),
            uid: Fingerprint::of_bytes(all.as_bytes()).to_string(),
        };
        Some((own.path.clone(), form))
    }

    /// Whether nothing is written but what links its recordings to the picture.
    pub(super) fn is_linked(&self) -> bool {
        self.form.container == Container::Linked && self.leading.is_some()
    }

    /// The document that links its recordings, as they lie in `sound`, to the picture, by what is known of them; where that is nothing
    /// else, by what their files say.
    pub fn linked(&self, sound: &LaidSound, known: Option<&Sources>) -> Option<Value> {
        let (own, _) = self.leading.as_ref()?;
        let of_files = if known.is_none() { Some(self.by_files(own)) } else { None };
        let sources = known.or(of_files.as_ref())?;
        let named = known.map(|known| known.device_name(own.made_by));
        let picture = OwnPicture {
            clip: own.clip,
            device: named.as_deref().unwrap_or(&own.device),
            with_own_sound: self.form.own == OwnSound::Muted,
        };
        let WaveNotes { scene, take, notes, history, .. } = &self.notes;
        let said =
            json!({ "scene": scene, "take": take, "notes": notes, "tracks": self.names, "sound": history });
        synced_document(&picture, sources, sound, said)
    }

    /// What lies in it by its plan as it is.
    pub(super) fn planned_sound(&self) -> LaidSound {
        LaidSound {
            plan: self.plan.clone(),
            grid: self.mix.as_ref().and_then(|mix| mix.chosen.clone()),
            clips: self.ingredients.iter().map(|own| own.as_ref().map(|own| own.clip)).collect(),
        }
    }

    /// What its files say of themselves.
    fn by_files(&self, picture: &Ingredient) -> Sources {
        let known = self.ingredients.iter().flatten().chain([picture]);
        let source = |own: &Ingredient| Source {
            file_name: own.relative.rsplit('/').next().unwrap_or_default().to_owned(),
            url: crate::file_url(&own.path),
            facts: own.facts.clone(),
            ..Source::default()
        };
        let named =
            |track: &Track| Some((track.device, (String::new(), self.device(self.heard_of(track)?).into())));
        Sources {
            clips: known.map(|own| (own.clip, source(own))).collect(),
            devices: self.plan.laid.tracks.iter().filter_map(named).collect(),
            ..Sources::default()
        }
    }

    /// The first sound of a track.
    fn heard_of(&self, track: &Track) -> Option<&LaidSource> {
        track.parts.first().map(|(source, _)| &self.plan.laid.sources[*source])
    }

    fn wave_form(&self, channels: usize) -> WaveForm {
        WaveForm {
            rate: self.plan.rate.0,
            channels: u16::try_from(channels).unwrap_or(u16::MAX),
            depth: self.depth(),
            samples: u64::try_from(self.plan.samples).unwrap_or(0),
        }
    }

    /// The files that come of it.
    pub(super) fn outputs(&self) -> Vec<Output> {
        let form = |channels| self.wave_form(channels);
        if self.is_linked() {
            return vec![Output {
                path: format!("{}.otio", self.stem),
                tracks: 0..self.names.len(),
                form: WaveForm { samples: 0, ..form(self.names.len()) },
                notes: self.notes.clone(),
                picture: None,
            }];
        }
        let picture = self.picture();
        if self.form.layout == Layout::Poly || picture.is_some() {
            let extension = match picture.as_ref().map(|(_, form)| form.container) {
                Some(Container::Mov) => "mov",
                Some(Container::Mxf) => "mxf",
                Some(Container::Wave | Container::Linked) | None => "wav",
            };
            return vec![Output {
                path: format!("{}.{extension}", self.stem),
                tracks: 0..self.names.len(),
                form: form(self.names.len()),
                notes: self.notes.clone(),
                picture,
            }];
        }
        let own = |(number, name): (usize, &String)| {
            let set = FileSet {
                family: self.notes.uid.clone(),
                name: self.stem.rsplit('/').next().unwrap_or_default().to_owned(),
                index: number + 1,
                total: self.names.len(),
            };
            let uid = Fingerprint::of_bytes(format!("{} {number}", self.notes.uid).as_bytes()).to_string();
            Output {
                path: format!("{} {:02} {}.wav", self.stem, number + 1, crate::file_stem(name)),
                tracks: number..number + 1,
                form: form(1),
                notes: WaveNotes { tracks: vec![name.clone()], uid, set: Some(set), ..self.notes.clone() },
                picture: None,
            }
        };
        self.names.iter().enumerate().map(own).collect()
    }

    fn sources(&self) -> Vec<SourceReport> {
        let rate = f64::from(self.plan.rate.0);
        let of = |(source, own): (&LaidSource, &Treatment)| {
            let files = source.files.iter().filter_map(|(number, _)| self.ingredients[*number].as_ref());
            let (out, own_samples) = source.legs.iter().fold((0.0, 0.0), |(out, own), leg| {
                let length = (leg.to - leg.from) as f64;
                (out + length, own + length * leg.step)
            });
            let nominal = source.rates.own / source.rates.out;
            let (from, to) = source.extent();
            SourceReport {
                device: self.device(source).to_owned(),
                files: files.map(|file| file.relative.clone()).collect(),
                correction: own.correction,
                fill: own.fill,
                why: own.proposal.why.clone(),
                by_cable: own.by_cable,
                rate_ppm: if out > 0.0 { (own_samples / out / nominal - 1.0) * 1e6 } else { 0.0 },
                from_s: from as f64 / rate,
                to_s: to as f64 / rate,
                pieces: source.legs.len(),
            }
        };
        self.plan.laid.sources.iter().zip(&self.plan.treatments).map(of).collect()
    }

    fn device(&self, source: &LaidSource) -> &str {
        self.ingredients[source.files[0].0].as_ref().map_or("", |own| own.device.as_str())
    }

    /// What is said of it before it is made.
    pub fn planned(&self) -> MadeReport {
        let outputs = self.outputs();
        let whole = Output {
            path: outputs.first().map_or_else(String::new, |first| first.path.clone()),
            tracks: 0..self.names.len(),
            form: WaveForm { rate: self.plan.rate.0, channels: 0, depth: self.depth(), samples: 0 },
            notes: self.notes.clone(),
            picture: None,
        };
        let uid = outputs.first().map_or_else(String::new, |first| first.uid().to_owned());
        MadeReport { bytes: self.bytes(), uid, ..self.report(&whole) }
    }

    /// Which of the groups it is of that were asked for, where it is.
    pub fn group(&self) -> Option<usize> {
        self.group
    }

    /// The names of what comes out of it.
    pub(super) fn names(&self) -> &[String] {
        &self.names
    }

    /// How many samples it has.
    pub fn samples(&self) -> i64 {
        self.plan.samples
    }

    /// How many of its tracks come out of a grid: the first.
    pub(super) fn outputs_of_grid(&self) -> usize {
        self.mix.as_ref().map_or(0, |mix| mix.outputs.len())
    }

    /// How its samples are written, and what beside them.
    pub(super) fn form_and_notes(&self) -> (WaveForm, WaveNotes) {
        (self.wave_form(self.names.len()), self.notes.clone())
    }

    /// Nothing, where all that it is made of is as it was.
    ///
    /// # Errors
    /// [`MediaError`] naming what is not.
    pub(super) fn still_there(&self) -> Result<(), MediaError> {
        self.ingredients.iter().flatten().try_for_each(|own| own.fingerprint.still_of(&own.path))
    }

    /// What tells it from every file that is made of something else, or otherwise.
    pub fn notes_uid(&self) -> &str {
        &self.notes.uid
    }

    /// The moment of the picture's own time at its first sample, seconds; 0 for a group.
    pub fn begins_s(&self) -> f64 {
        self.leading.as_ref().map_or(0.0, |(_, from_s)| *from_s)
    }

    /// The clip whose picture it lies along.
    pub fn clip(&self) -> Option<ClipId> {
        self.leading.as_ref().map(|(own, _)| own.clip)
    }

    /// Its tracks with their devices, and whether each is left out: those that go out first, in their order.
    pub(super) fn tracks(&self) -> impl Iterator<Item = (TrackKey, String, bool)> {
        let of = |track: &Track| {
            let device =
                self.heard_of(track).map_or_else(String::new, |source| self.device(source).to_owned());
            (TrackKey::of(track), device, false)
        };
        let off = self.off.iter().map(|(key, device)| (key.clone(), device.clone(), true));
        self.plan.laid.tracks.iter().map(of).chain(off)
    }

    /// The tracks that are laid under it.
    pub fn laid_tracks(&self) -> &[Track] {
        &self.plan.laid.tracks
    }

    /// What is said of one of its files before it is made.
    pub(super) fn report(&self, output: &Output) -> MadeReport {
        let rate = f64::from(self.plan.rate.0);
        let device = |track: &Track| {
            self.heard_of(track).map_or_else(String::new, |source| self.device(source).to_owned())
        };
        let tracks = output.tracks.clone().map(|number| {
            let own = self.mix.as_ref().map_or(Some(number), |mix| mix.track(number));
            let own = own.map(|number| &self.plan.laid.tracks[number]);
            TrackReport {
                name: self.names[number].clone(),
                device: own.map_or_else(|| "grid".into(), device),
                channel: own.map_or(number, |track| track.channel) + 1,
                peak_dbfs: None,
            }
        });
        let holes = self.plan.laid.holes.iter().map(|hole| {
            let track = self.plan.laid.tracks.iter().find(|track| track.device == hole.device);
            HoleReport {
                device: track.map_or_else(String::new, device),
                from_s: hole.from as f64 / rate,
                to_s: hole.to as f64 / rate,
            }
        });
        MadeReport {
            path: output.path.clone(),
            belongs_to: self.belongs_to.clone(),
            state: MadeState::Planned,
            message: None,
            sample_rate: self.plan.rate.0,
            bits: self.depth().bits(),
            samples: self.plan.samples,
            time_reference: self.notes.time_reference,
            timecode: self.timecode.clone(),
            tracks: tracks.collect(),
            sources: self.sources(),
            holes: holes.collect(),
            clipped: 0,
            bytes: 0,
            hash: String::new(),
            uid: output.uid().to_owned(),
        }
    }
}

/// Documents beside a file: their paths below the output folder, and what is in them.
#[derive(Clone, Default)]
pub(super) struct Beside {
    pub documents: Vec<(String, Vec<u8>)>,
    /// Made when it is written: that takes another program.
    pub aaf: Option<(String, Aaf)>,
}

/// One file that is written.
pub(super) struct Output {
    /// Below the output folder.
    pub path: String,
    /// Which tracks go into it.
    pub tracks: std::ops::Range<usize>,
    pub form: WaveForm,
    pub notes: WaveNotes,
    /// The picture that it is written with, and how.
    pub picture: Option<(PathBuf, PictureForm)>,
}

impl Output {
    /// Whether it is a document, not sound.
    pub fn is_linked(&self) -> bool {
        self.path.ends_with(".otio")
    }

    /// Tells its content from any other.
    pub fn uid(&self) -> &str {
        self.picture.as_ref().map_or(&self.notes.uid, |(_, form)| &form.uid)
    }
}

/// How samples are written: beside a picture always in 24 bits.
fn depth_of(form: &SoundForm, along_picture: bool) -> Depth {
    if along_picture && form.container != Container::Wave { Depth::Pcm24 } else { form.depth }
}
