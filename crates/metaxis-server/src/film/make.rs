//! Making a film: its sound, its pictures piece by piece, and the whole.

use super::{copies::copy_what_can_be, plan::FilmPlan, reel::Reel};
use crate::sound::{only_read, write};
use metaxis_core::{clip::ClipId, film::Lane, sound::MadeState};
use metaxis_media::{FilmSpec, FilmWriter, FilmWritten, MediaError, Stop, written_picture_uid};
use std::{
    collections::HashMap,
    fs, io,
    path::{Path, PathBuf},
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
    let mut remarks: Vec<String> = vec![];
    if let Some(sound) = &plan.sound {
        let made = write(sound, writer.folder(), stop, &|_| {});
        if stop.is_stopped() {
            return Err(MediaError::Stopped);
        }
        let Some(own) = made.first() else { return Err(MediaError::Stopped) };
        if own.state == MadeState::Failed {
            let detail = own.message.clone().unwrap_or_default();
            return Err(MediaError::Write {
                path: target,
                detail: format!("its sound was not made: {detail}"),
            });
        }
        remarks.extend(own.message.clone());
        let path = writer.folder().join(&own.path);
        writer.with_sound(path, sound.film_tracks());
    }
    let luts = written_luts(plan, writer.folder()).map_err(|e| MediaError::Write {
        path: target.clone(),
        detail: format!("its viewing LUTs cannot be kept beside it: {e}; check the disk, then go on"),
    })?;
    remarks.extend(copy_what_can_be(plan, &mut writer, stop)?);
    let mut reel = Reel::new(plan, &luts, writer.pixels(), stop);
    for (number, (from, to)) in writer.pieces().iter().copied().enumerate() {
        if writer.is_there(number) {
            progress(to);
            continue;
        }
        let is_copied = writer.copied(number).is_some();
        if is_copied && writer.copy_piece(number, &mut |at, take| reel.frame(at, take))? {
            progress(to);
            continue;
        }
        let mut piece = writer.piece_writer(number)?;
        for frame in from..to {
            if stop.is_stopped() {
                return Err(MediaError::Stopped);
            }
            reel.frame(frame, &mut |bytes| piece.write(bytes))?;
            progress(frame + 1);
        }
        let lost = reel.take_lost().into_iter().map(|(path, count)| {
            let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            format!(
                "{name}: {count} pictures that should be there are not in the file; the one before stands"
            )
        });
        let not_copied =
            is_copied.then(|| format!("frames {from} to {to} were not copied whole: they are coded"));
        piece.finish(lost.chain(not_copied).collect())?;
    }
    remarks.extend(writer.remarks());
    // What a source became meanwhile is not what was looked at.
    for (path, print) in plan.files.values() {
        print.still_of(path)?;
    }
    let written = Some(writer.join()?);
    Ok(FilmMade { written, remarks })
}

/// Writes what the pictures of a film are seen through, each table once; where each is.
fn written_luts(plan: &FilmPlan, folder: &Path) -> io::Result<HashMap<(Lane, ClipId), PathBuf>> {
    let mut all = HashMap::new();
    for (who, text) in &plan.luts {
        let name = format!("seen-{}.cube", &blake3::hash(text.as_bytes()).to_hex()[..12]);
        let path = std::path::absolute(folder.join(name))?;
        fs::write(&path, text)?;
        all.insert(*who, path);
    }
    Ok(all)
}
