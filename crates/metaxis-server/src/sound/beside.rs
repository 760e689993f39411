//! Documents beside the sound that is made of groups: they point at its files.

use super::{
    aaf::made_aaf,
    file::{Output, SoundFile},
};
use metaxis_core::{
    group::Group,
    line::Line,
    sound::{Depth, MadeReport, MadeState},
    turnover::{MadeSound, Sources, made_document, made_lists},
};
use metaxis_media::{Fingerprint, MediaError, write_whole};
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
        let aaf = if self.depth() == Depth::Pcm24 { made_aaf(group, &made) } else { None };
        beside.extend(aaf.map(|bytes| (name(".aaf"), bytes)));
        self.beside = beside;
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
pub(super) fn write_beside(file: &SoundFile, folder: &Path) -> Vec<MadeReport> {
    let one = |(path, bytes): &(String, Vec<u8>)| {
        let report = MadeReport { path: path.clone(), ..report_of_document(file) };
        match document(&folder.join(path), bytes, file.replace) {
            Ok(state) => MadeReport {
                state,
                bytes: bytes.len() as u64,
                hash: Fingerprint::of_bytes(bytes).to_string(),
                ..report
            },
            Err(e) => MadeReport { state: MadeState::Failed, message: Some(e.to_string()), ..report },
        }
    };
    file.beside.iter().map(one).collect()
}

/// Writes a document, unless the very same is there.
pub(super) fn document(target: &Path, bytes: &[u8], replace: bool) -> Result<MadeState, MediaError> {
    if !replace && fs::read(target).is_ok_and(|there| there == bytes) {
        return Ok(MadeState::There);
    }
    write_whole(target, bytes, replace)?;
    Ok(MadeState::Written)
}
