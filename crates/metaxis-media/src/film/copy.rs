//! Stretches of a film that are copied as they were recorded: no picture of them is coded again. Each is cut out of its file while the
//! film is joined, and goes into it through a pipe: it is on the disk once.

use super::{
    coded::{in_every_frame, in_stream},
    keys::Packets,
    listed::{Listed, MOST, are_all_from, listed, listing, numbers},
    spec::Copied,
    writer::FilmWriter,
};
use crate::{MediaError, Stop, Tool};
use metaxis_core::time::FrameRate;
use nix::{sys::stat::Mode, unistd::mkfifo};
use std::{
    collections::{BTreeMap, BTreeSet},
    io,
    panic::resume_unwind,
    path::{Path, PathBuf},
    sync::{
        atomic::{AtomicUsize, Ordering},
        mpsc,
    },
    thread,
};
use tempfile::TempDir;

/// So many are begun at a time: the next one waits where the film comes to it.
const AT_ONCE: usize = 2;
/// Longest part of a stretch that is held in memory on its way, microseconds.
const PART_US: &str = "500000";

/// Where stretches that are copied come into the film: by the numbers of their pieces, and in their order.
pub(super) struct Pipes {
    folder: TempDir,
    all: BTreeMap<usize, PathBuf>,
}

/// What became of the stretches of a film.
#[derive(Default)]
pub(super) struct Cut {
    /// The pictures of those that are whole, by their pieces,
    pub whole: BTreeMap<usize, Vec<Listed>>,
    /// and those that are not what they are to be.
    pub broken: BTreeSet<usize>,
}

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

    /// Opens pipes for all that is copied.
    pub(super) fn pipes(&self) -> io::Result<Pipes> {
        let folder = tempfile::tempdir()?;
        let mut all = BTreeMap::new();
        for number in (0..self.pieces().len()).filter(|number| self.copied(*number).is_some()) {
            let path = folder.path().join(format!("{number}"));
            mkfifo(&path, Mode::S_IRUSR | Mode::S_IWUSR)?;
            all.insert(number, path);
        }
        Ok(Pipes { folder, all })
    }

    /// Cuts out a stretch into a pipe; its pictures as they were in its file, in their order.
    fn cut(&self, own: &Copied, into: &Path, stop: &Stop) -> Result<Vec<Listed>, MediaError> {
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
    fn is_all(&self, pictures: &[Listed]) -> bool {
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

impl Pipes {
    /// The folder that they are in.
    pub fn folder(&self) -> &Path {
        self.folder.path()
    }

    /// The pipe that a piece comes through.
    pub fn of(&self, number: usize) -> Option<&Path> {
        self.all.get(&number).map(PathBuf::as_path)
    }

    /// Has `join` join the film while all that it comes to is cut out for it; `progress` is told how many frames that were. Where one
    /// cannot be cut out, `join` is stopped.
    pub fn run(
        &self,
        film: &FilmWriter,
        progress: &dyn Fn(i64),
        join: impl FnOnce(&Stop) -> Result<(), MediaError> + Send,
    ) -> (Cut, Result<(), MediaError>) {
        let stop = film.stop.part();
        let waiting: Vec<(usize, &Path, &Copied)> = self
            .all
            .iter()
            .filter_map(|(number, path)| Some((*number, path.as_path(), film.copied(*number)?)))
            .collect();
        let next = AtomicUsize::new(0);
        let (told, tells) = mpsc::channel();
        let mut all = Cut::default();
        let joined = thread::scope(|scope| {
            for _ in 0..AT_ONCE {
                let (told, stop, waiting, next) = (told.clone(), &stop, &waiting, &next);
                scope.spawn(move || {
                    while let Some((number, path, own)) = waiting.get(next.fetch_add(1, Ordering::Relaxed)) {
                        if stop.is_stopped() || told.send((*number, film.cut(own, path, stop))).is_err() {
                            return;
                        }
                    }
                });
            }
            drop(told);
            let joining = scope.spawn(|| {
                let joined = join(&stop);
                if joined.is_err() {
                    // Nobody reads what is cut out any more.
                    stop.stop();
                }
                joined
            });
            for (number, cut) in tells {
                let own = film.copied(number);
                match (cut, own) {
                    (Ok(pictures), Some(own)) if own.is_all(&pictures) => {
                        progress(own.frames);
                        all.whole.insert(number, pictures);
                    }
                    (Err(MediaError::Stopped), _) => {}
                    _ => {
                        all.broken.insert(number);
                        stop.stop();
                    }
                }
            }
            joining.join().unwrap_or_else(|panic| resume_unwind(panic))
        });
        (all, joined)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use metaxis_core::clip::{ColourFacts, PictureFacts};

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
