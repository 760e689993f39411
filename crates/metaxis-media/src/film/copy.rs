//! Pieces of a film that are copied as they were recorded: no picture of them is coded again.

use super::{
    coded::{in_every_frame, in_stream},
    keys,
    proof::Print,
    spec::Copied,
    writer::{FilmWriter, Known},
};
use crate::{MediaError, Tool};

/// Hands a frame of a film, as it is to be, to what takes it.
pub type Frames<'a> =
    dyn FnMut(i64, &mut dyn FnMut(&[u8]) -> Result<(), MediaError>) -> Result<(), MediaError> + 'a;

impl FilmWriter {
    /// What of a stretch can be copied: pictures that need others begin with one that does not.
    ///
    /// # Errors
    /// [`MediaError`] naming the clip.
    pub fn can_be_copied(&self, wanted: &Copied) -> Result<Option<Copied>, MediaError> {
        let Copied { path, facts, first, frames, .. } = wanted;
        let found = if in_every_frame(self.spec.form.codec) {
            Some((*first, *frames))
        } else {
            keys::cut_out(path, facts, *first, *frames, &self.stop)?
        };
        let copied = |(own, frames): (i64, i64)| Copied {
            from: wanted.from + own - first,
            first: own,
            frames,
            ..wanted.clone()
        };
        Ok(found.map(copied))
    }

    /// The stretch that a piece is copied from, where it is.
    pub fn copied(&self, number: usize) -> Option<&Copied> {
        let (from, _) = *self.pieces().get(number)?;
        self.copied.iter().find(|own| own.from == from)
    }

    /// Copies a piece. Its head and its tail are those that `frames` hands out to the last bit, and every frame is there; else it has
    /// no name, and `false` is returned: it has to be coded.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Stopped`].
    pub fn copy_piece(&self, number: usize, frames: &mut Frames) -> Result<bool, MediaError> {
        let Some(own) = self.copied(number) else { return Ok(false) };
        match self.copied_whole(own, number, frames) {
            Ok(Some(prints)) => self.keep_piece(number, &Known { prints, remarks: vec![] }).map(|()| true),
            // What no program can do here is done as with any other piece.
            Ok(None) | Err(MediaError::Tool { .. }) => Ok(false),
            Err(e) => Err(e),
        }
    }

    /// Copies a stretch to where its piece is under way; its head and its tail, where all of it is there.
    fn copied_whole(
        &self,
        own: &Copied,
        number: usize,
        frames: &mut Frames,
    ) -> Result<Option<Vec<Print>>, MediaError> {
        let aside = self.under_way(number);
        self.copying(own, number).output(1 << 12, &self.stop)?;
        if self.count(&aside)? != own.frames {
            return Ok(None);
        }
        let mut prints = vec![];
        for at in [own.from, own.from + own.frames - 1] {
            let mut print = None;
            frames(at, &mut |bytes| {
                print = Some(Print::of(at, self.pixels(), bytes));
                Ok(())
            })?;
            let there = self.frame_of(&aside, at - own.from)?;
            match (print, there) {
                (Some(print), Some(there)) if print.is(&there) => prints.push(print),
                _ => return Ok(None),
            }
        }
        Ok(Some(prints))
    }

    fn copying(&self, own: &Copied, number: usize) -> Tool {
        let rate = own.facts.rate.as_f64();
        // Never earlier than it begins: the one before would be taken along.
        let micros = ((own.facts.start_s + own.first as f64 / rate) * 1e6 - 1e-3).ceil();
        let mut tool = Tool::ffmpeg(&own.path);
        if own.first > 0 {
            tool = tool.args(["-seek_timestamp", "1", "-ss", &format!("{:.6}", micros / 1e6)]);
        }
        tool = tool
            .args(["-i"])
            .file(&own.path)
            .args(["-map", "0:V:0", "-c", "copy", "-frames:v", &own.frames.to_string()])
            .args(["-map_metadata", "-1"]);
        if let Some(told) = in_stream(self.spec.form.codec) {
            tool = tool.args(["-bsf:v", told.filter]);
        }
        tool.args(self.as_piece()).into_file(&self.under_way(number))
    }
}
