//! What a film is made of.

use super::{heard::sound_of, wanted::Wanted};
use crate::{
    sound::SoundRow,
    turnover::{DayTurnover, TurnedGroup},
};
use metaxis_core::{
    clip::ClipId,
    film::{Film, FilmForm, FilmSound, Grade, Lane, Named, Programme, Showing},
    group::AngleId,
    lut::{Lut, SeenThrough},
    sound::Stems,
    turnover::{AssembledPart, Source},
};
use metaxis_media::{Fingerprint, codecs_offered, film_bytes};
use std::{collections::HashMap, fs, path::PathBuf, sync::Arc};

/// Nothing, where films can be made so here; else why not.
///
/// # Errors
/// In words.
pub fn can_be_made(form: &FilmForm) -> Result<(), String> {
    form.check()?;
    if codecs_offered().contains(&form.codec) {
        return Ok(());
    }
    Err(format!("this machine’s ffmpeg does not code {}: choose another codec", form.codec.name()))
}

/// What a film is called, without what says what holds it, and how many frames it has.
///
/// # Errors
/// In words, why there can be none.
pub fn told(day: &DayTurnover, wanted: Wanted) -> Result<(String, i64), String> {
    Ok((stem_of(day, wanted), film_of(day, wanted)?.frames))
}

/// A film that can be made.
pub struct FilmPlan {
    /// What is seen.
    pub film: Film,
    /// How it is coded.
    pub form: FilmForm,
    /// What is heard, where anything is.
    pub sound: Option<SoundRow>,
    /// Where its clips are, and what they are known by.
    pub(super) files: HashMap<ClipId, (PathBuf, Fingerprint)>,
    /// Every file of the day: they are only read.
    pub(super) sources: Arc<[PathBuf]>,
    /// The LUTs that something is seen through, each once, as texts,
    pub(super) tables: Vec<String>,
    /// and which of them what is seen through, where it is to be.
    pub(super) luts: HashMap<Showing, usize>,
    /// What its clips are called.
    pub(super) named: HashMap<ClipId, Named>,
    /// What is said of it in the file.
    pub notes: Vec<(String, String)>,
    /// Its path below a folder, without what says what holds it.
    pub stem: String,
}

impl FilmPlan {
    /// Works out what a film of a day is made of.
    ///
    /// # Errors
    /// In words, why there can be none.
    pub fn of(day: &DayTurnover, wanted: Wanted, form: FilmForm) -> Result<Self, String> {
        form.check()?;
        let film = film_of(day, wanted)?;
        let sound = match form.sound {
            FilmSound::Silent => None,
            how => sound_of(day, wanted, how, &film),
        };
        let seen = film.clips();
        let files = day.sound.clips.iter().filter(|clip| seen.contains(&clip.id));
        let files = files.map(|clip| (clip.id, (clip.path.clone(), clip.fingerprint.clone()))).collect();
        let named =
            seen.iter().filter_map(|clip| Some((*clip, named(day.sources.clips.get(clip)?)))).collect();
        let mut tables = Tables::default();
        if form.through {
            tables.add(day, &film, 0);
        }
        Ok(Self {
            notes: notes(day, wanted),
            stem: stem_of(day, wanted),
            luts: tables.luts,
            tables: tables.all.iter().map(|own| own.to_text()).collect(),
            film,
            form,
            sound,
            sources: day.sound.sources.clone(),
            files,
            named,
        })
    }

    /// Tells what is in it from everything else.
    pub fn uid(&self) -> String {
        let mut prints: Vec<(ClipId, &str)> =
            self.files.iter().map(|(clip, (_, print))| (*clip, print.as_str())).collect();
        prints.sort();
        let mut named: Vec<(&ClipId, &Named)> = self.named.iter().collect();
        named.sort_by_key(|(clip, _)| **clip);
        let mut luts: Vec<(&Showing, &usize)> = self.luts.iter().collect();
        luts.sort();
        let all = format!(
            "{} {luts:?} {:?} {:?} {:?} {:?} {:?} {} {prints:?} {named:?} {:?} {:?}",
            env!("CARGO_PKG_VERSION"),
            self.tables,
            self.film.programme,
            self.film.size,
            self.film.start,
            self.form,
            self.film.frames,
            self.sound.as_ref().map(SoundRow::uid),
            self.notes,
        );
        Fingerprint::of_bytes(all.as_bytes()).to_string()
    }

    /// Its size in pixels.
    pub fn size(&self) -> (u32, u32) {
        self.form.size(self.film.size)
    }

    /// Its path below a folder.
    pub fn path(&self) -> String {
        format!("{}.{}", self.stem, self.form.wrapper.extension())
    }

    /// About how many bytes of disk it takes while it is made: its pieces, and the whole. What is copied is there once.
    pub fn bytes(&self) -> u64 {
        let sound = self.sound.as_ref().map_or(0, SoundRow::bytes);
        let coded = film_bytes(&self.form, self.size(), self.film.frames);
        let recorded = if self.form.grade == Grade::Recorded { self.recorded_bytes() } else { 0 };
        (2 * coded).max(recorded) + 2 * sound
    }

    /// How many bytes it would have if all of it were like the clip that has the most a second.
    fn recorded_bytes(&self) -> u64 {
        let a_second = |(clip, (path, _)): (&ClipId, &(PathBuf, Fingerprint))| {
            let length_s = self.film.picture(*clip)?.duration_s.max(0.04);
            Some(fs::metadata(path).ok()?.len() as f64 / length_s)
        };
        let most = self.files.iter().filter_map(a_second).fold(0.0, f64::max);
        (most * self.film.frames as f64 / self.film.rate.as_f64()) as u64
    }
}

fn film_of(day: &DayTurnover, wanted: Wanted) -> Result<Film, String> {
    let facts = |clip: ClipId| day.sources.clips.get(&clip).map(|own| &own.facts);
    let wall = |own: &TurnedGroup, angles: Vec<AngleId>| {
        if angles.is_empty() {
            return Err(format!("“{}” has no angle that is switched to", own.group.name));
        }
        Ok(Film::of_wall(own.group.clone(), angles, facts))
    };
    match wanted {
        Wanted::Line(own) => {
            let line = own.line.clone().ok_or_else(|| format!("“{}” has no line", own.group.name))?;
            Ok(Film::of_line(own.group.clone(), line, facts))
        }
        Wanted::Wall(own) => wall(own, own.group.seen().map(|angle| angle.id).collect()),
        Wanted::Angle(own, angle) => match own.group.angle(angle) {
            Some(_) => wall(own, vec![angle]),
            None => Err(format!("“{}” has no such angle any more", own.group.name)),
        },
        Wanted::Clip(clip) => {
            let own = facts(clip).ok_or("the clip is not there any more")?;
            Film::of_clip(clip, own).ok_or_else(|| "it has no moving picture".into())
        }
        Wanted::Assembly(own) => {
            let (start, parts) = own.programme.as_ref().map_err(Clone::clone)?;
            let film = |part: &AssembledPart| {
                (Film::of_line(part.group.clone(), part.line.clone(), facts), part.range)
            };
            Ok(Film::of_parts(parts.iter().map(film).collect(), *start))
        }
    }
}

/// What the pictures of a film are seen through.
#[derive(Default)]
struct Tables<'a> {
    /// Each LUT once: many clips are seen through one.
    all: Vec<&'a Lut>,
    luts: HashMap<Showing, usize>,
}

impl<'a> Tables<'a> {
    /// Adds those of a film, which is part `part` of another.
    fn add(&mut self, day: &'a DayTurnover, film: &Film, part: usize) {
        if let Programme::Parts(parts) = &film.programme {
            for (part, own) in parts.iter().enumerate() {
                self.add(day, &own.film, part);
            }
        }
        let device = |clip: ClipId| day.sound.clips.iter().find(|own| own.id == clip).map(|own| own.device);
        for (lane, clip, angle) in showings(&film.programme) {
            let Some(lut) = day.luts.of(device(clip), angle) else { continue };
            let there = self.all.iter().position(|own| std::ptr::eq(*own, lut));
            let number = there.unwrap_or_else(|| {
                self.all.push(lut);
                self.all.len() - 1
            });
            self.luts.insert(Showing { part, lane, clip }, number);
        }
    }
}

/// Which clips a programme that is one piece may show, and what an angle of it is seen through.
fn showings(programme: &Programme) -> Vec<(Lane, ClipId, Option<&SeenThrough>)> {
    let (angles, layers, alone) = match programme {
        Programme::Line(group, line) => (group.angles.as_slice(), line.layers(), None),
        Programme::Wall(group, _) => (group.angles.as_slice(), &[][..], None),
        Programme::Clip(clip) => (&[][..], &[][..], Some((Lane::Clip, *clip, None))),
        Programme::Parts(_) => (&[][..], &[][..], None),
    };
    let of_angles = angles.iter().flat_map(|angle| {
        let through = angle.through.as_ref();
        angle.parts.iter().map(move |part| (Lane::Angle(angle.id), part.clip, through))
    });
    let of_layers = (0..).zip(layers).map(|(number, own)| (Lane::Layer(number), own.clip, None));
    of_angles.chain(of_layers).chain(alone).collect()
}

fn named(source: &Source) -> Named {
    Named {
        name: source.file_name.clone(),
        timecode: source.facts.timecode,
        scene: source.origin.slate(),
        notes: source.origin.notes.clone().unwrap_or_default(),
    }
}

fn notes(day: &DayTurnover, wanted: Wanted) -> Vec<(String, String)> {
    let (title, clip) = match wanted {
        Wanted::Line(own) | Wanted::Wall(own) | Wanted::Angle(own, _) => (Some(&own.group.name), None),
        Wanted::Clip(clip) => {
            let own = day.sources.clips.get(&clip);
            (own.map(|own| &own.file_name), own)
        }
        Wanted::Assembly(own) => (Some(&own.name), None),
    };
    let all = [
        ("title", title),
        ("project", Some(&day.sound.project)),
        ("reel_name", clip.and_then(|own| own.facts.reel.as_ref())),
        ("scene", clip.and_then(|own| own.origin.scene.as_ref())),
        ("take", clip.and_then(|own| own.origin.take.as_ref())),
    ];
    let said = all.into_iter().filter_map(|(name, value)| Some((name.to_owned(), value?.clone())));
    said.filter(|(_, value)| !value.is_empty()).collect()
}

fn stem_of(day: &DayTurnover, wanted: Wanted) -> String {
    // Groups may have one name.
    let of_group = |own: &TurnedGroup, what: &str| {
        let number = day.groups.iter().position(|other| std::ptr::eq(other, own)).map_or(0, |own| own + 1);
        format!("{number:02} {} {what}", crate::file_stem(&own.group.name))
    };
    match wanted {
        Wanted::Line(own) => of_group(own, "line"),
        Wanted::Wall(own) => of_group(own, "wall"),
        Wanted::Angle(own, angle) => {
            let name = |angle| own.group.angle_name(angle, |device| day.sources.device_name(device));
            of_group(own, &crate::file_stem(&own.group.angle(angle).map_or_else(String::new, name)))
        }
        Wanted::Clip(clip) => {
            let pictures = day.sound.clips.iter().filter(|own| own.facts.picture.is_some());
            let stems = Stems::of(pictures.map(|own| own.relative.as_str()));
            let own = day.sound.clips.iter().find(|own| own.id == clip);
            own.map_or_else(String::new, |own| stems.of_path(&own.relative))
        }
        Wanted::Assembly(own) => {
            let number = day.assemblies.iter().position(|other| other.id == own.id).map_or(0, |own| own + 1);
            let says_so = own.name.to_lowercase().contains("assembly");
            format!("{number:02} {}{}", crate::file_stem(&own.name), if says_so { "" } else { " assembly" })
        }
    }
}
