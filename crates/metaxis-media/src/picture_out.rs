//! A picture written again with other sound: its own stream bit for bit, in a MOV or an MXF (OP1a).

use crate::{
    MediaError, Stop, Tool, WaveWritten,
    made::{Made, by_disk},
    open::open_file,
    packed::pack,
    tool::Fed,
    tracks::{named, tracks_graph},
};
use metaxis_core::sound::{Container, Depth};
use sha2::{Digest, Sha256};
use std::{
    io,
    os::unix::fs::FileExt,
    path::{Path, PathBuf},
};

/// What is written beside a picture.
#[derive(Debug, Clone, PartialEq)]
pub struct PictureForm {
    /// What holds them.
    pub container: Container,
    /// Samples a second.
    pub rate: u32,
    /// Samples a track.
    pub samples: u64,
    /// Names of the tracks.
    pub tracks: Vec<String>,
    /// Seconds from the file's beginning to its first picture, where the tracks begin.
    pub delay_s: f64,
    /// Whether the picture's own sound stays, behind the tracks and switched off.
    pub keeps_own: bool,
    /// Timecode of the first picture.
    pub timecode: Option<String>,
    /// What else is said of it, by name.
    pub notes: Vec<(String, String)>,
    /// Tells what is in it from everything else.
    pub uid: String,
}

/// Name of the note that holds a file's uid.
pub(crate) const UID: &str = "metaxis_uid";

/// A hash of each stream to the standard output.
pub(crate) const HASHED: [&str; 5] = ["-f", "streamhash", "-hash", "sha256", "pipe:1"];

impl PictureForm {
    /// What became of a file that ffmpeg could not write, in words of use.
    fn refused(&self, source: &Path, target: &Path, e: MediaError) -> MediaError {
        let MediaError::Tool { detail, .. } = e else { return e };
        let detail = by_disk(&detail).unwrap_or_else(|| {
            let name = source.file_name().unwrap_or_default().to_string_lossy();
            let (this, other) =
                if self.container == Container::Mxf { ("MXF", "a MOV") } else { ("MOV", "an MXF") };
            format!("{name} does not go into {this}: {detail}; choose {other}, or sound alone")
        });
        MediaError::Write { path: target.to_owned(), detail }
    }

    /// What ffmpeg does with the picture at `source` and the samples it is fed.
    fn tool(&self, source: &Path, aside: &Path) -> Tool {
        let count = self.tracks.len();
        let is_mov = self.container == Container::Mov;
        let filter = tracks_graph(1, &(0..count).map(|n| n..n + 1).collect::<Vec<_>>());
        let mut tool = Tool::ffmpeg(source)
            .args(["-threads", "1", "-i"])
            .file(source)
            .args(["-f", "s24le", "-protocol_whitelist", "pipe", "-itsoffset", &self.delay_s.to_string()])
            .args(["-ar", &self.rate.to_string(), "-ac", &count.to_string(), "-i", "pipe:0"])
            .args(["-filter_complex", &filter, "-map", "0:V:0"]);
        for n in 0..count {
            tool = tool.args(["-map", &format!("[t{n}]")]);
        }
        if self.keeps_own {
            tool = tool.args(["-map", "0:a?"]);
        }
        // An MXF holds no sound but samples.
        let own = if is_mov { "copy" } else { "pcm_s24le" };
        tool = tool.args(["-c:v", "copy", "-c:a", own, "-disposition:a", "0", "-map_metadata", "0"]);
        for (n, name) in self.tracks.iter().enumerate() {
            tool = tool
                .args([
                    format!("-c:a:{n}"),
                    "pcm_s24le".into(),
                    format!("-disposition:a:{n}"),
                    "default".into(),
                ])
                .args(named(n, name));
            if !is_mov {
                tool = tool.args(["-metadata".into(), format!("comment_track {}={name}", n + 1)]);
            }
        }
        let prefix = if is_mov { "" } else { "comment_" };
        let uid = (UID.to_owned(), self.uid.clone());
        for (name, value) in self.notes.iter().chain([&uid]) {
            tool = tool.args(["-metadata".into(), format!("{prefix}{name}={value}")]);
        }
        if let Some(timecode) = &self.timecode {
            tool = tool.args(["-timecode", timecode]);
        }
        let muxer: &[&str] = match self.container {
            Container::Mxf => &["-f", "mxf"],
            _ => &["-movflags", "use_metadata_tags", "-f", "mov"],
        };
        // The clock of a MOV's edits counts in samples, so that nothing is rounded.
        if is_mov {
            tool = tool.args(["-movie_timescale", &self.rate.to_string()]);
        }
        tool.args(["-fflags", "+bitexact"])
            .args(muxer.iter().copied())
            .into_file(aside)
            .args(["-map", "0:V:0", "-c", "copy"])
            .args(HASHED)
    }
}

/// A picture that is being written with other sound.
pub struct PictureWriter {
    made: Made,
    aside: PathBuf,
    source: PathBuf,
    fed: Fed,
    form: PictureForm,
    stop: Stop,
    left: u64,
    bytes: Vec<u8>,
    hashes: Vec<Sha256>,
    peaks: Vec<f32>,
    clipped: u64,
}

impl PictureWriter {
    /// Begins a file at `target` with the picture of `source`.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Taken`], [`MediaError::Tool`].
    pub fn create(
        source: &Path,
        target: &Path,
        form: PictureForm,
        replace: bool,
        stop: &Stop,
    ) -> Result<Self, MediaError> {
        let made = Made::begin(target, replace)?;
        let aside = made.aside().to_owned();
        let fed = form.tool(source, &aside).feed(1 << 16, stop)?;
        let count = form.tracks.len();
        Ok(Self {
            made,
            aside,
            source: source.to_owned(),
            fed,
            stop: stop.clone(),
            left: form.samples,
            bytes: vec![],
            hashes: vec![Sha256::new(); count],
            peaks: vec![0.0; count],
            clipped: 0,
            form,
        })
    }

    /// Writes the next samples: one buffer a track, all of one length. What is more than was said is left out.
    ///
    /// # Errors
    /// [`MediaError::Tool`], [`MediaError::Stopped`].
    pub fn write(&mut self, tracks: &[Vec<f32>]) -> Result<(), MediaError> {
        let count = (tracks.first().map_or(0, Vec::len) as u64).min(self.left) as usize;
        self.left -= count as u64;
        for ((track, hash), peak) in tracks.iter().zip(&mut self.hashes).zip(&mut self.peaks) {
            pack(Depth::Pcm24, &[track], count, &mut self.bytes, std::slice::from_mut(peak));
            hash.update(&self.bytes);
        }
        self.clipped += pack(Depth::Pcm24, tracks, count, &mut self.bytes, &mut self.peaks);
        let fed = self.fed.write(&self.bytes);
        fed.map_err(|e| self.form.refused(&self.source, self.made.target(), e))
    }

    /// Ends the file. It is read back, and has its name only if the picture in it is the source's to the last bit and every
    /// track is what was written.
    ///
    /// # Errors
    /// As [`PictureWriter::write`], [`MediaError::Write`], [`MediaError::Taken`].
    pub fn finish(mut self, replace: bool) -> Result<WaveWritten, MediaError> {
        let silence = vec![vec![0.0; 4096]; self.form.tracks.len()];
        while self.left > 0 {
            self.write(&silence)?;
        }
        let Self { made, aside, source, fed, form, stop, hashes, peaks, clipped, .. } = self;
        let picture = hashes_of(&fed.finish().map_err(|e| form.refused(&source, made.target(), e))?);
        let fail = |e: &io::Error| made.refused(e);
        made.file.sync_all().map_err(|e| fail(&e))?;
        let whole = Tool::ffmpeg(&aside)
            .args(["-threads", "1", "-i"])
            .file(&aside)
            .args(["-map", "0:V:0", "-map", "0:a?", "-c", "copy"])
            .args(HASHED)
            .output(1 << 16, &stop)?;
        let there = hashes_of(&whole);
        let written: Vec<String> = hashes.into_iter().map(hex).collect();
        let sound_is_right = there.get(1..=written.len()).is_some_and(|own| own == written);
        let picture_is_right = !there.is_empty() && there.first() == picture.first();
        // A stream that each container writes in its own way is the same if its pictures are.
        let same_pictures =
            || Ok::<_, MediaError>(pictures_of(&aside, &stop)? == pictures_of(&source, &stop)?);
        if !sound_is_right || !(picture_is_right || same_pictures()?) {
            return Err(fail(&io::Error::other("what is on the disk is not what was written")));
        }
        let (length, hash) = made.read_back()?;
        made.keep(replace)?;
        Ok(WaveWritten { bytes: length, hash, peaks, clipped })
    }
}

fn hex(hash: Sha256) -> String {
    hash.finalize().iter().map(|byte| format!("{byte:02x}")).collect()
}

/// The hashes of a file's streams as ffmpeg lists them, in order.
pub(crate) fn hashes_of(list: &[u8]) -> Vec<String> {
    let lines = String::from_utf8_lossy(list);
    lines.lines().filter_map(|line| Some(line.split_once('=')?.1.to_lowercase())).collect()
}

/// The hash of a file's decoded pictures.
fn pictures_of(path: &Path, stop: &Stop) -> Result<Vec<String>, MediaError> {
    let all = ["-map", "0:V:0", "-fps_mode", "passthrough"];
    Tool::ffmpeg(path)
        .args(["-i"])
        .file(path)
        .args(all)
        .args(HASHED)
        .output(1 << 16, stop)
        .map(|list| hashes_of(&list))
}

/// Whether the end of an MXF is there: the random index pack (SMPTE ST 377-1, 12), whose length is its last four bytes. All that a
/// MOV is known by is at its end anyway.
fn ends_as_it_should(path: &Path) -> io::Result<bool> {
    const KEY: [u8; 4] = [0x06, 0x0e, 0x2b, 0x34];
    if path.extension().is_none_or(|own| own != "mxf") {
        return Ok(true);
    }
    let file = open_file(path)?;
    let length = file.metadata()?.len();
    let mut last = [0; 4];
    file.read_exact_at(&mut last, length.saturating_sub(4))?;
    let at = length.checked_sub(u64::from(u32::from_be_bytes(last)));
    let mut key = [0; 4];
    file.read_exact_at(&mut key, at.unwrap_or(length))?;
    Ok(key == KEY)
}

/// What tells the content of a file written by [`PictureWriter`] or [`crate::FilmWriter`] from any other, where one is at `path`.
pub fn written_picture_uid(path: &Path, stop: &Stop) -> Option<String> {
    if !ends_as_it_should(path).unwrap_or(false) {
        return None;
    }
    let tags = ["-show_entries", "format_tags", "-of", "default=noprint_wrappers=1"];
    let said = Tool::ffprobe(path).args(tags).file(path).output(1 << 20, stop).ok()?;
    let said = String::from_utf8_lossy(&said);
    let uid = said
        .lines()
        .find_map(|line| line.split_once('=').filter(|(name, _)| name.to_lowercase().ends_with(UID)));
    uid.map(|(_, uid)| uid.trim().to_owned())
}
