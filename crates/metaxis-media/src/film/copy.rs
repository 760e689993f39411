//! Stretches of a film that are copied as they were recorded: what can be, how each is cut out of its file, and whether it is in the film.

use super::{
    coded::{in_every_frame, in_stream},
    keys::Packets,
    listed::{Listed, MOST, are_all_from, listed, listing, numbers},
    spec::Copied,
    writer::FilmWriter,
};
use crate::{MediaError, Stop, Tool};
use metaxis_core::time::FrameRate;
use std::path::Path;

/// Longest part of a stretch that is held in memory on its way, microseconds.
const PART_US: &str = "500000";

impl FilmWriter {
    /// What of stretches of one clip can be copied: pictures that need others begin with one that does not.
    ///
    /// # Errors
    /// [`MediaError`] naming the clip.
    pub fn can_be_copied(&self, wanted: &[Copied]) -> Result<Vec<Copied>, MediaError> {
        let Some(Copied { path, facts, .. }) = wanted.first() else { return Ok(vec![]) };
        if in_every_frame(self.spec.form.codec) {
            return Ok(wanted.to_vec());
        }
        let stretches: Vec<(i64, i64)> = wanted.iter().map(|own| (own.first, own.frames)).collect();
        let packets = Packets::around(path, facts, &stretches, &self.stop)?;
        let copied = |(own, stretch): (&Copied, &(i64, i64))| {
            let (first, frames) = packets.cut_out(*stretch)?;
            Some(Copied { from: own.from + first - own.first, first, frames, ..own.clone() })
        };
        Ok(wanted.iter().zip(&stretches).filter_map(copied).collect())
    }

    /// The stretch that a piece is copied from, where it is.
    pub fn copied(&self, number: usize) -> Option<&Copied> {
        let (from, _) = *self.pieces().get(number)?;
        self.copied.iter().find(|own| own.from == from).filter(|_| !self.is_there(number))
    }

    /// Cuts out a stretch into a pipe; its pictures as they were in its file, in their order.
    pub(super) fn cut(&self, own: &Copied, into: &Path, stop: &Stop) -> Result<Vec<Listed>, MediaError> {
        let rate = own.facts.rate.as_f64();
        // Never earlier than it begins: the one before would be taken along.
        let micros = ((own.facts.start_s + own.first as f64 / rate) * 1e6 - 1e-3).ceil();
        let frames = own.frames.to_string();
        let mut tool = Tool::ffmpeg(&own.path).args(["-copyts"]);
        if own.first > 0 {
            tool = tool.args(["-seek_timestamp", "1", "-ss", &format!("{:.6}", micros / 1e6)]);
        }
        tool = tool
            .args(["-i"])
            .file(&own.path)
            .args(["-map", "0:V:0", "-c", "copy", "-frames:v", &frames])
            .args(["-map_metadata", "-1"]);
        if let Some(told) = in_stream(self.spec.form.codec) {
            tool = tool.args(["-bsf:v", told.filter]);
        }
        let said = tool
            .args(self.as_piece())
            // What goes through a pipe cannot be gone back to.
            .args(["-movflags", "+empty_moov+delay_moov+default_base_moof", "-frag_duration", PART_US])
            .into_file(into)
            .args(["-frames:v", &frames])
            .args(listing(self.spec.form.codec))
            .args(["pipe:1"])
            .output(MOST, stop)?;
        Ok(listed(&String::from_utf8_lossy(&said)))
    }
}

impl Copied {
    /// Whether these pictures of its file are all of its own.
    pub(super) fn is_all(&self, pictures: &[Listed]) -> bool {
        pictures.len() as i64 == self.frames
            && are_all_from(self.first, &numbers(pictures, self.facts.start_s, self.facts.rate))
    }

    /// Whether these pictures, of a film that begins at `zero_s`, are those `cut` out of its file, to the last bit and each in its place.
    pub(super) fn is_in(&self, film: &[Listed], zero_s: f64, rate: FrameRate, cut: &[Listed]) -> bool {
        let places = numbers(film, zero_s, rate);
        let own = numbers(cut, self.facts.start_s, self.facts.rate);
        let alike = |((there, at), (cut, number)): ((&Listed, i64), (&Listed, i64))| {
            there.hash == cut.hash && at - self.from == number - self.first
        };
        film.len() == cut.len() && film.iter().zip(places).zip(cut.iter().zip(own)).all(alike)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use metaxis_core::clip::{ColourFacts, PictureFacts};
    use std::path::PathBuf;

    fn pictures(frames: &[i64], zero_s: f64) -> Vec<Listed> {
        frames
            .iter()
            .map(|own| Listed { at_s: zero_s + *own as f64 / 25.0, hash: 1000 + *own as u128 })
            .collect()
    }

    #[test]
    fn what_was_cut_out_is_all_there_and_in_its_place() {
        let facts = PictureFacts {
            rate: FrameRate::FPS_25,
            constant_rate: true,
            width: 320,
            height: 240,
            codec: "h264".into(),
            start_s: 4.0,
            duration_s: 60.0,
            frames: None,
            still: false,
            colour: ColourFacts::default(),
        };
        let own = Copied { from: 100, frames: 4, path: PathBuf::new(), facts, first: 10 };
        let cut = pictures(&[10, 13, 11, 12], 4.0);
        assert!(own.is_all(&cut));
        assert!(!own.is_all(&pictures(&[9, 10, 12, 11], 4.0)), "one too early");
        assert!(!own.is_all(&pictures(&[10, 11, 12], 4.0)), "one is missing");
        assert!(!own.is_all(&pictures(&[10, 11, 12, 14], 4.0)), "one is left out");
        // In the film they are ninety later.
        let there = |zero_s: f64| -> Vec<Listed> {
            cut.iter().map(|own| Listed { at_s: own.at_s - 4.0 + 90.0 / 25.0 + zero_s, ..*own }).collect()
        };
        let is_in = |film: &[Listed]| own.is_in(film, 2.0, FrameRate::FPS_25, &cut);
        assert!(is_in(&there(2.0)));
        assert!(!is_in(&there(2.04)), "a frame late");
        assert!(!is_in(&there(2.0)[1..]));
        let mut other = there(2.0);
        other[2].hash ^= 1;
        assert!(!is_in(&other), "a bit is not the same");
    }
}
