//! The pieces of a film, joined without coding them again, with its sound; and the whole looked at before it has its name.

use super::{
    code,
    proof::Print,
    spec::{FilmWritten, SoundTrack},
    writer::{FilmWriter, refused},
};
use crate::{MediaError, Tool, made::Made, picture_out::UID};
use metaxis_core::film::{Codec, Wrapper};
use sha2::{Digest, Sha256};
use std::{fs, io::Read, ops::Range, os::unix::fs::FileExt, path::Path};

/// Sound that is coded is looked for so far around its place, in seconds, and so much of it.
const AROUND_S: f64 = 0.01;
const LISTENED_S: f64 = 1.0;

impl FilmWriter {
    /// Joins the pieces, with the sound, and gives the film its name if what is in it is what was made: every frame counted, its
    /// head, middle and tail looked at, its sound compared to the last bit, or heard in its place where it is coded.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Taken`], [`MediaError::Stopped`].
    pub fn join(&self) -> Result<FilmWritten, MediaError> {
        let made = Made::begin(&self.target, self.replace)?;
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
        let (mut hash, mut length, mut bytes) = (blake3::Hasher::new(), 0, vec![0; 1 << 20]);
        loop {
            match made.file.read_at(&mut bytes, length).map_err(|e| made.refused(&e))? {
                0 => break,
                count => {
                    hash.update(&bytes[..count]);
                    length += count as u64;
                }
            }
        }
        made.keep(self.replace)?;
        let _ = fs::remove_dir_all(&self.folder);
        Ok(FilmWritten { bytes: length, hash: hash.finalize().to_hex()[..32].to_owned() })
    }

    fn joining(&self, list: &Path, aside: &Path) -> Tool {
        let spec = &self.spec;
        let wrapper = spec.form.wrapper;
        let mut tool = Tool::maker(&self.folder)
            .args(["-f", "concat", "-safe", "0", "-protocol_whitelist", "file", "-i"])
            .file(list);
        let mut graph = String::new();
        if let Some((path, tracks)) = &spec.sound {
            tool = tool.args(["-protocol_whitelist", "file", "-i"]).file(path);
            graph = tracks_of(tracks);
        }
        if !graph.is_empty() {
            tool = tool.args(["-filter_complex", &graph]);
        }
        tool = tool.args(["-map", "0:v:0"]);
        let tracks = spec.sound.as_ref().map_or(&[][..], |(_, tracks)| tracks);
        for (number, track) in tracks.iter().enumerate() {
            tool = tool
                .args(["-map".into(), format!("[t{number}]")])
                .args([format!("-metadata:s:a:{number}"), format!("title={}", track.name)])
                .args([format!("-metadata:s:a:{number}"), format!("handler_name={}", track.name)]);
        }
        tool = tool.args(["-c:v", "copy", "-map_metadata", "-1"]);
        if spec.form.codec == Codec::H265 && wrapper != Wrapper::Mkv {
            tool = tool.args(["-tag:v", "hvc1"]);
        }
        if wrapper == Wrapper::Mxf {
            // Of what is copied it does not know how many frames a second there are.
            tool = tool.args(["-r", &format!("{}/{}", spec.rate.num(), spec.rate.den())]);
        }
        tool = if wrapper.keeps_samples() {
            tool.args(["-c:a", "pcm_s24le"])
        } else {
            tool.args(["-c:a", "aac", "-b:a", "256k"])
        };
        let prefix = if wrapper == Wrapper::Mxf { "comment_" } else { "" };
        let uid = (UID.to_owned(), spec.uid.clone());
        for (name, value) in spec.notes.iter().chain([&uid]) {
            tool = tool.args(["-metadata".into(), format!("{prefix}{name}={value}")]);
        }
        match (&spec.timecode, wrapper) {
            (Some(own), Wrapper::Mkv) => tool = tool.args(["-metadata:s:v:0", &format!("timecode={own}")]),
            (Some(own), _) => tool = tool.args(["-timecode", own]),
            (None, _) => {}
        }
        tool.args(["-fflags", "+bitexact"]).args(code::muxer(wrapper).iter().copied()).into_file(aside)
    }

    /// Refuses a film that is not what was made.
    fn look(&self, aside: &Path) -> Result<(), MediaError> {
        let wrong = |detail: String| Err(MediaError::Write { path: self.target.clone(), detail });
        let there = self.count(aside)?;
        if there != self.spec.frames {
            return wrong(format!("{} frames were made and {there} are in it; try again", self.spec.frames));
        }
        let prints: Vec<Print> =
            (0..self.pieces().len()).filter_map(|number| self.prints(number)).flatten().collect();
        let chosen = [prints.first(), prints.get(prints.len() / 2), prints.last()];
        for own in chosen.into_iter().flatten() {
            if !self.frame_of(aside, own.frame)?.is_some_and(|there| own.is_like(&there)) {
                return wrong(format!("its frame {} is not the one that was made; try again", own.frame));
            }
        }
        let Some((path, tracks)) = &self.spec.sound else { return Ok(()) };
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
    fn frame_of(&self, path: &Path, frame: i64) -> Result<Option<Print>, MediaError> {
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
        for (number, track) in tracks.iter().enumerate() {
            let hash = |path: &Path, map: &[String]| {
                let mut hash = Sha256::new();
                let mut count = 0;
                Tool::ffmpeg(path)
                    .args(["-i"])
                    .file(path)
                    .args(map)
                    .args(["-c:a", "pcm_s24le", "-f", "s24le", "pipe:1"])
                    .stream(&self.stop, |out| {
                        let mut bytes = vec![0; 1 << 18];
                        loop {
                            match out.read(&mut bytes)? {
                                0 => return Ok(()),
                                read => {
                                    hash.update(&bytes[..read]);
                                    count += read;
                                }
                            }
                        }
                    })?;
                Ok::<_, MediaError>((hash.finalize(), count))
            };
            let of_film = hash(film, &["-map".into(), format!("0:a:{number}")])?;
            let of_wave = hash(wave, &["-af".into(), picked(&track.channels)])?;
            if of_film != of_wave {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Whether coded sound lies where it lay, to a sample, at the head and at the tail of each track.
    fn is_in_its_place(&self, film: &Path, wave: &Path, tracks: &[SoundTrack]) -> Result<bool, MediaError> {
        let length_s = self.spec.frames as f64 / self.spec.rate.as_f64();
        for (number, track) in tracks.iter().enumerate() {
            let mono = Range { start: track.channels.start, end: track.channels.start + 1 };
            let of_wave = self.samples(wave, &["-af".into(), picked(&mono)])?;
            let of_film =
                self.samples(film, &["-map".into(), format!("0:a:{number}"), "-af".into(), picked(&(0..1))])?;
            for at_s in [0.0, (length_s - LISTENED_S - 2.0 * AROUND_S).max(0.0)] {
                if !is_at_its_place(&of_wave, &of_film, (at_s * 48_000.0) as usize) {
                    return Ok(false);
                }
            }
        }
        Ok(true)
    }

    /// Decoded samples, 48000 a second.
    fn samples(&self, path: &Path, chosen: &[String]) -> Result<Vec<f32>, MediaError> {
        let mut bytes = vec![];
        Tool::ffmpeg(path)
            .args(["-i"])
            .file(path)
            .args(chosen)
            .args(["-ar", "48000", "-c:a", "pcm_f32le", "-f", "f32le", "pipe:1"])
            .stream(&self.stop, |out| out.read_to_end(&mut bytes).map(|_| ()))?;
        Ok(bytes.chunks_exact(4).map(|own| f32::from_le_bytes([own[0], own[1], own[2], own[3]])).collect())
    }
}

/// Picks channels out of a WAV.
fn picked(channels: &Range<usize>) -> String {
    match (channels.len(), channels.start) {
        (2, first) => format!("pan=stereo|c0=c{first}|c1=c{}", first + 1),
        (_, first) => format!("pan=mono|c0=c{first}"),
    }
}

fn tracks_of(tracks: &[SoundTrack]) -> String {
    let splits: Vec<String> = (0..tracks.len()).map(|n| format!("[s{n}]")).collect();
    let picks: Vec<String> = tracks
        .iter()
        .enumerate()
        .map(|(n, track)| format!("[s{n}]{}[t{n}]", picked(&track.channels)))
        .collect();
    if tracks.is_empty() {
        return String::new();
    }
    format!("[1:a]asplit={}{};{}", tracks.len(), splits.concat(), picks.join(";"))
}

/// Whether what is heard in `made` from sample `at` on is nowhere nearer in `coded` than at the same place.
fn is_at_its_place(made: &[f32], coded: &[f32], at: usize) -> bool {
    let around = (AROUND_S * 48_000.0) as usize;
    let count = (LISTENED_S * 48_000.0) as usize;
    let from = at + around;
    let Some(own) = made.get(from..(from + count).min(made.len())) else { return true };
    let energy = |own: &[f32]| own.iter().map(|own| f64::from(*own) * f64::from(*own)).sum::<f64>();
    // Silence is everywhere alike.
    if energy(own) < 1e-6 * own.len() as f64 {
        return true;
    }
    let likeness = |shift: usize| {
        let begin = from + shift - around;
        let other = coded.get(begin..(begin + own.len()).min(coded.len())).unwrap_or_default();
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
    fn sound_that_is_late_is_heard_to_be() {
        let noise = |n: usize| ((n as f64 * 12.9898).sin() * 43_758.547).fract() as f32 - 0.5;
        let made: Vec<f32> = (0..96_000).map(noise).collect();
        let late: Vec<f32> = std::iter::repeat_n(0.0, 40).chain(made.iter().copied()).collect();
        assert!(is_at_its_place(&made, &made, 1000));
        assert!(!is_at_its_place(&made, &late, 1000));
        assert!(is_at_its_place(&[0.0; 96_000], &late, 1000), "silence has no place");
    }
}
