//! A film, coded piece by piece: what was made stays, whatever ends the program, until the whole has its name.

use super::{
    code,
    coded::Coded,
    pixels::Pixels,
    proof::Print,
    spec::{Copied, FilmSpec, SoundTrack},
};
use crate::{
    MediaError, Stop, Tool,
    made::{Made, by_disk, write_whole},
    tool::Fed,
};
use metaxis_core::{film::FilmForm, time::Tick};
use serde::{Deserialize, Serialize};
use std::{
    fs::{self, File},
    io,
    path::{Path, PathBuf},
};

/// What the folders of pieces end with.
const PIECES: &str = ".pieces";

/// So many frames before the end of a piece one stands by itself.
const TAIL: i64 = 6;

/// A film that is being written, in a folder beside its place.
pub struct FilmWriter {
    pub(super) spec: FilmSpec,
    pub(super) target: PathBuf,
    pub(super) replace: bool,
    pub(super) folder: PathBuf,
    pub(super) copied: Vec<Copied>,
    pieces: Vec<(i64, i64)>,
    pub(super) stop: Stop,
}

/// What is known of a piece.
#[derive(Serialize, Deserialize)]
pub(super) struct Known {
    /// Its ends and its middle.
    pub prints: Vec<Print>,
    /// What is to be said of it.
    pub remarks: Vec<String>,
}

/// A piece under way.
pub struct PieceWriter<'a> {
    film: &'a FilmWriter,
    number: usize,
    fed: Fed,
    span: (i64, i64),
    written: i64,
    prints: Vec<Print>,
}

impl FilmWriter {
    /// Begins a film at `target`, or goes on with one that was begun there with the same `uid`.
    ///
    /// # Errors
    /// [`MediaError::Write`]; [`MediaError::Taken`] where the name is taken and not to be replaced.
    pub fn begin(target: &Path, spec: FilmSpec, replace: bool, stop: &Stop) -> Result<Self, MediaError> {
        let target = &std::path::absolute(target).map_err(|e| refused(target, &e))?;
        // Says now what cannot be.
        drop(Made::begin(target, replace)?);
        let folder = parts_of(target, &spec.uid);
        // What was begun of it when it was another is of no use any more.
        for old in all_parts(target).iter().filter(|own| **own != folder) {
            let _ = fs::remove_dir_all(old);
        }
        fs::create_dir_all(&folder).map_err(|e| refused(target, &e))?;
        let pieces = pieces(&spec, &[]);
        let (target, stop) = (target.to_owned(), stop.clone());
        Ok(Self { spec, target, replace, folder, copied: vec![], pieces, stop })
    }

    /// Takes away what was begun of a film that nobody wants any more.
    pub fn forget(target: &Path) {
        for own in all_parts(target) {
            let _ = fs::remove_dir_all(own);
        }
    }

    /// Tells what is in it from everything else.
    pub fn uid(&self) -> &str {
        &self.spec.uid
    }

    /// The folder that its pieces are in until it is whole; what belongs to it may lie there too.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// Gives it its sound: a WAV, and which of its channels are tracks together.
    pub fn with_sound(&mut self, wave: PathBuf, tracks: Vec<SoundTrack>) {
        self.spec.sound = Some((wave, tracks));
    }

    /// What is coded gets the profile of that name, of which `Coded::profile` says what there is.
    pub fn with_profile(&mut self, profile: Option<&'static str>) {
        self.spec.profile = profile;
    }

    /// Stretches of it, in order, are copied and not coded.
    pub fn with_copied(&mut self, copied: Vec<Copied>) {
        self.pieces = pieces(&self.spec, &copied);
        self.copied = copied;
    }

    /// Its pieces: from and up to which frame.
    pub fn pieces(&self) -> &[(i64, i64)] {
        &self.pieces
    }

    /// Whether a piece was made before, whole.
    pub fn is_there(&self, number: usize) -> bool {
        self.piece(number).is_file() && self.known(number).is_some()
    }

    /// What was to be said of its pieces, in their order, whoever made them.
    pub fn remarks(&self) -> Vec<String> {
        (0..self.pieces().len()).filter_map(|number| self.known(number)).flat_map(|own| own.remarks).collect()
    }

    pub(super) fn piece(&self, number: usize) -> PathBuf {
        self.folder.join(format!("{number:04}.{}", code::piece_wrapper(self.spec.form.codec)))
    }

    fn known_path(&self, number: usize) -> PathBuf {
        self.folder.join(format!("{number:04}.json"))
    }

    /// What is known of a piece that was made.
    pub(super) fn known(&self, number: usize) -> Option<Known> {
        serde_json::from_slice(&fs::read(self.known_path(number)).ok()?).ok()
    }

    /// How its pixels lie.
    pub fn pixels(&self) -> Pixels {
        Pixels::for_film(&self.spec.form, self.spec.size)
    }

    /// Begins a piece.
    ///
    /// # Errors
    /// [`MediaError::Tool`] where there is no ffmpeg.
    pub fn piece_writer(&self, number: usize) -> Result<PieceWriter<'_>, MediaError> {
        let span = self.pieces.get(number).copied().unwrap_or_default();
        let (from, to) = span;
        // What is looked at afterwards needs few frames before it.
        let alone = [middle(span), (to - TAIL).max(from)].map(|own| own - from);
        let fed = self.coder(&self.under_way(number), &alone)?;
        Ok(PieceWriter { film: self, number, fed, span, written: 0, prints: vec![] })
    }

    /// What codes frames into a file, of which those of the numbers `alone` stand by themselves.
    fn coder(&self, path: &Path, alone: &[i64]) -> Result<Fed, MediaError> {
        let (pixels, rate) = (self.pixels(), self.spec.rate);
        let moment = |frame: &i64| format!("{:.6}", Tick::of_frame(*frame, rate).seconds());
        let alone: Vec<String> = alone.iter().map(moment).collect();
        Tool::maker(&self.folder)
            .args(["-f", "rawvideo", "-pix_fmt", pixels.name()])
            .args(["-s", &format!("{}x{}", pixels.width, pixels.height)])
            .args(["-r", &format!("{}/{}", rate.num(), rate.den()), "-i", "pipe:0", "-map", "0:v:0", "-an"])
            .args(code::arguments(&self.spec))
            .args(["-force_key_frames", &alone.join(",")])
            .args(self.as_piece())
            .into_file(path)
            .feed(1 << 16, &self.stop)
    }

    /// How the pieces are held: all with one clock, or they could not be joined.
    pub(super) fn as_piece(&self) -> Vec<String> {
        let clock = self.spec.rate.num().to_string();
        let held = ["-video_track_timescale", &clock, "-f", code::piece_wrapper(self.spec.form.codec)];
        ["-fflags", "+bitexact"].into_iter().chain(held).map(str::to_owned).collect()
    }

    /// How what is coded comes out.
    ///
    /// # Errors
    /// [`MediaError::Write`].
    pub fn coded(&self) -> Result<Coded, MediaError> {
        let path = self.folder.join("sample");
        let mut fed = self.coder(&path, &[0])?;
        let black = vec![0; self.pixels().bytes()];
        fed.write(&black).and_then(|()| fed.finish().map(|_| ())).map_err(|e| self.refused(e))?;
        Coded::of(&path, &self.stop)
    }

    fn under_way(&self, number: usize) -> PathBuf {
        self.folder.join(format!("{number:04}.part"))
    }

    /// Gives a piece its name, on the disk.
    fn keep_piece(&self, number: usize, known: &Known) -> Result<(), MediaError> {
        let (aside, own) = (self.under_way(number), self.piece(number));
        let on_disk = || File::open(&aside)?.sync_all();
        on_disk().map_err(|e| refused(&self.target, &e))?;
        write_whole(&self.known_path(number), &serde_json::to_vec(known).unwrap_or_default(), true)?;
        fs::rename(&aside, &own).map_err(|e| refused(&self.target, &e))
    }

    /// How many frames a file has.
    fn count(&self, path: &Path) -> Result<i64, MediaError> {
        let said = Tool::ffprobe(path)
            .args(["-select_streams", "V:0", "-count_packets", "-show_entries", "stream=nb_read_packets"])
            .args(["-of", "csv=print_section=0"])
            .file(path)
            .output(1 << 12, &self.stop)?;
        Ok(String::from_utf8_lossy(&said).trim().trim_end_matches(',').parse().unwrap_or(0))
    }

    /// What could not be written, in words of use.
    pub(super) fn refused(&self, e: MediaError) -> MediaError {
        let MediaError::Tool { detail, .. } = e else { return e };
        let detail = by_disk(&detail).unwrap_or_else(|| {
            let FilmForm { codec, wrapper, .. } = self.spec.form;
            let ((width, height), rate) = (self.spec.size, self.spec.rate.as_f64());
            format!(
                "{} of {width} × {height} at {rate:.3} frames a second does not go into {}: {detail}; choose another codec",
                codec.name(),
                wrapper.word()
            )
        });
        MediaError::Write { path: self.target.clone(), detail }
    }
}

impl PieceWriter<'_> {
    /// Codes the next frame.
    ///
    /// # Errors
    /// [`MediaError::Write`], [`MediaError::Stopped`].
    pub fn write(&mut self, frame: &[u8]) -> Result<(), MediaError> {
        let (from, to) = self.span;
        let own = from + self.written;
        if [from, middle(self.span), to - 1].contains(&own) {
            self.prints.push(Print::of(own, self.film.pixels(), frame));
        }
        self.written += 1;
        self.fed.write(frame).map_err(|e| self.film.refused(e))
    }

    /// Ends the piece, of which `remarks` is to be said: it has its name only if it has as many frames as it is to have.
    ///
    /// # Errors
    /// As [`PieceWriter::write`].
    pub fn finish(self, remarks: Vec<String>) -> Result<(), MediaError> {
        let Self { film, number, fed, written, prints, .. } = self;
        fed.finish().map_err(|e| film.refused(e))?;
        let there = film.count(&film.under_way(number))?;
        if there != written {
            let detail = format!("{written} frames were coded and {there} are there; try again");
            return Err(MediaError::Write { path: film.target.clone(), detail });
        }
        film.keep_piece(number, &Known { prints, remarks })
    }
}

/// The frame in the middle.
fn middle((from, to): (i64, i64)) -> i64 {
    (from + to) / 2
}

/// From and up to which frame the pieces of a film are: each that is copied, and between them what is coded.
fn pieces(spec: &FilmSpec, copied: &[Copied]) -> Vec<(i64, i64)> {
    let length = ((spec.piece_s * spec.rate.as_f64()).round() as i64).max(1);
    let all = spec.frames.max(1);
    let mut pieces = vec![];
    let mut done = 0;
    for (from, to) in copied.iter().map(|own| (own.from, own.from + own.frames)).chain([(all, all)]) {
        pieces.extend((done..from).step_by(length as usize).map(|at| (at, (at + length).min(from))));
        pieces.extend((from < to).then_some((from, to)));
        done = to;
    }
    pieces
}

/// What the folders of pieces of a film begin with.
fn parts_begin(target: &Path) -> String {
    let name = target.file_name().unwrap_or_default().to_string_lossy();
    // A name has 255 bytes at most; two that begin alike are two.
    let stem: String = name.chars().take(40).collect();
    format!(".{stem}.{}.", &blake3::hash(name.as_bytes()).to_hex()[..8])
}

/// Where the pieces of a film are until it is whole.
fn parts_of(target: &Path, uid: &str) -> PathBuf {
    let short: String = uid.chars().take(12).collect();
    target.with_file_name(format!("{}{short}{PIECES}", parts_begin(target)))
}

/// The folders with pieces for that name.
fn all_parts(target: &Path) -> Vec<PathBuf> {
    let begin = parts_begin(target);
    let Some(entries) = target.parent().and_then(|folder| fs::read_dir(folder).ok()) else { return vec![] };
    let is_its = |own: &PathBuf| {
        let name = own.file_name().unwrap_or_default().to_string_lossy();
        name.starts_with(&begin) && name.ends_with(PIECES)
    };
    entries.flatten().map(|own| own.path()).filter(is_its).collect()
}

pub(super) fn refused(target: &Path, e: &io::Error) -> MediaError {
    MediaError::Write { path: target.to_owned(), detail: format!("{e}; check the disk, then go on") }
}
