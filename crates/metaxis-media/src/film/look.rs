//! A film before it has its name: every picture in its place, some of them seen, all of it read back.

use super::{
    join::Joined,
    listed::{Listed, MOST, are_all_from, listed, listing, listing_whole, numbers},
    place::Place,
    proof::Print,
    spec::{Copied, FilmWritten},
    writer::FilmWriter,
};
use crate::{MediaError, Tool, made::Made};
use metaxis_core::film::Wrapper;
use rayon::prelude::*;
use std::{
    collections::{BTreeMap, BTreeSet},
    panic::resume_unwind,
    path::Path,
    thread,
};

impl FilmWriter {
    /// Refuses a film that is not what was made; `cut` is what was cut out for the pieces that are copied.
    pub(super) fn look(&self, made: &Made, cut: &BTreeMap<usize, Vec<Listed>>) -> Result<Joined, MediaError> {
        let aside = made.aside();
        let read_back = || {
            made.file.sync_all().map_err(|e| made.refused(&e))?;
            made.read_back()
        };
        let (placed, heard, seen, written) = thread::scope(|scope| {
            let placed = scope.spawn(|| self.not_in_place(aside, cut));
            let heard = scope.spawn(|| self.hear(aside));
            let written = scope.spawn(read_back);
            let seen = self.seen_unlike(aside, cut);
            (
                placed.join().unwrap_or_else(|panic| resume_unwind(panic)),
                heard.join().unwrap_or_else(|panic| resume_unwind(panic)),
                seen,
                written.join().unwrap_or_else(|panic| resume_unwind(panic)),
            )
        });
        let broken: BTreeSet<usize> = placed?.into_iter().chain(seen?).collect();
        heard?;
        let (bytes, hash) = written?;
        Ok(if broken.is_empty() {
            Joined::Whole(FilmWritten { bytes, hash })
        } else {
            Joined::NotCopied(self.of_the_same_files(&broken))
        })
    }

    fn wrong<T>(&self, detail: String) -> Result<T, MediaError> {
        Err(MediaError::Write { path: self.target.clone(), detail })
    }

    /// The pieces whose pictures are not those that were cut out for them. Every frame of the film is there.
    fn not_in_place(
        &self,
        film: &Path,
        cut: &BTreeMap<usize, Vec<Listed>>,
    ) -> Result<Vec<usize>, MediaError> {
        let rate = self.spec.rate;
        // What is compared to nothing needs not be taken apart.
        let args = if cut.is_empty() { listing_whole() } else { listing(self.spec.form.codec) };
        let said = Tool::ffmpeg(film).args(["-i"]).file(film).args(args).args(["pipe:1"]);
        let said = said.output(MOST, &self.stop)?;
        let there = listed(&String::from_utf8_lossy(&said));
        let zero_s = there.iter().map(|own| own.at_s).min_by(f64::total_cmp).unwrap_or(0.0);
        let frames = self.spec.frames;
        if there.len() as i64 != frames {
            return self.wrong(format!("{frames} frames were made and {} are in it; try again", there.len()));
        }
        if !are_all_from(0, &numbers(&there, zero_s, rate)) {
            return self.wrong("its frames are not one behind the other; try again".into());
        }
        let is_broken = |(number, cut): &(&usize, &Vec<Listed>)| {
            let whole =
                self.copied(**number).zip(self.pieces().get(**number)).and_then(|(own, (from, to))| {
                    let film = there.get(usize::try_from(*from).ok()?..usize::try_from(*to).ok()?)?;
                    own.is_in(film, zero_s, rate, cut).then_some(())
                });
            whole.is_none()
        };
        Ok(cut.iter().filter(is_broken).map(|(number, _)| *number).collect())
    }

    /// The pieces of which the first of a file is not seen as in its file. What was coded is seen as it was.
    fn seen_unlike(&self, film: &Path, cut: &BTreeMap<usize, Vec<Listed>>) -> Result<Vec<usize>, MediaError> {
        let prints: Vec<Print> = (0..self.pieces().len())
            .filter_map(|number| self.known(number))
            .flat_map(|own| own.prints)
            .collect();
        let chosen = [prints.first(), prints.get(prints.len() / 2), prints.last()];
        chosen.par_iter().flatten().try_for_each(|own| {
            if self.frame_of(film, own.frame)?.is_some_and(|there| own.is_like(&there)) {
                return Ok(());
            }
            self.wrong(format!("its frame {} is not the one that was made; try again", own.frame))
        })?;
        let mut unlike = vec![];
        let mut files = BTreeSet::new();
        for (number, own) in cut.keys().filter_map(|number| Some((*number, self.copied(*number)?))) {
            if !files.insert(&own.path) {
                continue;
            }
            let [there, recorded] = [self.frame_of(film, own.from)?, self.recorded(own)?];
            if !there.zip(recorded).is_some_and(|(there, recorded)| there.is(&recorded)) {
                unlike.push(number);
            }
        }
        Ok(unlike)
    }

    /// Refuses sound that is not what was made.
    fn hear(&self, film: &Path) -> Result<(), MediaError> {
        let wrapper = self.spec.form.wrapper;
        let apart = wrapper == Wrapper::Atom;
        let Some((path, tracks)) = self.spec.sound.as_ref().filter(|_| !apart) else { return Ok(()) };
        let heard = if wrapper.keeps_samples() {
            self.is_the_same_sound(film, path, tracks)?
        } else {
            self.is_in_its_place(film, path, tracks)?
        };
        if heard {
            return Ok(());
        }
        self.wrong("its sound is not what was made, or not in its place; try again".into())
    }

    /// What a frame of a film is known by.
    fn frame_of(&self, path: &Path, frame: i64) -> Result<Option<Print>, MediaError> {
        self.print_of(path, frame, Place::of_number(frame, self.spec.rate), None)
    }

    /// What the first frame of a stretch is known by, in its own file; nothing where it cannot be seen.
    fn recorded(&self, own: &Copied) -> Result<Option<Print>, MediaError> {
        let place = Place::of_number(own.first, own.facts.rate);
        match self.print_of(&own.path, own.from, place, Some(own.facts.start_s)) {
            Err(MediaError::Tool { .. }) => Ok(None),
            other => other,
        }
    }

    /// Of the picture at a place of a file, or of its first, which has the time `start_s` where that is not when the file begins.
    fn print_of(
        &self,
        path: &Path,
        frame: i64,
        place: Option<Place>,
        start_s: Option<f64>,
    ) -> Result<Option<Print>, MediaError> {
        let pixels = self.pixels();
        let bytes = Tool::ffmpeg(path)
            .args(place.map_or_else(Vec::new, |own| own.gone_to(start_s)))
            .args(["-i"])
            .file(path)
            .args(["-vf", &place.map_or_else(|| "null".to_owned(), Place::filter)])
            .args(["-map", "0:V:0", "-frames:v", "1", "-fps_mode", "passthrough"])
            .args(["-pix_fmt", pixels.name(), "-f", "rawvideo", "pipe:1"])
            .output(pixels.bytes() as u64, &self.stop)?;
        Ok((bytes.len() == pixels.bytes()).then(|| Print::of(frame, pixels, &bytes)))
    }
}
