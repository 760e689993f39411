//! The pieces of a film, joined without coding them again, with its sound.

use super::{
    code,
    coded::in_stream,
    pipes::Pipes,
    spec::{FilmWritten, SoundTrack},
    writer::{FilmWriter, refused},
};
use crate::{
    MediaError, Tool,
    made::{Made, by_disk},
    picture_out::UID,
    tracks::{named, picked, tracks_graph},
};
use metaxis_core::film::{Codec, Wrapper};
use std::{collections::BTreeSet, fs, io, ops::Range, path::Path};

/// What became of the pieces of a film.
#[derive(Debug)]
pub enum Joined {
    /// It is whole, and has its name.
    Whole(FilmWritten),
    /// These pieces cannot be copied as they were to be: they have to be coded, then it can be joined again.
    NotCopied(BTreeSet<usize>),
}

impl FilmWriter {
    /// Joins the pieces, those that are copied among them, with the sound, and gives the film its name if what is in it is what was
    /// made: every frame in its place, those that are copied the recorded ones to the last bit, some of all looked at, its sound
    /// compared to the last bit, or heard in its place where it is coded. `progress` is told how many frames were copied;
    /// `unchanged` is asked before the film has its name.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Taken`], [`MediaError::Stopped`]; what `unchanged` says.
    pub fn join(
        &self,
        progress: &dyn Fn(i64),
        unchanged: &dyn Fn() -> Result<(), MediaError>,
    ) -> Result<Joined, MediaError> {
        let made = Made::begin(&self.target, self.replace)?;
        let apart = if self.spec.form.wrapper == Wrapper::Atom { self.sounds_apart()? } else { vec![] };
        let failed = |e: io::Error| refused(&self.target, &e);
        let pipes = Pipes::open(self).map_err(failed)?;
        let list = self.folder.join("pieces.txt");
        fs::write(&list, self.list(&pipes)).map_err(failed)?;
        let (cut, joined) = pipes.run(self, progress, |stop| {
            self.joining(&list, &pipes, made.aside()).output(1 << 12, stop).map(|_| ())
        });
        if self.stop.is_stopped() {
            return Err(MediaError::Stopped);
        }
        // Where the film could not be written, what was cut out for it could not be either.
        let by_disk = matches!(&joined, Err(MediaError::Tool { detail, .. }) if by_disk(detail).is_some());
        if !cut.broken.is_empty() && !by_disk {
            return Ok(Joined::NotCopied(self.of_the_same_files(&cut.broken)));
        }
        joined.map_err(|e| self.refused(e))?;
        let mut written = match self.look(&made, &cut.whole)? {
            Joined::Whole(own) => own,
            apart @ Joined::NotCopied(_) => return Ok(apart),
        };
        unchanged()?;
        // The pictures last: where they have their name, all of it is there.
        for own in apart {
            written.bytes += own.file.metadata().map_or(0, |own| own.len());
            own.keep(self.replace)?;
        }
        made.keep(self.replace)?;
        let _ = fs::remove_dir_all(&self.folder);
        Ok(Joined::Whole(written))
    }

    /// All pieces that are copied out of the same files as these: a file that is not what it was is not asked again and again.
    pub(super) fn of_the_same_files(&self, broken: &BTreeSet<usize>) -> BTreeSet<usize> {
        let path = |number: usize| self.copied(number).map(|own| &own.path);
        let files: BTreeSet<_> = broken.iter().filter_map(|number| path(*number)).collect();
        let all =
            (0..self.pieces().len()).filter(|number| path(*number).is_some_and(|own| files.contains(own)));
        all.collect()
    }

    /// The pieces in their order, as ffmpeg reads such a list.
    fn list(&self, pipes: &Pipes) -> String {
        let one = |(number, (from, to)): (usize, &(i64, i64))| {
            let made = self.piece(number);
            // What was made has no folder in its name: the list lies beside it.
            let path = pipes.of(number).or_else(|| made.file_name().map(Path::new)).unwrap_or(&made);
            let quoted = path.to_string_lossy().replace('\'', "'\\''");
            let length_s = (to - from) as f64 / self.spec.rate.as_f64();
            format!("file '{quoted}'\nduration {length_s:.9}\n")
        };
        let all = self.pieces().iter().enumerate().map(one);
        std::iter::once("ffconcat version 1.0\n".to_owned()).chain(all).collect()
    }

    fn joining(&self, list: &Path, pipes: &Pipes, aside: &Path) -> Tool {
        let spec = &self.spec;
        let wrapper = spec.form.wrapper;
        let mut tool = Tool::maker(&self.folder)
            .beside(pipes.folder())
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
}

pub(super) fn channels_of(tracks: &[SoundTrack]) -> Vec<Range<usize>> {
    tracks.iter().map(|own| own.channels.clone()).collect()
}
