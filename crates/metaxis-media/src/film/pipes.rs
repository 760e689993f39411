//! Pipes that what is copied goes into a film through, cut out while the film is joined: it is on the disk once.

use super::{listed::Listed, spec::Copied, writer::FilmWriter};
use crate::{MediaError, Stop};
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

impl Pipes {
    /// One for each stretch of a film that is copied. They lie where any machine has room for pipes, which not every disk has.
    pub fn open(film: &FilmWriter) -> io::Result<Self> {
        let folder = tempfile::tempdir()?;
        let mut all = BTreeMap::new();
        for number in (0..film.pieces().len()).filter(|number| film.copied(*number).is_some()) {
            let path = folder.path().join(format!("{number}"));
            mkfifo(&path, Mode::S_IRUSR | Mode::S_IWUSR)?;
            all.insert(number, path);
        }
        Ok(Self { folder, all })
    }

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
