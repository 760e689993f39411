//! What a film is made of.

use crate::{
    sound::{Grouped, SoundFile},
    turnover::{DayTurnover, TurnedGroup},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    film::{Film, FilmForm, FilmSound, Grade, Lane, Named, Programme},
    group::{Angle, AngleId, Group},
    line::Line,
    lut::SeenThrough,
    sound::{Container, Depth, GroupTracks, Layout, Stems},
    turnover::Source,
};
use metaxis_media::{Fingerprint, codecs_offered, film_bytes};
use metaxis_store::SoundOrder;
use serde::Deserialize;
use std::{collections::HashMap, fs, path::PathBuf, sync::Arc};
use ts_rs::TS;

/// What is wanted of a day.
#[derive(Debug, Clone, Copy)]
pub enum Wanted<'a> {
    /// The line of a group.
    Line(&'a TurnedGroup),
    /// The angles of a group that are switched to, side by side.
    Wall(&'a TurnedGroup),
    /// One of them.
    Angle(&'a TurnedGroup, AngleId),
    /// A clip.
    Clip(ClipId),
}

/// What films are to be made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum FilmsOf {
    /// The line of each group.
    Lines,
    /// All angles of each group side by side.
    Walls,
    /// Each angle of each group.
    Angles,
    /// Each picture clip.
    Clips,
}

impl FilmsOf {
    /// All that there is of it in a day, in order.
    pub fn all(self, day: &DayTurnover) -> Vec<Wanted<'_>> {
        let angle = |own| move |angle: &Angle| Wanted::Angle(own, angle.id);
        match self {
            Self::Lines => day.groups.iter().map(Wanted::Line).collect(),
            Self::Walls => day.groups.iter().map(Wanted::Wall).collect(),
            Self::Angles => day.groups.iter().flat_map(|own| own.group.seen().map(angle(own))).collect(),
            Self::Clips => {
                let moving = day.sound.clips.iter().filter(|own| own.is_picture());
                moving.map(|own| Wanted::Clip(own.id)).collect()
            }
        }
    }
}

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
    pub sound: Option<SoundFile>,
    /// Where its clips are, and what they are known by.
    pub(super) files: HashMap<ClipId, (PathBuf, Fingerprint)>,
    /// Every file of the day: they are only read.
    pub(super) sources: Arc<[PathBuf]>,
    /// What each is seen through, where it is to be: the text of a LUT, by who shows it.
    pub(super) luts: HashMap<(Lane, ClipId), String>,
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
        let sound = if form.sound == FilmSound::Silent { None } else { sound_of(day, wanted, form.sound) };
        let seen = film.clips();
        let files = day.sound.clips.iter().filter(|clip| seen.contains(&clip.id));
        let files = files.map(|clip| (clip.id, (clip.path.clone(), clip.fingerprint.clone()))).collect();
        let named =
            seen.iter().filter_map(|clip| Some((*clip, named(day.sources.clips.get(clip)?)))).collect();
        Ok(Self {
            notes: notes(day, wanted),
            stem: stem_of(day, wanted),
            luts: if form.through { luts_of(day, &film) } else { HashMap::new() },
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
        let mut luts: Vec<String> = self.luts.iter().map(|(lane, text)| format!("{lane:?} {text}")).collect();
        luts.sort();
        let all = format!(
            "{} {luts:?} {:?} {:?} {:?} {:?} {} {prints:?} {named:?} {:?} {:?}",
            env!("CARGO_PKG_VERSION"),
            self.film.programme,
            self.film.size,
            self.film.start,
            self.form,
            self.film.frames,
            self.sound.as_ref().map(SoundFile::notes_uid),
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

    /// About how many bytes of disk it takes while it is made: its pieces, and the whole.
    pub fn bytes(&self) -> u64 {
        let sound = self.sound.as_ref().map_or(0, SoundFile::bytes);
        let coded = film_bytes(&self.form, self.size(), self.film.frames);
        let recorded = if self.form.grade == Grade::Recorded { self.recorded_bytes() } else { 0 };
        2 * (coded.max(recorded) + sound)
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
    }
}

/// What the pictures of a film are seen through, by who shows them.
fn luts_of(day: &DayTurnover, film: &Film) -> HashMap<(Lane, ClipId), String> {
    let devices: HashMap<ClipId, DeviceId> = day.sound.clips.iter().map(|own| (own.id, own.device)).collect();
    let (angles, layers, alone) = match &film.programme {
        Programme::Line(group, line) => (group.angles.as_slice(), line.layers(), None),
        Programme::Wall(group, _) => (group.angles.as_slice(), &[][..], None),
        Programme::Clip(clip) => (&[][..], &[][..], Some((Lane::Clip, *clip, None))),
    };
    let of_angles = angles.iter().flat_map(|angle| {
        angle.parts.iter().map(|part| (Lane::Angle(angle.id), part.clip, angle.through.as_ref()))
    });
    let of_layers = (0..).zip(layers).map(|(number, own)| (Lane::Layer(number), own.clip, None));
    let one = |(lane, clip, angle): (Lane, ClipId, Option<&SeenThrough>)| {
        Some(((lane, clip), day.luts.of(devices.get(&clip).copied(), angle)?.to_text()))
    };
    of_angles.chain(of_layers).chain(alone).filter_map(one).collect()
}

fn sound_of(day: &DayTurnover, wanted: Wanted, how: FilmSound) -> Option<SoundFile> {
    let mut order = SoundOrder { habit: day.sources.habit.clone(), ..SoundOrder::default() };
    let form = &mut order.habit.form;
    form.handles_ms = 0;
    form.layout = Layout::Poly;
    form.container = Container::Wave;
    form.depth = Depth::Pcm24;
    form.rate = Some(48_000);
    form.of_groups = match how {
        FilmSound::Tracks | FilmSound::Silent => GroupTracks::Recorded,
        FilmSound::Mix => GroupTracks::Grid,
        FilmSound::Both => GroupTracks::Both,
    };
    let of_group = |group: &Group, line: Option<Line>| {
        let grouped = Grouped { group: group.clone(), line };
        day.sound.for_groups(&[grouped], &order).files.into_iter().next()
    };
    match wanted {
        Wanted::Line(own) => of_group(&own.group, own.line.clone()),
        Wanted::Wall(own) | Wanted::Angle(own, _) => of_group(&own.group, None),
        Wanted::Clip(clip) => day.sound.for_film(clip, &order).ok(),
    }
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
    }
}
