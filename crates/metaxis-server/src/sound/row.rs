//! Sounds one behind another, as one file: what is heard in a film.

use super::{file::SoundFile, heard::Heard, write::loud};
use metaxis_core::turnover::WaveNotes;
use metaxis_media::{Fingerprint, MediaError, SoundTrack, Stop, WaveForm, WaveWriter, guarded, written_uid};
use std::path::Path;

/// Samples a track that are made at a time.
const BLOCK: usize = 1 << 15;

/// A part of a row of sounds.
pub struct RowPart {
    /// How many samples it has.
    pub samples: i64,
    /// What is heard in it, from its first sample on; silence where there is nothing, or it is over.
    pub file: Option<SoundFile>,
}

/// Sounds one behind another. What comes out of grids is laid on each other by number, everything else by name; what has one output
/// alone is heard in all of them.
pub struct SoundRow {
    parts: Vec<RowPart>,
    /// How many of the tracks come out of grids.
    outputs: usize,
    names: Vec<String>,
    form: WaveForm,
    notes: WaveNotes,
}

impl SoundRow {
    /// Nothing where nothing is heard in any of them. They have to be of one sample rate, and are written at 24 bits.
    pub fn new(parts: Vec<RowPart>) -> Option<Self> {
        let files = || parts.iter().filter_map(|part| part.file.as_ref());
        let widest = files().max_by_key(|file| file.outputs_of_grid())?;
        let outputs = widest.outputs_of_grid();
        let mut names: Vec<String> = widest.names()[..outputs].to_vec();
        for name in files().flat_map(|file| &file.names()[file.outputs_of_grid()..]) {
            if !names[outputs..].contains(name) {
                names.push(name.clone());
            }
        }
        let (first, notes) = files().next()?.form_and_notes();
        let samples: i64 = parts.iter().map(|part| part.samples).sum();
        let form = WaveForm {
            channels: u16::try_from(names.len()).ok()?,
            samples: u64::try_from(samples).ok()?,
            ..first
        };
        let mut notes = WaveNotes { tracks: names.clone(), set: None, ..notes };
        let of =
            |part: &RowPart| format!("{} {:?}", part.samples, part.file.as_ref().map(SoundFile::notes_uid));
        let all: Vec<String> = parts.iter().map(of).collect();
        notes.uid = Fingerprint::of_bytes(format!("row {all:?} {names:?}").as_bytes()).to_string();
        Some(Self { parts, outputs, names, form, notes })
    }

    /// What tells it from every row that is made of something else, or otherwise.
    pub fn uid(&self) -> &str {
        &self.notes.uid
    }

    /// Bytes that it takes.
    pub fn bytes(&self) -> u64 {
        self.form.data_bytes() + 4096
    }

    /// The tracks of a film that has it: what comes out of two sides together, everything else by itself.
    pub fn film_tracks(&self) -> Vec<SoundTrack> {
        let one =
            |number: usize| SoundTrack { name: self.names[number].clone(), channels: number..number + 1 };
        if self.outputs == 2 {
            let both = SoundTrack { name: "Mix".into(), channels: 0..2 };
            return std::iter::once(both).chain((2..self.names.len()).map(one)).collect();
        }
        (0..self.names.len()).map(one).collect()
    }

    /// Which of the row's tracks those of one of its files go to.
    fn goes_to(&self, file: &SoundFile) -> Vec<Vec<usize>> {
        let own = file.outputs_of_grid();
        let named = |name: &String| {
            let behind = self.names[self.outputs..].iter().position(|other| other == name);
            behind.map(|number| self.outputs + number).into_iter().collect()
        };
        let of = |(number, name): (usize, &String)| match own {
            1 if number == 0 => (0..self.outputs).collect(),
            own if number < own => vec![number],
            _ => named(name),
        };
        file.names().iter().enumerate().map(of).collect()
    }

    /// Writes it to `target`, unless it is there; what is to be said of it.
    ///
    /// # Errors
    /// [`MediaError`] naming the file.
    pub fn write(&self, target: &Path, stop: &Stop) -> Result<Vec<String>, MediaError> {
        if written_uid(target, self.form).is_some_and(|uid| uid == self.notes.uid) {
            return Ok(vec![]);
        }
        guarded(target, || self.make(target, stop))
    }

    fn make(&self, target: &Path, stop: &Stop) -> Result<Vec<String>, MediaError> {
        let mut writer = WaveWriter::create(target, self.form, &self.notes.bext(), &self.notes.ixml(), true)?;
        let mut out: Vec<Vec<f32>> = vec![vec![]; self.names.len()];
        let mut said: Vec<String> = vec![];
        for part in &self.parts {
            let heard = match &part.file {
                Some(file) => Some((Heard::as_written(file, stop)?, self.goes_to(file))),
                None => None,
            };
            lay(part, heard, &mut out, &mut writer, stop).map(|lost| said.extend(lost))?;
        }
        let written = writer.finish(true)?;
        said.extend(loud(written.clipped));
        Ok(said)
    }
}

/// Writes a part: what is `heard` of it and where that goes. What of it could not be read, in words.
fn lay(
    part: &RowPart,
    mut heard: Option<(Heard, Vec<Vec<usize>>)>,
    out: &mut [Vec<f32>],
    writer: &mut WaveWriter,
    stop: &Stop,
) -> Result<Option<String>, MediaError> {
    let mut at = 0;
    while at < part.samples {
        if stop.is_stopped() {
            return Err(MediaError::Stopped);
        }
        let count = usize::try_from(part.samples - at).map_or(BLOCK, |left| left.min(BLOCK));
        for track in out.iter_mut() {
            track.clear();
            track.resize(count, 0.0);
        }
        if let Some((heard, goes_to)) = &mut heard {
            for (samples, to) in heard.read(at, count, |_| true)?.iter().zip(goes_to) {
                for number in to.iter() {
                    out[*number][..samples.len()].copy_from_slice(samples);
                }
            }
        }
        writer.write(out)?;
        at += count as i64;
    }
    let (Some((heard, _)), Some(file)) = (&heard, &part.file) else { return Ok(None) };
    // What a source became while it was read is no recording of that take.
    file.still_there()?;
    Ok(heard.lost(file))
}
