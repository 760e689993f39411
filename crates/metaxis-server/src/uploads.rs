//! What is sent from the page, on its way to the disk. An upload is bound to its content: where the same name comes with
//! other content, or two send at once, nothing is mixed.

use serde::{Deserialize, Serialize};
use std::{
    collections::HashMap,
    fs::{self, File, OpenOptions},
    io::{self, Seek, SeekFrom, Write},
    path::{Component, Path, PathBuf},
    sync::{Mutex, PoisonError},
    time::Duration,
};
use ts_rs::TS;

/// Which file, what is in it, and where this piece belongs.
#[derive(Debug, Deserialize)]
pub struct Piece {
    /// Path below the uploads, forward slashes: the folders of what was dropped.
    path: String,
    /// Bytes of the whole file.
    size: u64,
    /// BLAKE3 of the whole file, in hexadecimal.
    blake3: String,
    /// Where the piece begins.
    #[serde(default)]
    offset: u64,
}

/// How much of a file has arrived.
#[derive(Debug, Serialize, TS)]
pub struct Arrived {
    /// Bytes.
    #[ts(type = "number")]
    have: u64,
    /// All of it is here.
    complete: bool,
}

/// Longest path taken, and longest name in it, bytes: as long as file systems take.
const LONGEST: (usize, usize) = (900, 255);

/// The folder of uploads, and what is on its way there.
#[derive(Debug)]
pub struct Uploads {
    folder: PathBuf,
    /// Bytes that all of them may have.
    limit: u64,
    /// Files that somebody is sending, and the bytes that are promised of each.
    sending: Mutex<HashMap<PathBuf, u64>>,
}

/// Where a file goes.
struct Place {
    part: PathBuf,
    whole: PathBuf,
}

/// The one sender of a file; others may once it is gone.
struct Sender<'a> {
    uploads: &'a Uploads,
    part: PathBuf,
}

impl Drop for Sender<'_> {
    fn drop(&mut self) {
        self.uploads.sending.lock().unwrap_or_else(PoisonError::into_inner).remove(&self.part);
    }
}

impl Uploads {
    /// Uploads to `folder`, which is made where it is not there.
    ///
    /// # Errors
    /// Errors of the file system.
    pub fn open(folder: PathBuf, limit: u64) -> io::Result<Self> {
        fs::create_dir_all(&folder)?;
        sweep(&folder);
        Ok(Self { folder, limit, sending: Mutex::default() })
    }

    /// The folder.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// How much of a file is here: where to go on after a break.
    ///
    /// # Errors
    /// A sentence for the person who sends.
    pub fn state(&self, piece: &Piece) -> Result<Arrived, String> {
        arrived(&self.place(piece)?, piece)
    }

    /// Takes a piece, which must begin where the last one ended, from the blocks that come; what came before they end is
    /// kept. The last one makes the file whole: its content is compared with what was announced, and it is on the disk
    /// before it is said to be here.
    ///
    /// # Errors
    /// A sentence for the person who sends.
    pub fn take<B: AsRef<[u8]>>(
        &self,
        piece: &Piece,
        blocks: impl Iterator<Item = B>,
    ) -> Result<Arrived, String> {
        let refuse = |why: &str| format!("{}: {why}", piece.path);
        let failed =
            |e: io::Error| refuse(&format!("cannot be written ({e}); free some space and try again"));
        let place = self.place(piece)?;
        let sender = self.only_sender(piece, &place)?;
        let here = arrived(&place, piece)?;
        if here.complete {
            return Err(refuse("it is here already"));
        }
        if here.have != piece.offset {
            return Err(refuse(&format!("go on at byte {}", here.have)));
        }
        let folder = place.part.parent().unwrap_or(&self.folder);
        fs::create_dir_all(folder).map_err(failed)?;
        let mut file =
            OpenOptions::new().create(true).write(true).truncate(false).open(&place.part).map_err(failed)?;
        file.seek(SeekFrom::Start(piece.offset)).map_err(failed)?;
        let mut have = piece.offset;
        for block in blocks {
            let block = block.as_ref();
            if have + block.len() as u64 > piece.size {
                return Err(refuse("more bytes came than the file has"));
            }
            file.write_all(block).map_err(failed)?;
            have += block.len() as u64;
        }
        if have == piece.size {
            file.sync_all().map_err(failed)?;
            if content(&place.part).map_err(failed)? != piece.blake3 {
                // Sent again from the beginning: which part of it is wrong nobody knows.
                fs::remove_file(&place.part).map_err(failed)?;
                return Err(refuse("it arrived other than it was sent; send it again"));
            }
            self.name_whole(&place).map_err(|e| match e.kind() {
                io::ErrorKind::AlreadyExists => refuse(ANOTHER),
                _ => failed(e),
            })?;
            // The name is on the disk, too, and those of new folders.
            for folder in folder.ancestors().take_while(|above| above.starts_with(&self.folder)) {
                File::open(folder).and_then(|folder| folder.sync_all()).map_err(failed)?;
            }
        }
        drop(sender);
        Ok(Arrived { have, complete: have == piece.size })
    }

    /// Gives what has arrived its name, unless something else has it.
    fn name_whole(&self, place: &Place) -> io::Result<()> {
        let _one_at_a_time = self.sending.lock().unwrap_or_else(PoisonError::into_inner);
        if place.whole.exists() {
            return Err(io::ErrorKind::AlreadyExists.into());
        }
        fs::rename(&place.part, &place.whole)
    }

    /// Registers who sends a file, where nobody does and there is room for it.
    fn only_sender(&self, piece: &Piece, place: &Place) -> Result<Sender<'_>, String> {
        let mut sending = self.sending.lock().unwrap_or_else(PoisonError::into_inner);
        if sending.contains_key(&place.part) {
            return Err(format!("{}: it is being sent from elsewhere; wait until that ends", piece.path));
        }
        // What is being sent counts as if it was here.
        let (mut here, mut promised) = (taken(&self.folder), sending.values().sum::<u64>());
        for part in sending.keys().chain([&place.part]) {
            here = here.saturating_sub(length(part));
        }
        promised = promised.saturating_add(piece.size);
        if here.saturating_add(promised) > self.limit {
            return Err(format!(
                "{}: uploads are limited to {:.1} GB in all; copy large sets to a media folder and take that in",
                piece.path,
                self.limit as f64 / 1e9
            ));
        }
        sending.insert(place.part.clone(), piece.size);
        Ok(Sender { uploads: self, part: place.part.clone() })
    }

    /// Where a file goes. Only plain names: nothing can leave the folder.
    fn place(&self, piece: &Piece) -> Result<Place, String> {
        let refuse = |why: &str| Err(format!("{}: {why}", piece.path));
        let relative = Path::new(&piece.path);
        let plain = relative.components().all(|part| match part {
            Component::Normal(name) => !name.to_string_lossy().starts_with('.') && name.len() <= LONGEST.1,
            _ => false,
        });
        if !plain
            || piece.path.is_empty()
            || piece.path.len() > LONGEST.0
            || piece.path.chars().any(char::is_control)
        {
            let shown: String = piece.path.chars().take(200).collect();
            return Err(format!("{shown}: this is no name that can be uploaded; rename the file"));
        }
        if piece.size == 0 {
            return refuse("the file is empty (0 bytes); copy it from the card again");
        }
        if piece.blake3.len() != 64
            || !piece.blake3.bytes().all(|b| b.is_ascii_digit() || (b'a'..=b'f').contains(&b))
        {
            return refuse("`blake3` must be the BLAKE3 of its content, 64 hexadecimal digits");
        }
        let whole = self.folder.join(relative);
        let Some(folder) = whole.parent() else { return refuse("this is no name of a file") };
        // Hidden, so that no intake takes half a file in; and by its content, so that no other one goes on in it.
        Ok(Place { part: folder.join(format!(".{}.part", piece.blake3)), whole })
    }
}

const ANOTHER: &str = "another file of this name was uploaded before; rename one of them";

fn length(path: &Path) -> u64 {
    fs::metadata(path).map_or(0, |data| data.len())
}

fn content(path: &Path) -> io::Result<String> {
    let mut hash = blake3::Hasher::new();
    hash.update_reader(File::open(path)?)?;
    Ok(hash.finalize().to_hex().to_string())
}

fn arrived(place: &Place, piece: &Piece) -> Result<Arrived, String> {
    if place.whole.exists() {
        let same = length(&place.whole) == piece.size
            && content(&place.whole).is_ok_and(|content| content == piece.blake3);
        if !same {
            return Err(format!("{}: {ANOTHER}", piece.path));
        }
        return Ok(Arrived { have: piece.size, complete: true });
    }
    Ok(Arrived { have: length(&place.part), complete: false })
}

/// How long what broke off is kept to go on with.
const KEPT: Duration = Duration::from_secs(7 * 24 * 3600);

/// Removes what broke off long ago.
fn sweep(folder: &Path) {
    for entry in walkdir::WalkDir::new(folder).into_iter().flatten() {
        let name = entry.file_name().to_string_lossy();
        let age = entry.metadata().ok().and_then(|data| data.modified().ok()?.elapsed().ok());
        if name.starts_with('.') && name.ends_with(".part") && age.is_some_and(|age| age > KEPT) {
            // Where it cannot be removed, it counts towards the limit until it can.
            let _ = fs::remove_file(entry.path());
        }
    }
}

/// Bytes of all uploads.
fn taken(folder: &Path) -> u64 {
    let files = walkdir::WalkDir::new(folder).into_iter().flatten();
    files.filter_map(|entry| entry.metadata().ok().filter(fs::Metadata::is_file)).map(|data| data.len()).sum()
}
