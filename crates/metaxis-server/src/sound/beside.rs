//! Documents beside the sound that is made of groups: they point at its files.

use super::{
    aaf::Aaf,
    file::{Beside, Output, SoundFile},
};
use metaxis_core::{
    group::Group,
    line::Line,
    sound::{Depth, MadeReport, MadeState},
    turnover::{MadeSound, Sources, made_document, made_lists},
};
use metaxis_media::{Fingerprint, MediaError, Stop, write_whole};
use std::{fs, path::Path};

impl SoundFile {
    /// Has documents of its group written beside it, which point at its files.
    pub fn with_documents(&mut self, group: &Group, line: Option<&Line>, sources: &Sources) {
        let made: Vec<MadeSound> = self.outputs().iter().map(|own| self.made(own)).collect();
        let document = made_document(group, line, sources, &made);
        let name = |ending: &str| format!("{}{ending}", self.stem);
        let mut beside = vec![(name(".otio"), serde_json::to_vec_pretty(&document).unwrap_or_default())];
        let lists = made_lists(group, &made);
        let several = lists.len() > 1;
        beside.extend((1..).zip(lists).map(|(number, text)| {
            let ending = if several { format!(" {number}.edl") } else { ".edl".into() };
            (name(&ending), text.into_bytes())
        }));
        // It has no word for samples that are floats.
        let aaf = (self.depth() == Depth::Pcm24).then(|| (name(".aaf"), Aaf::of(group, &made)));
        self.beside = Beside { documents: beside, aaf };
    }

    fn made(&self, output: &Output) -> MadeSound {
        let (form, notes) = self.form_and_notes();
        MadeSound {
            name: output.path.rsplit('/').next().unwrap_or_default().to_owned(),
            tracks: self.names()[output.tracks.clone()].to_vec(),
            rate: notes.rate,
            bits: form.depth.bits(),
            samples: self.samples(),
            handles: self.form.handles(notes.rate),
            time_reference: notes.time_reference,
        }
    }
}

/// What is said of a document before it is written: nothing of samples.
fn report_of_document(file: &SoundFile) -> MadeReport {
    let whole = file.planned();
    MadeReport { tracks: vec![], sources: vec![], holes: vec![], bytes: 0, samples: 0, ..whole }
}

/// Writes the documents that point at its files, which are compared whole with what is there.
pub(super) fn write_beside(file: &SoundFile, folder: &Path, stop: &Stop) -> Vec<MadeReport> {
    let failed = |report, why: String| MadeReport { state: MadeState::Failed, message: Some(why), ..report };
    let report = |path: &String| MadeReport { path: path.clone(), ..report_of_document(file) };
    let one = |path: &String, bytes: &[u8]| match document(&folder.join(path), bytes, file.replace) {
        Ok(state) => {
            let hash = Fingerprint::of_bytes(bytes).to_string();
            MadeReport { state, bytes: bytes.len() as u64, hash, ..report(path) }
        }
        Err(e) => failed(report(path), e.to_string()),
    };
    let Beside { documents, aaf } = &file.beside;
    let mut made: Vec<MadeReport> = documents.iter().map(|(path, bytes)| one(path, bytes)).collect();
    if let Some((path, own)) = aaf {
        match own.written(stop) {
            Ok(bytes) => made.extend(bytes.map(|bytes| one(path, &bytes))),
            Err(e) => made.push(failed(report(path), format!("{path}: cannot be written ({e})"))),
        }
    }
    made
}

/// Writes a document, unless the very same is there.
pub(super) fn document(target: &Path, bytes: &[u8], replace: bool) -> Result<MadeState, MediaError> {
    if !replace && fs::read(target).is_ok_and(|there| there == bytes) {
        return Ok(MadeState::There);
    }
    write_whole(target, bytes, replace)?;
    Ok(MadeState::Written)
}
