//! Documents together with the media that they name, as one file.

use super::{day::DayTurnover, paper::Paper};
use metaxis_core::{
    clip::ClipId,
    turnover::{BUNDLE_VERSION, BUNDLE_VERSION_FILE, BUNDLED_DOCUMENT, BUNDLED_MEDIA, bundled},
};
use metaxis_media::{Fingerprint, MediaError, write_whole_by};
use std::{
    collections::HashMap,
    fs::File,
    io::{self, Cursor, Read, Write},
    path::{Path, PathBuf},
};
use zip::{
    CompressionMethod, ZipArchive, ZipWriter,
    write::{SimpleFileOptions, StreamWriter},
};

/// A document with its media.
pub struct Bundle {
    /// Its name, with its ending.
    pub name: String,
    document: Vec<u8>,
    media: Vec<Bundled>,
}

/// A file in a bundle.
struct Bundled {
    name: String,
    path: PathBuf,
    print: Fingerprint,
    bytes: u64,
}

impl Bundle {
    /// What a document of a day names, put together with it.
    ///
    /// # Errors
    /// In words: it names no media, or a file that is not there.
    pub fn of(day: &DayTurnover, paper: &Paper) -> Result<Self, String> {
        let mut document: serde_json::Value =
            serde_json::from_slice(&paper.bytes).map_err(|_| format!("{} names no media", paper.name))?;
        let all = bundled(&mut document, &day.sources);
        if all.is_empty() {
            return Err(format!("{} names no media", paper.name));
        }
        let files: HashMap<ClipId, (&PathBuf, &Fingerprint)> =
            day.sound.clips.iter().map(|own| (own.id, (&own.path, &own.fingerprint))).collect();
        let one = |(clip, name): (ClipId, String)| {
            let (path, print) = files.get(&clip).ok_or_else(|| format!("{name} is not there any more"))?;
            let bytes =
                path.metadata().map_err(|e| format!("{} cannot be read ({e})", path.display()))?.len();
            Ok(Bundled { name, path: (*path).clone(), print: (*print).clone(), bytes })
        };
        Ok(Self {
            name: format!("{}z", paper.name),
            media: all.into_iter().map(one).collect::<Result<_, String>>()?,
            document: serde_json::to_vec_pretty(&document).unwrap_or_default(),
        })
    }

    /// Nothing, where all that is in it is as it was when it was taken in: looked at before anything goes out.
    ///
    /// # Errors
    /// [`MediaError`] naming the file that is not.
    pub fn check(&self) -> Result<(), MediaError> {
        self.media.iter().try_for_each(|own| own.print.still_of(&own.path))
    }

    /// How many files of media are in it.
    pub fn files(&self) -> usize {
        self.media.len()
    }

    /// About how many bytes it has.
    pub fn bytes(&self) -> u64 {
        self.document.len() as u64 + self.media.iter().map(|own| own.bytes + 512).sum::<u64>()
    }

    /// Writes it from its beginning to its end; media goes in as it is, not packed.
    ///
    /// # Errors
    /// Those of reading a file, by its name, and of writing.
    pub fn write(&self, out: impl Write) -> io::Result<()> {
        let mut archive = ZipWriter::new_stream(out);
        let packed = SimpleFileOptions::default().compression_method(CompressionMethod::Deflated);
        archive.start_file(BUNDLE_VERSION_FILE, packed)?;
        archive.write_all(BUNDLE_VERSION.as_bytes())?;
        archive.start_file(BUNDLED_DOCUMENT, packed)?;
        archive.write_all(&self.document)?;
        for own in &self.media {
            self.write_media(own, &mut archive)?;
        }
        archive.finish()?.flush()
    }

    fn write_media<W: Write>(
        &self,
        own: &Bundled,
        archive: &mut ZipWriter<StreamWriter<W>>,
    ) -> io::Result<()> {
        let said = |e: io::Error| io::Error::new(e.kind(), format!("{}: {e}", own.path.display()));
        let whole = SimpleFileOptions::default()
            .compression_method(CompressionMethod::Stored)
            .large_file(own.bytes > u64::from(u32::MAX) - (1 << 20));
        archive.start_file(format!("{BUNDLED_MEDIA}/{}", own.name), whole)?;
        let copied = io::copy(&mut File::open(&own.path).map_err(said)?, archive)?;
        // What it became meanwhile is not what the document names.
        own.print.still_of(&own.path).map_err(io::Error::other)?;
        if copied != own.bytes {
            return Err(said(io::Error::other("it changed while it was read")));
        }
        Ok(())
    }

    /// Writes it to a file below `folder`: whole under its name, or not there.
    ///
    /// # Errors
    /// [`MediaError`] naming the file.
    pub fn save(&self, folder: &Path, replace: bool) -> Result<PathBuf, MediaError> {
        self.check()?;
        let target = folder.join(&self.name);
        write_whole_by(&target, replace, |out| self.write(io::BufWriter::with_capacity(1 << 20, out)))?;
        Ok(target)
    }
}

/// The document that is in a bundle; `None` of what is none.
///
/// # Errors
/// In words: there is no document in it, or none of at most `most` bytes.
pub fn unbundled(bytes: &[u8], most: u64) -> Option<Result<Vec<u8>, String>> {
    let mut archive = ZipArchive::new(Cursor::new(bytes)).ok()?;
    let mut read = || {
        let missing = |e| format!("it is an archive without a {BUNDLED_DOCUMENT} that can be read ({e})");
        let own = archive.by_name(BUNDLED_DOCUMENT).map_err(missing)?;
        let mut document = vec![];
        // What it says of its length is not relied on.
        own.take(most + 1).read_to_end(&mut document).map_err(|e| missing(e.into()))?;
        if document.len() as u64 > most {
            return Err(format!("the {BUNDLED_DOCUMENT} in it is larger than {} MB", most >> 20));
        }
        Ok(document)
    };
    Some(read())
}

/// Whether a document of OpenTimelineIO is asked for with its media, and which one that is.
pub fn bundle_of(which: &str) -> Option<&str> {
    which.strip_suffix('z').filter(|own| own.ends_with(".otio"))
}
