//! Making a film: its sound, its pictures piece by piece, and the whole.

use super::{
    copies::{copy_what_can_be, share},
    plan::FilmPlan,
    reel::Reel,
};
use crate::sound::only_read;
use metaxis_core::film::Showing;
use metaxis_media::{FilmSpec, FilmWriter, FilmWritten, Joined, MediaError, Stop, written_picture_uid};
use std::{
    cell::Cell,
    collections::{BTreeSet, HashMap},
    fs, io,
    panic::resume_unwind,
    path::{Path, PathBuf},
    sync::atomic::{AtomicBool, Ordering},
    thread,
};

/// Longest piece of a film, seconds: so much is made anew where it was broken off.
const PIECE_S: f64 = 60.0;

/// A film that was made.
#[derive(Debug, Clone)]
pub struct FilmMade {
    /// Its length and its hash; `None` where the very same was there.
    pub written: Option<FilmWritten>,
    /// What is to be known of it: pictures that were not in their files, sound that could not be read.
    pub remarks: Vec<String>,
}

/// Makes a film below `folder`; what was made of it before it was stopped, or the program ended, is taken over. `progress` is told
/// how many frames are done.
///
/// # Errors
/// [`MediaError`] naming the file.
pub fn make(
    plan: &FilmPlan,
    folder: &Path,
    replace: bool,
    stop: &Stop,
    progress: &dyn Fn(i64),
) -> Result<FilmMade, MediaError> {
    let target = folder.join(plan.path());
    only_read(&target, &plan.sources)?;
    for (path, print) in plan.files.values() {
        print.still_of(path)?;
    }
    let (film, uid) = (&plan.film, plan.uid());
    if !replace && target.is_file() && written_picture_uid(&target, stop).as_ref() == Some(&uid) {
        return Ok(FilmMade { written: None, remarks: vec![] });
    }
    let spec = FilmSpec {
        form: plan.form,
        size: plan.size(),
        rate: film.rate,
        frames: film.frames,
        timecode: film.start.map(|own| own.to_string()),
        notes: plan.notes.clone(),
        sound: None,
        uid,
        piece_s: PIECE_S,
        profile: None,
    };
    let mut writer = FilmWriter::begin(&target, spec, replace, stop)?;
    let wave = writer.folder().join("sound.wav");
    if let Some(sound) = &plan.sound {
        writer.with_sound(wave.clone(), sound.film_tracks());
    }
    let silent = AtomicBool::new(false);
    let (pictured, sounded) = thread::scope(|scope| {
        // Its sound is made while its pictures are: what takes longest has to wait for nothing.
        let sound = plan.sound.as_ref().map(|sound| {
            scope.spawn(|| sound.write(&wave, stop).inspect_err(|_| silent.store(true, Ordering::Relaxed)))
        });
        // Where it cannot be made, nobody waits for the pictures; those that are made are kept.
        let is_over = || stop.is_stopped() || silent.load(Ordering::Relaxed);
        let pictured = make_pictures(plan, &mut writer, stop, &is_over, progress);
        (pictured, sound.map(|own| own.join().unwrap_or_else(|panic| resume_unwind(panic))))
    });
    let mut remarks = sounded.transpose()?.unwrap_or_default();
    let (luts, said) = pictured?;
    // What a source became meanwhile is not what was looked at.
    let unchanged = || plan.files.values().try_for_each(|(path, print)| print.still_of(path));
    loop {
        let of_pieces = writer.remarks();
        let coded = frames_of(&writer, |number| writer.copied(number).is_none());
        let copied = Cell::new(0);
        let count = |frames| {
            copied.set(copied.get() + frames);
            progress(coded + copied.get());
        };
        match writer.join(&count, &unchanged)? {
            Joined::Whole(written) => {
                // What was to be copied and could not be is none of it.
                remarks.extend(share(film.frames - coded, film.frames));
                remarks.extend(said.into_iter().chain(of_pieces));
                return Ok(FilmMade { written: Some(written), remarks });
            }
            Joined::NotCopied(pieces) => {
                code_pieces(plan, &writer, &luts, &pieces, stop, &|| stop.is_stopped(), progress)?;
            }
        }
    }
}

/// How many frames are in pieces that are `wanted`.
fn frames_of(writer: &FilmWriter, wanted: impl Fn(usize) -> bool) -> i64 {
    let all = writer.pieces().iter().enumerate();
    all.filter(|(number, _)| wanted(*number)).map(|(_, (from, to))| to - from).sum()
}

/// Makes the pieces of a film that are not there yet and are not copied, unless it is over before; where its LUTs are, and what is to be
/// known of all of them.
fn make_pictures(
    plan: &FilmPlan,
    writer: &mut FilmWriter,
    stop: &Stop,
    is_over: &dyn Fn() -> bool,
    progress: &dyn Fn(i64),
) -> Result<(HashMap<Showing, PathBuf>, Vec<String>), MediaError> {
    let luts = written_luts(plan, writer.folder()).map_err(|e| MediaError::Write {
        path: writer.folder().to_owned(),
        detail: format!("its viewing LUTs cannot be kept there: {e}; check the disk, then go on"),
    })?;
    let remarks = copy_what_can_be(plan, writer, stop)?;
    code_pieces(plan, writer, &luts, &BTreeSet::new(), stop, is_over, progress)?;
    Ok((luts, remarks))
}

/// Codes the pieces of a film that are not there yet: those that are not copied, and those of `instead`, which cannot be.
fn code_pieces(
    plan: &FilmPlan,
    writer: &FilmWriter,
    luts: &HashMap<Showing, PathBuf>,
    instead: &BTreeSet<usize>,
    stop: &Stop,
    is_over: &dyn Fn() -> bool,
    progress: &dyn Fn(i64),
) -> Result<(), MediaError> {
    let mut reel = Reel::new(plan, luts, writer.pixels(), stop);
    let mut done = frames_of(writer, |number| writer.is_there(number));
    progress(done);
    for (number, (from, to)) in writer.pieces().iter().copied().enumerate() {
        let not_copied = instead.contains(&number);
        if writer.is_there(number) || (writer.copied(number).is_some() && !not_copied) {
            continue;
        }
        let mut piece = writer.piece_writer(number)?;
        for frame in from..to {
            if is_over() {
                return Err(MediaError::Stopped);
            }
            reel.frame(frame, &mut |bytes| piece.write(bytes))?;
            done += 1;
            progress(done);
        }
        let lost = reel.take_lost().into_iter().map(|(path, count)| {
            let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            format!(
                "{name}: {count} pictures that should be there are not in the file; the one before stands"
            )
        });
        let said =
            not_copied.then(|| format!("frames {from} to {to} could not be copied whole: they are coded"));
        piece.finish(lost.chain(said).collect())?;
    }
    Ok(())
}

/// Writes what the pictures of a film are seen through, each table once; where each is.
fn written_luts(plan: &FilmPlan, folder: &Path) -> io::Result<HashMap<Showing, PathBuf>> {
    let write = |text: &String| {
        let name = format!("seen-{}.cube", &blake3::hash(text.as_bytes()).to_hex()[..12]);
        let path = std::path::absolute(folder.join(name))?;
        fs::write(&path, text)?;
        Ok(path)
    };
    let tables: Vec<PathBuf> = plan.tables.iter().map(write).collect::<io::Result<_>>()?;
    Ok(plan.luts.iter().map(|(of, number)| (*of, tables[*number].clone())).collect())
}
