//! Making files of sound.

use super::{
    beside::{document, write_beside},
    file::{Ingredient, Output, SoundFile},
};
use metaxis_core::{
    clip::ClipFacts,
    signal::{LostSound, lost_sound},
    sound::{Chain, LaidSource, Leg, MadeReport, MadeState, Rates, SoundPlan, Tracks},
};
use metaxis_media::{
    Fingerprint, MediaError, PictureWriter, SoundFile as Sound, Stop, WaveWriter, WaveWritten, guarded,
    written_picture_uid, written_uid,
};
use std::{
    os::unix::fs::MetadataExt,
    path::{Path, PathBuf},
};

/// Samples a track that are made at a time: as many as stay near the processor, and in memory that need not be asked for anew.
const BLOCK: usize = 1 << 13;

/// Makes the files of `file` below `folder`. What cannot be made is said in the report, with nothing left behind under its name.
/// `progress` is told the share that is done.
pub fn write(file: &SoundFile, folder: &Path, stop: &Stop, progress: &dyn Fn(f64)) -> Vec<MadeReport> {
    let mut made = write_sound(file, folder, stop, progress);
    if !stop.is_stopped() && made.iter().all(|own| own.state != MadeState::Failed) {
        made.extend(write_beside(file, folder, stop));
    }
    made
}

fn write_sound(file: &SoundFile, folder: &Path, stop: &Stop, progress: &dyn Fn(f64)) -> Vec<MadeReport> {
    let outputs = file.outputs();
    if outputs.iter().all(|output| !file.replace && is_there(folder, output, stop)) {
        let there = |output: &Output| MadeReport {
            state: MadeState::There,
            bytes: folder.join(&output.path).metadata().map_or(0, |data| data.len()),
            ..file.report(output)
        };
        return outputs.iter().map(there).collect();
    }
    let first = outputs.first().map_or_else(|| folder.to_owned(), |output| folder.join(&output.path));
    match guarded(&first, || make(file, folder, stop, progress)) {
        Ok(made) => made,
        Err(e) => {
            let failed = |output| MadeReport {
                state: MadeState::Failed,
                message: Some(e.to_string()),
                ..file.report(output)
            };
            outputs.iter().map(failed).collect()
        }
    }
}

/// Whether what is to be made is there, made from the same in the same way.
fn is_there(folder: &Path, output: &Output, stop: &Stop) -> bool {
    let path = folder.join(&output.path);
    let there = match &output.picture {
        Some(_) if path.is_file() => written_picture_uid(&path, stop),
        Some(_) => None,
        // A document is made in no time, and compared whole.
        None if output.is_linked() => None,
        None => written_uid(&path, output.form),
    };
    there.is_some_and(|uid| uid == output.uid())
}

/// Refuses what would stand in the place of a file of the day.
pub fn only_read(target: &Path, sources: &[PathBuf]) -> Result<(), MediaError> {
    let id = |path: &Path| path.metadata().ok().map(|data| (data.dev(), data.ino()));
    let own = id(target);
    if own.is_some() && sources.iter().any(|source| id(source) == own) {
        let detail = "it is a file of the day, which is only read; choose another folder".into();
        return Err(MediaError::Write { path: target.to_owned(), detail });
    }
    Ok(())
}

/// A file under way.
enum Writer {
    Wave(Box<WaveWriter>),
    Picture(Box<PictureWriter>),
}

impl Writer {
    fn begin(output: &Output, file: &SoundFile, folder: &Path, stop: &Stop) -> Result<Self, MediaError> {
        let target = folder.join(&output.path);
        if let Some((source, form)) = &output.picture {
            let writer = PictureWriter::create(source, &target, form.clone(), file.replace, stop)?;
            return Ok(Self::Picture(Box::new(writer)));
        }
        let (bext, ixml) = (output.notes.bext(), output.notes.ixml());
        WaveWriter::create(&target, output.form, &bext, &ixml, file.replace)
            .map(|own| Self::Wave(Box::new(own)))
    }

    fn write(&mut self, tracks: &[Vec<f32>]) -> Result<(), MediaError> {
        match self {
            Self::Wave(own) => own.write(tracks),
            Self::Picture(own) => own.write(tracks),
        }
    }

    fn finish(self, replace: bool) -> Result<WaveWritten, MediaError> {
        match self {
            Self::Wave(own) => own.finish(replace),
            Self::Picture(own) => own.finish(replace),
        }
    }
}

/// The sounds that a file is made of, one a source.
pub(super) type Sounds = Vec<Chain<Sound>>;

/// Opens what `file` is made of and corrects it; where `by_cable`, the picture's own sound is asked whether it is the recorder's.
pub(super) fn corrected(
    file: &SoundFile,
    by_cable: bool,
    stop: &Stop,
) -> Result<(SoundPlan, Sounds), MediaError> {
    let mut plan = file.plan.clone();
    let mut sounds = vec![];
    // The picture's own sound is looked into only where it may be the recorder's.
    let mut leading = file.leading.as_ref().filter(|_| by_cable).and_then(|(own, from_s)| {
        let facts = own.facts.sound.as_ref()?;
        // A picture that cannot be read is laid as it was found before.
        Some((Chain::new(vec![(open(own, stop).ok()?, 0)]), f64::from(facts.rate.0), *from_s))
    });
    for (number, source) in file.plan.laid.sources.iter().enumerate() {
        let parts = source.files.iter().filter_map(|(own, at)| Some((file.ingredients[*own].as_ref()?, *at)));
        let opened =
            parts.map(|(own, at)| Ok((open(own, stop)?, at))).collect::<Result<Vec<_>, MediaError>>()?;
        let mut sound = Chain::new(opened);
        let own = leading.as_mut().map(|(heard, rate, from_s)| {
            let rates = Rates { out: f64::from(plan.rate.0), own: *rate };
            let leg = Leg { from: 0, to: plan.samples, at: *from_s * rates.own, step: rates.own / rates.out };
            (heard, leg, rates)
        });
        plan.correct(number, &mut sound, own)?;
        sounds.push(sound);
    }
    Ok((plan, sounds))
}

fn make(
    file: &SoundFile,
    folder: &Path,
    stop: &Stop,
    progress: &dyn Fn(f64),
) -> Result<Vec<MadeReport>, MediaError> {
    for output in file.outputs() {
        let target = folder.join(&output.path);
        only_read(&target, &file.sources)?;
        // Said before anything is worked out for nothing.
        if !file.replace && !file.is_linked() && target.symlink_metadata().is_ok() {
            return Err(MediaError::Taken { path: target });
        }
    }
    // Documents name whole samples: what a cable would move them by is less than they say.
    let (plan, mut sounds) = corrected(file, !file.is_linked(), stop)?;
    let file = &file.corrected(plan);
    if file.is_linked() {
        return link(file, folder);
    }
    let (outputs, plan) = (&file.outputs(), &file.plan);
    let begin = |output: &Output| Writer::begin(output, file, folder, stop);
    let mut writers = outputs.iter().map(begin).collect::<Result<Vec<_>, _>>()?;
    let mut tracks = Tracks::new(&plan.laid);
    let mut buffers: Vec<Vec<f32>> = vec![vec![]; plan.laid.tracks.len()];
    let mut mixed = vec![];
    let mut at = 0;
    while at < plan.samples {
        if stop.is_stopped() {
            return Err(MediaError::Stopped);
        }
        let count = usize::try_from(plan.samples - at).map_or(BLOCK, |left| left.min(BLOCK));
        buffers.iter_mut().for_each(|track| track.resize(count, 0.0));
        tracks.read(&mut sounds, at, &mut buffers)?;
        let out = match &file.mix {
            Some(mix) => {
                mix.apply(at, &mut buffers, &mut mixed);
                &mixed
            }
            None => &buffers,
        };
        for (writer, output) in writers.iter_mut().zip(outputs) {
            writer.write(&out[output.tracks.clone()])?;
        }
        at += count as i64;
        progress(at as f64 / plan.samples as f64);
    }
    // What a source became while it was read is no recording of that take.
    let picture =
        file.leading.as_ref().map(|(own, _)| own).filter(|_| outputs.iter().any(|own| own.picture.is_some()));
    for own in file.ingredients.iter().flatten().chain(picture) {
        own.fingerprint.still_of(&own.path)?;
    }
    let mut made = vec![];
    let lost = said_of_lost(file, plan, &sounds);
    for (writer, output) in writers.into_iter().zip(outputs) {
        let mut report = done(file.report(output), writer.finish(file.replace)?);
        let said: Vec<String> = report.message.take().into_iter().chain(lost.clone()).collect();
        report.message = (!said.is_empty()).then(|| said.join("; "));
        made.push(report);
    }
    Ok(made)
}

/// What of the sounds that were written could not be decoded, in words.
pub(super) fn said_of_lost(file: &SoundFile, plan: &SoundPlan, sounds: &Sounds) -> Option<String> {
    let of = |(source, sound): (&LaidSource, &Chain<Sound>)| {
        let reach = |(part, at): (&(Sound, i64), &(usize, i64))| {
            let own = file.ingredients[at.0].as_ref()?;
            let rate = f64::from(own.facts.sound.as_ref()?.rate.0);
            let is_written = |lost: &&LostSound| {
                let (from, to) =
                    (part.1 as f64 + lost.from as f64, part.1 as f64 + (lost.from + lost.count) as f64);
                source.legs.iter().any(|leg| from < leg.position(leg.to) && to > leg.at)
            };
            let lost: Vec<LostSound> = part.0.lost().iter().filter(is_written).copied().collect();
            Some(format!("{}: {}; silence is there", own.relative, lost_sound(&lost, rate)?))
        };
        sound.parts().iter().zip(&source.files).filter_map(reach).collect::<Vec<_>>()
    };
    let all: Vec<String> = plan.laid.sources.iter().zip(sounds).flat_map(of).collect();
    (!all.is_empty()).then(|| all.join("; "))
}

/// Writes the document that links the recordings to the picture.
fn link(file: &SoundFile, folder: &Path) -> Result<Vec<MadeReport>, MediaError> {
    let linked =
        file.linked(&file.planned_sound(), None).and_then(|own| serde_json::to_string_pretty(&own).ok());
    let (outputs, text) = (file.outputs(), linked.unwrap_or_default());
    let mut made = vec![];
    for output in &outputs {
        let state = document(&folder.join(&output.path), text.as_bytes(), file.replace)?;
        let hash = Fingerprint::of_bytes(text.as_bytes()).to_string();
        made.push(MadeReport { state, bytes: text.len() as u64, hash, ..file.report(output) });
    }
    Ok(made)
}

fn open(own: &Ingredient, stop: &Stop) -> Result<Sound, MediaError> {
    own.fingerprint.still_of(&own.path)?;
    match &own.facts {
        ClipFacts { sound: Some(sound), .. } => Sound::open(&own.path, sound, stop),
        _ => Err(MediaError::NoMedia { path: own.path.clone() }),
    }
}

/// What is to be said of samples that were louder than what holds them.
pub(super) fn loud(clipped: u64) -> Option<String> {
    let loud = "was louder than 24 bits hold; write floats, or nothing is lost but these peaks";
    (clipped > 0).then(|| format!("{clipped} samples: {loud}"))
}

fn done(mut report: MadeReport, written: WaveWritten) -> MadeReport {
    for (track, peak) in report.tracks.iter_mut().zip(&written.peaks) {
        track.peak_dbfs = (*peak > 0.0).then(|| 20.0 * f64::from(*peak).log10());
    }
    MadeReport {
        state: MadeState::Written,
        message: loud(written.clipped),
        clipped: written.clipped,
        bytes: written.bytes,
        hash: written.hash,
        ..report
    }
}

/// Nothing, where `folder`'s disk has room for so many bytes.
///
/// # Errors
/// In words, how much there is and how much it takes.
pub fn room_for(bytes: u64, folder: &Path) -> Result<(), String> {
    let existing: Option<PathBuf> = folder.ancestors().find(|folder| folder.is_dir()).map(Path::to_owned);
    // A disk that does not say is tried.
    let Some(free) = existing.and_then(|folder| metaxis_media::free_bytes(&folder)) else { return Ok(()) };
    if free >= bytes {
        return Ok(());
    }
    let gigabytes = |bytes: u64| format!("{:.1} GB", bytes as f64 / 1e9);
    Err(format!(
        "{} has {} free and this takes {}; make room or choose another folder",
        folder.display(),
        gigabytes(free),
        gigabytes(bytes)
    ))
}
