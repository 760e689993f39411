//! The grid of a group's sound: which tracks go to which outputs, how loud, and when.

use super::{Track, TrackKey};
use crate::{clip::DeviceId, names::readable};
use serde::{Deserialize, Serialize};
use std::fmt;
use ts_rs::TS;

/// Where an output is heard.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Ear {
    /// On both sides.
    #[default]
    Both,
    /// On the left.
    Left,
    /// On the right.
    Right,
}

/// A track that comes out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct GridOutput {
    /// Its name.
    pub name: String,
    /// Where it is heard.
    pub ear: Ear,
    /// Nothing comes out of it.
    pub muted: bool,
    /// What cameras heard goes to it only while their picture is shown.
    pub follows: bool,
}

impl GridOutput {
    fn new(name: &str, ear: Ear) -> Self {
        Self { name: name.to_owned(), ear, muted: false, follows: false }
    }
}

/// Where a track goes to an output.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct Crosspoint {
    /// The track.
    pub source: TrackKey,
    /// Number of the output.
    pub output: usize,
    /// How much louder than it is, dB.
    pub level_db: f32,
    /// Turned upside down.
    pub inverted: bool,
    /// Whether it is open; one that is not keeps its level.
    pub on: bool,
}

/// Which tracks go to which outputs.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, TS)]
pub struct Grid {
    /// What comes out.
    pub outputs: Vec<GridOutput>,
    /// Where tracks go to them.
    pub points: Vec<Crosspoint>,
    /// Tracks that go nowhere for now.
    pub muted: Vec<TrackKey>,
}

/// A change of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum GridChange {
    /// A track goes to an output, or not.
    Cross {
        /// It.
        source: TrackKey,
        /// Number of the output.
        output: usize,
        /// Whether it goes there.
        on: bool,
    },
    /// It goes there so loud.
    Level {
        /// It.
        source: TrackKey,
        /// Number of the output.
        output: usize,
        /// As [`Crosspoint::level_db`].
        level_db: f32,
    },
    /// It goes there upside down, or not.
    Invert {
        /// It.
        source: TrackKey,
        /// Number of the output.
        output: usize,
        /// Whether it does.
        inverted: bool,
    },
    /// A track goes nowhere, or where it went before.
    Mute {
        /// It.
        source: TrackKey,
        /// Whether it is silent.
        muted: bool,
    },
    /// One more output.
    AddOutput,
    /// An output is otherwise.
    Output {
        /// Its number.
        output: usize,
        /// As it is then.
        now: GridOutput,
    },
    /// An output is not wanted.
    RemoveOutput {
        /// Its number.
        output: usize,
    },
}

/// Why a grid cannot be so.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum GridError {
    /// There is no such output.
    NoOutput,
    /// It would have none.
    Last,
    /// It has as many as can be.
    Full,
    /// A name without letters, or with too many.
    Name,
    /// A level that nothing can have.
    Level,
}

impl fmt::Display for GridError {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.write_str(match self {
            Self::NoOutput => "there is no such output",
            Self::Last => "a grid keeps at least one output",
            Self::Full => "a grid has at most 32 outputs",
            Self::Name => "an output's name must have 1 to 80 letters",
            Self::Level => "a level is a number from −60 to +12 dB",
        })
    }
}

impl std::error::Error for GridError {}

/// Outputs that a grid can have.
const MOST_OUTPUTS: usize = 32;
/// Levels that a crosspoint can have, dB.
const LEVELS_DB: std::ops::RangeInclusive<f32> = -60.0..=12.0;

/// The factor of a level, dB.
fn factor(level_db: f32) -> f32 {
    10_f32.powf(level_db / 20.0)
}

/// What is mixed already, by its name, and the side that it is of.
fn mixed(track: &Track) -> Option<Ear> {
    let name = track.name.as_deref()?.to_lowercase();
    // "Mix L", "MixL" and "mix_left" alike.
    let (_, rest) = name.split_once("mix")?;
    Some(match rest.trim_start_matches(|letter: char| !letter.is_alphanumeric()) {
        "l" | "left" | "1" => Ear::Left,
        "r" | "right" | "2" => Ear::Right,
        _ => Ear::Both,
    })
}

impl Grid {
    /// The grid that a group begins with: what the recorders mixed, on one master or on its two sides; else all that they have;
    /// where no recorder ran, what the first camera heard. Everything else is there and goes nowhere.
    pub fn first(tracks: &[Track], is_camera: impl Fn(DeviceId) -> bool) -> Self {
        let recorded: Vec<&Track> = tracks.iter().filter(|track| !is_camera(track.device)).collect();
        let mixes: Vec<(&Track, Ear)> =
            recorded.iter().filter_map(|track| Some((*track, mixed(track)?))).collect();
        let has = |ear: Ear| mixes.iter().any(|(_, own)| *own == ear);
        if has(Ear::Left) && has(Ear::Right) {
            let outputs =
                vec![GridOutput::new("Master L", Ear::Left), GridOutput::new("Master R", Ear::Right)];
            let side = |out: Ear| mixes.iter().filter(move |(_, own)| *own == out || *own == Ear::Both);
            let mut points = crosspoints(side(Ear::Left).map(|(track, _)| *track), 0);
            points.extend(crosspoints(side(Ear::Right).map(|(track, _)| *track), 1));
            return Self { outputs, points, muted: vec![] };
        }
        let heard: Vec<&Track> = if !mixes.is_empty() {
            mixes.iter().map(|(track, _)| *track).collect()
        } else if !recorded.is_empty() {
            recorded
        } else {
            tracks.iter().filter(|track| Some(track.device) == tracks.first().map(|own| own.device)).collect()
        };
        let points = crosspoints(heard.into_iter(), 0);
        Self { outputs: vec![GridOutput::new("Master", Ear::Both)], points, muted: vec![] }
    }

    /// Whether any of these tracks goes anywhere by it.
    pub fn knows(&self, tracks: &[Track]) -> bool {
        self.points.iter().any(|point| point.on && tracks.iter().any(|track| point.source.is(track)))
    }

    /// It with a change made.
    ///
    /// # Errors
    /// [`GridError`].
    pub fn changed(&self, change: &GridChange) -> Result<Self, GridError> {
        let mut grid = self.clone();
        match change {
            GridChange::Cross { source, output, on } => grid.point(source, *output)?.on = *on,
            GridChange::Level { source, output, level_db } => {
                if !LEVELS_DB.contains(level_db) {
                    return Err(GridError::Level);
                }
                let point = grid.point(source, *output)?;
                (point.level_db, point.on) = (*level_db, true);
            }
            GridChange::Invert { source, output, inverted } => {
                let point = grid.point(source, *output)?;
                (point.inverted, point.on) = (*inverted, true);
            }
            GridChange::Mute { source, muted } => {
                grid.muted.retain(|own| own != source);
                grid.muted.extend(muted.then(|| source.clone()));
            }
            GridChange::AddOutput => {
                if grid.outputs.len() >= MOST_OUTPUTS {
                    return Err(GridError::Full);
                }
                let name = crate::names::first_free(format!("Output {}", grid.outputs.len() + 1), |name| {
                    grid.outputs.iter().any(|own| own.name == name)
                });
                grid.outputs.push(GridOutput::new(&name, Ear::Both));
            }
            GridChange::Output { output, now } => {
                let own = grid.outputs.get_mut(*output).ok_or(GridError::NoOutput)?;
                *own = GridOutput { name: readable(&now.name).ok_or(GridError::Name)?, ..now.clone() };
            }
            GridChange::RemoveOutput { output } => {
                if *output >= grid.outputs.len() {
                    return Err(GridError::NoOutput);
                }
                if grid.outputs.len() == 1 {
                    return Err(GridError::Last);
                }
                grid.outputs.remove(*output);
                grid.points.retain(|point| point.output != *output);
                grid.points.iter_mut().for_each(|own| own.output -= usize::from(own.output > *output));
            }
        }
        Ok(grid)
    }

    fn point(&mut self, source: &TrackKey, output: usize) -> Result<&mut Crosspoint, GridError> {
        if output >= self.outputs.len() {
            return Err(GridError::NoOutput);
        }
        let is = |own: &Crosspoint| own.output == output && own.source == *source;
        let at = self.points.iter().position(is).unwrap_or(self.points.len());
        if at == self.points.len() {
            let source = source.clone();
            self.points.push(Crosspoint { source, output, level_db: 0.0, inverted: false, on: false });
        }
        Ok(&mut self.points[at])
    }

    /// The factors of all tracks, output by output; 0 where one goes not.
    pub fn factors(&self, tracks: &[Track]) -> Vec<Vec<f32>> {
        let of = |(number, output): (usize, &GridOutput), track: &Track| {
            if output.muted || self.muted.iter().any(|own| own.is(track)) {
                return 0.0;
            }
            let own = self.points.iter().find(|own| own.output == number && own.on && own.source.is(track));
            own.map_or(0.0, |own| factor(own.level_db) * if own.inverted { -1.0 } else { 1.0 })
        };
        let row = |output| tracks.iter().map(|track| of(output, track)).collect();
        self.outputs.iter().enumerate().map(row).collect()
    }
}

/// Several tracks on one output, as loud together as one, as far as they are not alike.
fn crosspoints<'a>(tracks: impl Iterator<Item = &'a Track>, output: usize) -> Vec<Crosspoint> {
    let tracks: Vec<&Track> = tracks.collect();
    let level_db = -10.0 * (tracks.len().max(1) as f32).log10();
    // To a tenth, as it is shown.
    let level_db = (level_db * 10.0).round() / 10.0 + 0.0;
    let of = |track: &&Track| Crosspoint {
        source: TrackKey::of(track),
        output,
        level_db,
        inverted: false,
        on: true,
    };
    tracks.iter().map(of).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn track(device: i64, channel: usize, name: Option<&str>) -> Track {
        Track {
            device: DeviceId(device),
            channel,
            name: name.map(ToString::to_string),
            lane: 0,
            parts: vec![(0, channel)],
        }
    }

    /// A recorder of these tracks as device 1, and a camera of two as device 9.
    fn day(names: &[&str]) -> Vec<Track> {
        let own = names.iter().enumerate().map(|(i, name)| track(1, i, Some(name)));
        own.chain([track(9, 0, None), track(9, 1, None)]).collect()
    }

    fn first(tracks: &[Track]) -> Grid {
        Grid::first(tracks, |device| device == DeviceId(9))
    }

    #[test]
    fn a_grid_begins_with_what_was_mixed() {
        let stereo = day(&["Mix L", "Mix R", "Boom", "Ana"]);
        let grid = first(&stereo);
        assert_eq!(grid.outputs.iter().map(|own| own.ear).collect::<Vec<_>>(), [Ear::Left, Ear::Right]);
        let factors = grid.factors(&stereo);
        assert_eq!(factors, [[1.0, 0.0, 0.0, 0.0, 0.0, 0.0], [0.0, 1.0, 0.0, 0.0, 0.0, 0.0]]);
        let one = day(&["Mix", "Boom"]);
        assert_eq!(first(&one).factors(&one), [[1.0, 0.0, 0.0, 0.0]]);
        // Where nobody mixed, all of the recorder together; where no recorder ran, the camera.
        let bare = day(&["Boom", "Ana"]);
        let factors = first(&bare).factors(&bare);
        assert!(factors[0][..2].iter().all(|own| (own - 0.708).abs() < 1e-3), "{factors:?}");
        assert_eq!(factors[0][2..], [0.0, 0.0]);
        let camera = day(&[]);
        assert!(first(&camera).factors(&camera)[0].iter().all(|own| *own > 0.7));
        assert_eq!(first(&[]).factors(&[]), [[0.0; 0]]);
    }

    #[test]
    fn changes_are_made_one_by_one() {
        let tracks = day(&["Mix", "Boom"]);
        let boom = TrackKey::of(&tracks[1]);
        let cross = |output, on| GridChange::Cross { source: boom.clone(), output, on };
        let level = |level_db| GridChange::Level { source: boom.clone(), output: 0, level_db };
        let mut grid = first(&tracks);
        for change in [cross(0, true), level(-6.0)] {
            grid = grid.changed(&change).expect("made");
        }
        assert!((grid.factors(&tracks)[0][1] - 0.501).abs() < 1e-3);
        grid = grid
            .changed(&GridChange::Invert { source: boom.clone(), output: 0, inverted: true })
            .expect("made");
        assert!((grid.factors(&tracks)[0][1] + 0.501).abs() < 1e-3);
        let silent = grid.changed(&GridChange::Mute { source: boom.clone(), muted: true }).expect("made");
        assert_eq!(silent.factors(&tracks)[0], [1.0, 0.0, 0.0, 0.0]);
        let back = silent.changed(&GridChange::Mute { source: boom.clone(), muted: false }).expect("made");
        assert_eq!(back, grid);
        // A level stays where a crosspoint is closed and opened again.
        let again = grid.changed(&cross(0, false)).and_then(|own| own.changed(&cross(0, true)));
        assert_eq!(again.as_ref(), Ok(&grid));
        let mut two = grid.changed(&GridChange::AddOutput).and_then(|own| own.changed(&cross(1, true)));
        two = two.and_then(|own| own.changed(&GridChange::RemoveOutput { output: 0 }));
        let two = two.expect("made");
        assert_eq!((two.outputs.len(), two.factors(&tracks)), (1, vec![vec![0.0, 1.0, 0.0, 0.0]]));
    }

    #[test]
    fn what_cannot_be_is_refused() {
        let tracks = day(&["Mix"]);
        let (grid, source) = (first(&tracks), TrackKey::of(&tracks[0]));
        let level = |level_db| GridChange::Level { source: source.clone(), output: 0, level_db };
        for wrong in [f32::NAN, f32::INFINITY, 12.1, -61.0] {
            assert_eq!(grid.changed(&level(wrong)), Err(GridError::Level));
        }
        let nowhere = GridChange::Cross { source, output: 1, on: true };
        assert_eq!(grid.changed(&nowhere), Err(GridError::NoOutput));
        assert_eq!(grid.changed(&GridChange::RemoveOutput { output: 0 }), Err(GridError::Last));
        let name = |name: &str| GridChange::Output { output: 0, now: GridOutput::new(name, Ear::Left) };
        assert_eq!(grid.changed(&name("  ")), Err(GridError::Name));
        assert_eq!(grid.changed(&name(&"n".repeat(300))), Err(GridError::Name));
        assert_eq!(grid.changed(&name(" Dialogue ")).expect("made").outputs[0].name, "Dialogue");
        let mut full = grid;
        for _ in 1..MOST_OUTPUTS {
            full = full.changed(&GridChange::AddOutput).expect("one more");
        }
        assert_eq!(full.changed(&GridChange::AddOutput), Err(GridError::Full));
        assert_eq!(full.outputs[2].name, "Output 3");
    }
}
