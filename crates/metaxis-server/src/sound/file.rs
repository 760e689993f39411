//! One file of sound that is to be made: its plan, its names, what is written in it beside the samples.

use super::{SoundClip, SoundDay};
use metaxis_core::{
    clip::{ClipFacts, ClipId},
    sound::{
        Correction, Depth, HoleReport, LaidSource, Layout, MadeReport, MadeState, SoundPlan, SourceReport,
        Track, TrackReport, Treatment, track_names,
    },
    time::FrameRate,
    turnover::{FileSet, WaveNotes},
};
use metaxis_media::{Fingerprint, WaveForm};
use metaxis_store::SoundOrder;
use std::path::PathBuf;

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
}

/// A recording that a file is made of.
#[derive(Clone)]
pub(super) struct Ingredient {
    pub clip: ClipId,
    pub path: PathBuf,
    pub relative: String,
    pub device: String,
    pub facts: ClipFacts,
    pub fingerprint: Fingerprint,
}

/// A file of sound that is to be made; several where each track is one.
#[derive(Clone)]
pub struct SoundFile {
    /// Path below the output folder without extension.
    stem: String,
    belongs_to: String,
    timecode: Option<String>,
    names: Vec<String>,
    notes: WaveNotes,
    layout: Layout,
    pub(super) depth: Depth,
    pub(super) replace: bool,
    pub(super) plan: SoundPlan,
    /// In the order of the plan's recordings; those that are not used are `None`.
    pub(super) ingredients: Vec<Option<Ingredient>>,
    /// The picture's own sound, and the moment of its time at the first sample.
    pub(super) leading: Option<(Ingredient, f64)>,
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
        let names = track_names(&plan.laid.tracks, |device| day.name(device).to_owned());
        let used = |number: usize| {
            plan.laid.sources.iter().any(|source| source.files.iter().any(|(own, _)| *own == number))
        };
        let of = |clip: &SoundClip| Ingredient {
            clip: clip.id,
            path: clip.path.clone(),
            relative: clip.relative.clone(),
            device: day.name(clip.device).to_owned(),
            facts: clip.facts.clone(),
            fingerprint: clip.fingerprint.clone(),
        };
        let ingredient = |(number, clip): (usize, &&SoundClip)| used(number).then(|| of(clip));
        let ingredients: Vec<Option<Ingredient>> = recordings.iter().enumerate().map(ingredient).collect();
        let longest = plan.laid.sources.iter().max_by_key(|source| source.extent().1 - source.extent().0);
        let heard = longest.and_then(|source| ingredients[source.files[0].0].as_ref()).map(|own| &own.facts);
        let own = about.leading.map(|(clip, _)| &clip.facts);
        let said = |of: fn(&ClipFacts) -> Option<String>| heard.and_then(of).or_else(|| own.and_then(of));
        let notes = WaveNotes {
            project: day.project.clone(),
            scene: said(|facts| facts.scene.clone()),
            take: said(|facts| facts.take.clone()),
            tape: said(|facts| facts.reel.clone()),
            circled: heard.is_some_and(|facts| facts.circled),
            notes: said(|facts| facts.notes.clone()),
            belongs_to: about.name.clone(),
            created: own.or(heard).and_then(|facts| facts.created.clone()),
            timecode: about.counts,
            rate: plan.rate,
            bits: order.habit.form.depth.bits(),
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
            notes,
            layout: order.habit.form.layout,
            depth: order.habit.form.depth,
            replace: order.replace,
            plan,
            ingredients,
            leading: about.leading.map(|(clip, from_s)| (of(clip), from_s)),
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
        let all = format!("{} {:?} {:?} {prints:?}", env!("CARGO_PKG_VERSION"), self.notes, self.plan);
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
        self.outputs().iter().map(|output| output.form.data_bytes() + 4096).sum()
    }

    /// The files that come of it.
    pub(super) fn outputs(&self) -> Vec<Output> {
        let form = |channels: usize| WaveForm {
            rate: self.plan.rate.0,
            channels: u16::try_from(channels).unwrap_or(u16::MAX),
            depth: self.depth,
            samples: u64::try_from(self.plan.samples).unwrap_or(0),
        };
        if self.layout == Layout::Poly {
            return vec![Output {
                path: format!("{}.wav", self.stem),
                tracks: 0..self.names.len(),
                form: form(self.names.len()),
                notes: self.notes.clone(),
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
            form: WaveForm { rate: self.plan.rate.0, channels: 0, depth: self.depth, samples: 0 },
            notes: self.notes.clone(),
        };
        MadeReport { bytes: self.bytes(), ..self.report(&whole) }
    }

    /// The clip whose picture it lies along.
    pub fn clip(&self) -> Option<ClipId> {
        self.leading.as_ref().map(|(own, _)| own.clip)
    }

    /// What is said of one of its files before it is made.
    pub(super) fn report(&self, output: &Output) -> MadeReport {
        let rate = f64::from(self.plan.rate.0);
        let device = |track: &Track| {
            let source = track.parts.first().map(|(source, _)| &self.plan.laid.sources[*source]);
            source.map_or_else(String::new, |source| self.device(source).to_owned())
        };
        let tracks = output.tracks.clone().map(|number| {
            let track = &self.plan.laid.tracks[number];
            TrackReport {
                name: self.names[number].clone(),
                device: device(track),
                channel: track.channel + 1,
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
            bits: self.depth.bits(),
            samples: self.plan.samples,
            time_reference: self.notes.time_reference,
            timecode: self.timecode.clone(),
            tracks: tracks.collect(),
            sources: self.sources(),
            holes: holes.collect(),
            clipped: 0,
            bytes: 0,
            hash: String::new(),
        }
    }
}

/// One file that is written.
pub(super) struct Output {
    /// Below the output folder.
    pub path: String,
    /// Which tracks go into it.
    pub tracks: std::ops::Range<usize>,
    pub form: WaveForm,
    pub notes: WaveNotes,
}
