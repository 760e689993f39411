//! The pieces of a film, joined without coding them again, with its sound; and the whole looked at before it has its name.

use super::{
    code,
    coded::in_stream,
    proof::Print,
    spec::{FilmWritten, SoundTrack},
    writer::{FilmWriter, refused},
};
use crate::{
    MediaError, Tool,
    made::Made,
    picture_out::{HASHED, UID, hashes_of},
    tracks::{named, picked, tracks_graph},
};
use metaxis_core::film::{Codec, Wrapper};
use std::{fs, io::Read, ops::Range, path::Path};

/// Sound that is coded is looked for so far around its place, in seconds, and so much of it.
const AROUND_S: f64 = 0.01;
const LISTENED_S: f64 = 1.0;
/// Samples a second of a film's sound.
const RATE: f64 = 48_000.0;

impl FilmWriter {
    /// Joins the pieces, with the sound, and gives the film its name if what is in it is what was made: every frame counted, its
    /// head, middle and tail looked at, its sound compared to the last bit, or heard in its place where it is coded.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Taken`], [`MediaError::Stopped`].
    pub fn join(&self) -> Result<FilmWritten, MediaError> {
        let made = Made::begin(&self.target, self.replace)?;
        let apart = if self.spec.form.wrapper == Wrapper::Atom { self.sounds_apart()? } else { vec![] };
        let pieces = self.pieces();
        let length = |from: i64, to: i64| (to - from) as f64 / self.spec.rate.as_f64();
        let list: String = std::iter::once("ffconcat version 1.0\n".to_owned())
            .chain(pieces.iter().enumerate().map(|(number, (from, to))| {
                let name = self.piece(number).file_name().unwrap_or_default().to_string_lossy().into_owned();
                format!("file {name}\nduration {:.9}\n", length(*from, *to))
            }))
            .collect();
        let list_path = self.folder.join("pieces.txt");
        fs::write(&list_path, list).map_err(|e| refused(&self.target, &e))?;
        self.joining(&list_path, made.aside()).output(1 << 12, &self.stop).map_err(|e| self.refused(e))?;
        made.file.sync_all().map_err(|e| made.refused(&e))?;
        self.look(made.aside())?;
        let (mut bytes, hash) = made.read_back()?;
        // The pictures last: where they have their name, all of it is there.
        for own in apart {
            bytes += own.file.metadata().map_or(0, |own| own.len());
            own.keep(self.replace)?;
        }
        made.keep(self.replace)?;
        let _ = fs::remove_dir_all(&self.folder);
        Ok(FilmWritten { bytes, hash })
    }

    fn joining(&self, list: &Path, aside: &Path) -> Tool {
        let spec = &self.spec;
        let wrapper = spec.form.wrapper;
        let mut tool = Tool::maker(&self.folder)
            .args(["-f", "concat", "-safe", "0", "-protocol_whitelist", "file", "-i"])
            .file(list);
        let mut graph = String::new();
        // What holds one thing alone has its sound beside it.
        let sound = spec.sound.as_ref().filter(|_| wrapper != Wrapper::Atom);
        if let Some((path, tracks)) = sound {
            tool = tool.args(["-protocol_whitelist", "file", "-i"]).file(path);
            graph = tracks_graph(1, &channels_of(tracks));
        }
        if !graph.is_empty() {
            tool = tool.args(["-filter_complex", &graph]);
        }
        tool = tool.args(["-map", "0:v:0"]);
        let tracks = sound.map_or(&[][..], |(_, tracks)| tracks);
        for (number, track) in tracks.iter().enumerate() {
            tool = tool.args(["-map".into(), format!("[t{number}]")]).args(named(number, &track.name));
        }
        tool = tool.args(["-c:v", "copy", "-map_metadata", "-1"]);
        if let Some(tag) = self.tag().filter(|_| wrapper != Wrapper::Mkv) {
            tool = tool.args(["-tag:v", tag]);
        }
        if wrapper.is_mxf() {
            // Of what is copied it does not know how many frames a second there are.
            tool = tool.args(["-r", &format!("{}/{}", spec.rate.num(), spec.rate.den())]);
        }
        tool = if wrapper.keeps_samples() {
            tool.args(["-c:a", "pcm_s24le"])
        } else {
            tool.args(["-c:a", "aac", "-b:a", "256k"])
        };
        tool = tool.args(self.notes());
        match (&spec.timecode, wrapper) {
            (Some(own), Wrapper::Mkv) => tool = tool.args(["-metadata:s:v:0", &format!("timecode={own}")]),
            (Some(own), _) => tool = tool.args(["-timecode", own]),
            (None, _) => {}
        }
        if !wrapper.is_mxf() {
            // An MXF made so would be called as every other.
            tool = tool.args(["-fflags", "+bitexact"]);
        }
        tool.args(code::muxer(wrapper).iter().copied()).into_file(aside)
    }

    /// What is said of it in the file, as arguments.
    fn notes(&self) -> Vec<String> {
        let prefix = if self.spec.form.wrapper.is_mxf() { "comment_" } else { "" };
        let uid = (UID.to_owned(), self.spec.uid.clone());
        let one =
            |(name, value): &(String, String)| ["-metadata".to_owned(), format!("{prefix}{name}={value}")];
        self.spec.notes.iter().chain([&uid]).flat_map(one).collect()
    }

    /// Its sound, each channel in a file of its own: called as the pictures are, with the channel's number and name behind.
    fn sounds_apart(&self) -> Result<Vec<Made>, MediaError> {
        let Some((wave, tracks)) = &self.spec.sound else { return Ok(vec![]) };
        let channels = tracks.iter().flat_map(|own| own.channels.clone().map(move |at| (at, own)));
        channels.map(|(channel, track)| self.sound_apart(wave, channel, track)).collect()
    }

    fn sound_apart(&self, wave: &Path, channel: usize, track: &SoundTrack) -> Result<Made, MediaError> {
        let stem = self.target.file_stem().unwrap_or_default().to_string_lossy();
        let plain: String =
            track.name.chars().map(|own| if own.is_alphanumeric() { own } else { ' ' }).take(40).collect();
        let name = format!("{stem} A{:02} {}", channel + 1, plain.trim());
        let made =
            Made::begin(&self.target.with_file_name(format!("{}.mxf", name.trim_end())), self.replace)?;
        let rate = format!("{}/{}", self.spec.rate.num(), self.spec.rate.den());
        let mut tool = Tool::maker(&self.folder)
            .args(["-protocol_whitelist", "file", "-i"])
            .file(wave)
            .args(["-af", &picked(&(channel..channel + 1)), "-c:a", "pcm_s24le", "-map_metadata", "-1"])
            .args(self.notes())
            .args(["-metadata".to_owned(), format!("comment_track={}", track.name)]);
        if let Some(own) = &self.spec.timecode {
            tool = tool.args(["-timecode", own]);
        }
        tool.args(code::muxer(Wrapper::Atom).iter().copied())
            .args(["-mxf_audio_edit_rate", &rate])
            .into_file(made.aside())
            .output(1 << 12, &self.stop)
            .map_err(|e| self.refused(e))?;
        made.file.sync_all().map_err(|e| made.refused(&e))?;
        let alone = SoundTrack { name: track.name.clone(), channels: channel..channel + 1 };
        if self.is_the_same_sound(made.aside(), wave, &[alone])? {
            return Ok(made);
        }
        let detail = format!("channel {} of its sound is not what was made; try again", channel + 1);
        Err(MediaError::Write { path: made.target().to_owned(), detail })
    }

    /// What MP4 and MOV call its pictures, where that is not what they call them anyway.
    fn tag(&self) -> Option<&'static str> {
        let differ = !self.copied.is_empty() && self.pieces().len() > 1;
        let codec = self.spec.form.codec;
        in_stream(codec).filter(|_| differ).map(|own| own.tag).or((codec == Codec::H265).then_some("hvc1"))
    }

    /// Refuses a film that is not what was made.
    fn look(&self, aside: &Path) -> Result<(), MediaError> {
        let wrong = |detail: String| Err(MediaError::Write { path: self.target.clone(), detail });
        let there = self.count(aside)?;
        if there != self.spec.frames {
            return wrong(format!("{} frames were made and {there} are in it; try again", self.spec.frames));
        }
        let prints: Vec<Print> = (0..self.pieces().len())
            .filter_map(|number| self.known(number))
            .flat_map(|own| own.prints)
            .collect();
        let chosen = [prints.first(), prints.get(prints.len() / 2), prints.last()];
        for own in chosen.into_iter().flatten() {
            if !self.frame_of(aside, own.frame)?.is_some_and(|there| own.is_like(&there)) {
                return wrong(format!("its frame {} is not the one that was made; try again", own.frame));
            }
        }
        let apart = self.spec.form.wrapper == Wrapper::Atom;
        let Some((path, tracks)) = self.spec.sound.as_ref().filter(|_| !apart) else { return Ok(()) };
        let heard = if self.spec.form.wrapper.keeps_samples() {
            self.is_the_same_sound(aside, path, tracks)?
        } else {
            self.is_in_its_place(aside, path, tracks)?
        };
        if heard {
            Ok(())
        } else {
            wrong("its sound is not what was made, or not in its place; try again".into())
        }
    }

    /// What a frame of a file is known by.
    pub(super) fn frame_of(&self, path: &Path, frame: i64) -> Result<Option<Print>, MediaError> {
        let (pixels, rate) = (self.pixels(), self.spec.rate.as_f64());
        let mut tool = Tool::ffmpeg(path);
        if frame > 0 {
            tool = tool.args(["-ss", &format!("{:.6}", (frame as f64 - 0.5) / rate)]);
        }
        let bytes = tool
            .args(["-i"])
            .file(path)
            .args(["-map", "0:V:0", "-frames:v", "1", "-fps_mode", "passthrough"])
            .args(["-pix_fmt", pixels.name(), "-f", "rawvideo", "pipe:1"])
            .output(pixels.bytes() as u64, &self.stop)?;
        Ok((bytes.len() == pixels.bytes()).then(|| Print::of(frame, pixels, &bytes)))
    }

    /// Whether the samples of a film are those of the WAV, to the last bit.
    fn is_the_same_sound(&self, film: &Path, wave: &Path, tracks: &[SoundTrack]) -> Result<bool, MediaError> {
        let hashed = |tool: Tool| {
            tool.args(["-c:a", "pcm_s24le"])
                .args(HASHED)
                .output(1 << 16, &self.stop)
                .map(|own| hashes_of(&own))
        };
        let of_film = hashed(Tool::ffmpeg(film).args(["-i"]).file(film).args(["-map", "0:a?"]))?;
        let graph = tracks_graph(0, &channels_of(tracks));
        let mapped = (0..tracks.len()).flat_map(|number| ["-map".to_owned(), format!("[t{number}]")]);
        let of_wave =
            Tool::ffmpeg(wave).args(["-i"]).file(wave).args(["-filter_complex", &graph]).args(mapped);
        Ok(of_film == hashed(of_wave)?)
    }

    /// Whether coded sound lies where it lay, to a sample, at the head and at the tail of each track.
    fn is_in_its_place(&self, film: &Path, wave: &Path, tracks: &[SoundTrack]) -> Result<bool, MediaError> {
        let length_s = self.spec.frames as f64 / self.spec.rate.as_f64();
        let tail_s = (length_s - LISTENED_S - 2.0 * AROUND_S).max(0.0);
        for (number, track) in tracks.iter().enumerate() {
            let first = track.channels.start;
            for from in [0, (tail_s * RATE) as usize] {
                let of_wave = self.samples(wave, 0, first, from)?;
                let of_film = self.samples(film, number, 0, from)?;
                if !is_at_its_place(&of_wave, &of_film) {
                    return Ok(false);
                }
            }
        }
        Ok(true)
    }

    /// What is listened to of a channel of a sound track, from sample `from` on.
    fn samples(
        &self,
        path: &Path,
        track: usize,
        channel: usize,
        from: usize,
    ) -> Result<Vec<f32>, MediaError> {
        let pick = picked(&(channel..channel + 1));
        let to = from + ((LISTENED_S + 2.0 * AROUND_S) * RATE) as usize;
        let mut bytes = vec![];
        // Counted from the first on: where one is that is gone to, a coder may not know to a sample.
        Tool::ffmpeg(path)
            .args(["-i"])
            .file(path)
            .args(["-map", &format!("0:a:{track}")])
            .args(["-af", &format!("{pick},atrim=start_sample={from}:end_sample={to}")])
            .args(["-c:a", "pcm_f32le", "-f", "f32le", "pipe:1"])
            .stream(&self.stop, |out| out.read_to_end(&mut bytes).map(|_| ()))?;
        Ok(bytes.chunks_exact(4).map(|own| f32::from_le_bytes([own[0], own[1], own[2], own[3]])).collect())
    }
}

fn channels_of(tracks: &[SoundTrack]) -> Vec<Range<usize>> {
    tracks.iter().map(|own| own.channels.clone()).collect()
}

/// Whether what is heard in `made` is nowhere nearer in `coded` than at the same place. Both begin and end [`AROUND_S`] before and after
/// what is compared.
fn is_at_its_place(made: &[f32], coded: &[f32]) -> bool {
    let around = (AROUND_S * RATE) as usize;
    let own = made.get(around..made.len().saturating_sub(around)).unwrap_or_default();
    let energy = |own: &[f32]| own.iter().map(|own| f64::from(*own) * f64::from(*own)).sum::<f64>();
    // Silence is everywhere alike.
    if energy(own) <= 1e-6 * own.len() as f64 {
        return true;
    }
    let likeness = |shift: usize| {
        let other = coded.get(shift..(shift + own.len()).min(coded.len())).unwrap_or_default();
        let sum: f64 = own.iter().zip(other).map(|(a, b)| f64::from(*a) * f64::from(*b)).sum();
        sum / (energy(other).sqrt() * energy(own).sqrt()).max(1e-12)
    };
    let best = (0..=2 * around).max_by(|a, b| likeness(*a).total_cmp(&likeness(*b)));
    best.is_some_and(|own| own.abs_diff(around) <= 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sound_that_is_late_or_early_is_heard_to_be() {
        let noise = |n: usize| ((n as f64 * 12.9898).sin() * 43_758.547).fract() as f32 - 0.5;
        let heard = |from: usize| (from..from + 20_000).map(noise).collect::<Vec<_>>();
        assert!(is_at_its_place(&heard(100), &heard(100)));
        for off in [60, 98, 102, 140] {
            assert!(!is_at_its_place(&heard(100), &heard(off)), "{off}");
        }
        assert!(is_at_its_place(&[0.0; 20_000], &heard(100)), "silence has no place");
        assert!(!is_at_its_place(&heard(100), &[0.0; 20_000]), "silence is not what was made");
        // What is shorter than what is left around it is not listened to.
        assert!(is_at_its_place(&[0.5; 900], &[]));
    }
}
