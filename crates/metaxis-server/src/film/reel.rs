//! The pictures of a film, in the order in which it needs them: opened a little before, let go when they are over.

use super::plan::FilmPlan;
use metaxis_core::{
    clip::ClipId,
    film::{Field, Seen, Showing},
};
use metaxis_media::{Canvas, FrameTimes, MediaError, Pictures, Pixels, Stop};
use std::{
    collections::{BTreeMap, HashMap, hash_map::Entry},
    path::PathBuf,
};

/// Pictures are begun with so many frames before they are seen, and let go so many after.
const AHEAD: i64 = 12;

/// What reads the pictures of a film.
pub(super) struct Reel<'a> {
    plan: &'a FilmPlan,
    fields: Vec<Field>,
    canvas: Canvas,
    stop: Stop,
    open: HashMap<Showing, Open>,
    /// Where the LUTs are that they are seen through.
    luts: HashMap<Showing, PathBuf>,
    /// When the frames of clips begin, as far as they were seen.
    times: HashMap<ClipId, FrameTimes>,
    /// Pictures that were not in their files, by file.
    lost: BTreeMap<PathBuf, usize>,
}

struct Open {
    pictures: Pictures,
    path: PathBuf,
    /// The frame of the film that it was seen in last, or will be.
    last: i64,
}

impl<'a> Reel<'a> {
    /// `luts` says where what is seen through something finds that.
    pub fn new(plan: &'a FilmPlan, luts: &HashMap<Showing, PathBuf>, pixels: Pixels, stop: &Stop) -> Self {
        Self {
            luts: luts.clone(),
            fields: plan.film.fields(plan.size()),
            canvas: Canvas::new(pixels),
            plan,
            stop: stop.clone(),
            open: HashMap::new(),
            times: HashMap::new(),
            lost: BTreeMap::new(),
        }
    }

    /// Hands a frame of the film to `take`.
    pub fn frame(
        &mut self,
        frame: i64,
        take: &mut dyn FnMut(&[u8]) -> Result<(), MediaError>,
    ) -> Result<(), MediaError> {
        let seen = self.plan.film.seen(frame);
        for own in &seen {
            self.begin(own, frame)?;
        }
        if frame + AHEAD < self.plan.film.frames {
            for own in self.plan.film.seen(frame + AHEAD) {
                self.begin(&own, frame + AHEAD)?;
            }
        }
        self.let_go(frame);
        let burn = self.plan.form.burn;
        let captions = self.plan.film.captions(frame, &seen, burn, |clip| self.plan.named.get(&clip));
        // One picture and nothing else is handed on as it is.
        if let ([own], true, 1) = (seen.as_slice(), captions.is_empty(), self.fields.len())
            && own.share >= 1.0
            && let Some(bytes) = picture(&mut self.open, own)?
        {
            return take(bytes);
        }
        self.canvas.blacken();
        for own in &seen {
            let Some(field) = self.fields.get(own.field).copied() else { continue };
            if let Some(bytes) = picture(&mut self.open, own)? {
                self.canvas.lay(bytes, field, own.share);
            }
        }
        self.canvas.write(&captions, &self.fields);
        take(self.canvas.bytes())
    }

    /// Opens what is seen, where that is not done.
    fn begin(&mut self, seen: &Seen, frame: i64) -> Result<(), MediaError> {
        let key = seen.showing();
        if let Some(own) = self.open.get_mut(&key) {
            own.last = own.last.max(frame);
            return Ok(());
        }
        let film = &self.plan.film;
        let (Some((path, _)), Some(facts)) = (self.plan.files.get(&seen.clip), film.picture(seen.clip))
        else {
            return Ok(());
        };
        let Some(field) = self.fields.get(seen.field).copied() else { return Ok(()) };
        let pixels = Pixels { width: field.width, height: field.height, ..self.canvas.pixels() };
        let times = match self.times.entry(seen.clip) {
            Entry::Occupied(own) => own.into_mut(),
            Entry::Vacant(place) => place.insert(FrameTimes::of(path, facts, &self.stop)?),
        };
        let through = self.luts.get(&key).map(PathBuf::as_path);
        let mut pictures = Pictures::open(path, facts, times, pixels, through, &self.stop);
        pictures.begin_at(seen.at_s, self.last_moment(seen, frame))?;
        self.open.insert(key, Open { pictures, path: path.clone(), last: frame });
        Ok(())
    }

    /// The moment of the last picture of what is seen from that frame on without a break.
    fn last_moment(&self, seen: &Seen, frame: i64) -> f64 {
        let film = &self.plan.film;
        let moment = |frame: i64| {
            let all = film.seen(frame).into_iter().filter(|own| own.showing() == seen.showing());
            all.map(|own| own.at_s).max_by(f64::total_cmp)
        };
        (frame..film.frames).map_while(moment).last().unwrap_or(seen.at_s)
    }

    fn let_go(&mut self, frame: i64) {
        let over: Vec<Showing> =
            self.open.iter().filter(|(_, own)| own.last + AHEAD < frame).map(|(key, _)| *key).collect();
        for mut own in over.iter().filter_map(|key| self.open.remove(key)) {
            *self.lost.entry(own.path).or_default() += own.pictures.take_lost();
        }
    }

    /// Pictures that were asked for since this was asked and are not in their files, by file.
    pub fn take_lost(&mut self) -> Vec<(PathBuf, usize)> {
        for own in self.open.values_mut() {
            *self.lost.entry(own.path.clone()).or_default() += own.pictures.take_lost();
        }
        std::mem::take(&mut self.lost).into_iter().filter(|(_, count)| *count > 0).collect()
    }
}

fn picture<'o>(open: &'o mut HashMap<Showing, Open>, seen: &Seen) -> Result<Option<&'o [u8]>, MediaError> {
    match open.get_mut(&seen.showing()) {
        Some(own) => own.pictures.at(seen.at_s),
        None => Ok(None),
    }
}
