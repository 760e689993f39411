//! What a production chose about its sound: how clocks are corrected, and how files are written. It holds for its next days too.

use super::{Correction, Fill, Grid, Handling, TrackChoice, TrackKey};
use crate::{
    clip::{ClipId, DeviceId},
    time::SampleRate,
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// How tracks are shared out among files.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Layout {
    /// All in one.
    #[default]
    Poly,
    /// One a file.
    Split,
}

/// How samples are written.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Depth {
    /// Whole numbers of 24 bits.
    #[default]
    Pcm24,
    /// 32-bit floats.
    Float32,
}

impl Depth {
    /// Bits a sample.
    pub fn bits(self) -> u32 {
        match self {
            Self::Pcm24 => 24,
            Self::Float32 => 32,
        }
    }
}

/// What holds the sound of a picture.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum Container {
    /// Broadcast WAV: sound alone.
    #[default]
    Wave,
    /// A MOV with the picture as it is.
    Mov,
    /// An MXF (OP1a) with the picture as it is.
    Mxf,
    /// Nothing is written anew: a document (OpenTimelineIO) in which the recordings are linked to the picture.
    Linked,
}

/// What becomes of a picture's own sound where it is written again with others.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum OwnSound {
    /// It stays, behind the others and switched off.
    #[default]
    Muted,
    /// The others stand for it.
    Replaced,
}

/// Which tracks the sound of a group has.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum GroupTracks {
    /// Those of the recorders.
    #[default]
    Recorded,
    /// The outputs of its grid.
    Grid,
    /// The outputs of its grid, and behind them those of the recorders.
    Both,
}

/// A grid that is kept for other groups.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
pub struct NamedGrid {
    /// Its name.
    pub name: String,
    /// It.
    pub grid: Grid,
}

/// How files of sound are written.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct SoundForm {
    /// What holds the sound of a picture; that of a group is sound alone.
    pub container: Container,
    /// What becomes of a picture's own sound where it is written again.
    pub own: OwnSound,
    /// How tracks of sound alone are shared out among files.
    pub layout: Layout,
    /// How samples are written.
    pub depth: Depth,
    /// Samples a second; those of the recordings unless given.
    pub rate: Option<u32>,
    /// So much more on both sides, milliseconds.
    pub handles_ms: u32,
    /// A re-cut sound is never further off than this, milliseconds.
    pub recut_ms: u32,
    /// Channels that carry timecode too.
    pub with_timecode: bool,
    /// The cameras' own sound too.
    pub scratch: bool,
    /// Which tracks the sound of a group has.
    pub of_groups: GroupTracks,
}

impl SoundForm {
    /// How many samples are before what is wanted, and as many behind it.
    pub fn handles(&self, rate: SampleRate) -> i64 {
        i64::from(self.handles_ms) * i64::from(rate.0) / 1000
    }
}

impl Default for SoundForm {
    fn default() -> Self {
        Self {
            container: Container::default(),
            own: OwnSound::default(),
            layout: Layout::default(),
            depth: Depth::default(),
            rate: None,
            handles_ms: 0,
            // A quarter of a frame at 25 a second.
            recut_ms: 10,
            with_timecode: false,
            scratch: false,
            of_groups: GroupTracks::default(),
        }
    }
}

/// What a production chose about its sound.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, TS)]
#[serde(default)]
pub struct SoundHabit {
    /// How files are written.
    pub form: SoundForm,
    /// Folder that files go to; the production's own where empty.
    pub folder: String,
    /// Which tracks go out, in which order, and what they are called.
    pub tracks: TrackChoice,
    /// Grids that are kept for other groups, by name.
    pub grids: Vec<NamedGrid>,
    /// The name of the one that groups have unless given another.
    pub usual_grid: Option<String>,
    /// What holds for every sound that nothing else was chosen for.
    pub all: Handling,
    /// For all sounds of a device.
    pub devices: Vec<(DeviceId, Handling)>,
    /// For one sound.
    pub clips: Vec<(ClipId, Handling)>,
}

/// A change of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum SoundChange {
    /// Files are written otherwise.
    Form {
        /// How.
        form: SoundForm,
    },
    /// Files go to another folder.
    Folder {
        /// As [`SoundHabit::folder`].
        folder: String,
    },
    /// Tracks are called otherwise.
    NameTracks {
        /// As [`TrackChoice::pattern`].
        pattern: String,
    },
    /// Tracks come in another order.
    OrderTracks {
        /// Those that come first.
        order: Vec<TrackKey>,
    },
    /// Tracks are left out, or taken in again.
    SwitchTracks {
        /// Those.
        tracks: Vec<TrackKey>,
        /// Whether they are left out.
        off: bool,
    },
    /// A grid is kept under a name, in the place of what had it.
    KeepGrid {
        /// It.
        grid: NamedGrid,
        /// Whether groups have it unless given another; as it is unless given.
        #[serde(default)]
        usual: Option<bool>,
    },
    /// A grid is kept no more.
    DropGrid {
        /// Its name.
        name: String,
    },
    /// Groups have this grid unless given another; the one that they begin with where `None`.
    UsualGrid {
        /// Its name.
        name: Option<String>,
    },
    /// Another correction for all sounds of devices, or single ones; none goes back to what holds for everything above them.
    Correct {
        /// Devices.
        #[serde(default)]
        devices: Vec<DeviceId>,
        /// Clips.
        #[serde(default)]
        clips: Vec<ClipId>,
        /// What is done.
        handling: Option<Handling>,
    },
}

impl SoundHabit {
    /// The same without what only files have: all tracks together, from the first frame to the last.
    #[must_use]
    pub fn together(mut self) -> Self {
        self.form.handles_ms = 0;
        self.form.layout = Layout::Poly;
        self
    }

    /// What is done about a sound: what was chosen for it, else for its device, else for all.
    pub fn handling(&self, device: DeviceId, clip: ClipId) -> Handling {
        let own = self.clips.iter().find(|(own, _)| *own == clip).map(|(_, handling)| *handling);
        let its = || self.devices.iter().find(|(own, _)| *own == device).map(|(_, handling)| *handling);
        own.or_else(its).unwrap_or(self.all)
    }

    /// The grid of that name.
    pub fn grid(&self, name: &str) -> Option<&Grid> {
        self.grids.iter().find(|own| own.name == name).map(|own| &own.grid)
    }

    /// It with a change made.
    pub fn changed(&self, change: &SoundChange) -> Self {
        let mut habit = self.clone();
        match change {
            SoundChange::Form { form } => habit.form = *form,
            SoundChange::Folder { folder } => habit.folder.clone_from(folder),
            SoundChange::NameTracks { pattern } => habit.tracks.pattern = pattern.trim().to_owned(),
            SoundChange::OrderTracks { order } => habit.tracks.order = order.clone(),
            SoundChange::SwitchTracks { tracks, off } => {
                habit.tracks.off.retain(|own| !tracks.contains(own));
                habit.tracks.off.extend(tracks.iter().filter(|_| *off).cloned());
            }
            SoundChange::KeepGrid { grid, usual } => {
                match habit.grids.iter_mut().find(|own| own.name == grid.name) {
                    Some(own) => own.clone_from(grid),
                    None => habit.grids.push(grid.clone()),
                }
                match usual {
                    Some(true) => habit.usual_grid = Some(grid.name.clone()),
                    Some(false) => {
                        habit.usual_grid.take_if(|own| *own == grid.name);
                    }
                    None => {}
                }
            }
            SoundChange::DropGrid { name } => {
                habit.grids.retain(|own| own.name != *name);
                habit.usual_grid.take_if(|own| own == name);
            }
            SoundChange::UsualGrid { name } => habit.usual_grid.clone_from(name),
            SoundChange::Correct { devices, clips, handling } => {
                set(&mut habit.devices, devices, *handling);
                set(&mut habit.clips, clips, *handling);
            }
        }
        habit
    }
}

fn set<Id: Copy + Ord>(all: &mut Vec<(Id, Handling)>, ids: &[Id], handling: Option<Handling>) {
    all.retain(|(id, _)| !ids.contains(id));
    all.extend(handling.into_iter().flat_map(|handling| ids.iter().map(move |id| (*id, handling))));
    all.sort_by_key(|(id, _)| *id);
    all.dedup_by_key(|(id, _)| *id);
}

impl SoundChange {
    /// The change in a few words.
    pub fn said(&self) -> String {
        match self {
            Self::Form { .. } => "how sound is written".into(),
            Self::Folder { .. } => "where sound is written to".into(),
            Self::NameTracks { .. } => "names of tracks".into(),
            Self::OrderTracks { .. } => "order of tracks".into(),
            Self::SwitchTracks { tracks, off } => {
                let what = if *off { "left out" } else { "taken in again" };
                match tracks.as_slice() {
                    [TrackKey { name: Some(name), .. }] => format!("track {name} {what}"),
                    [_] => format!("a track {what}"),
                    all => format!("{} tracks {what}", all.len()),
                }
            }
            Self::KeepGrid { grid, usual: Some(true) } => format!("grid “{}” kept for all groups", grid.name),
            Self::KeepGrid { grid, .. } => format!("grid “{}” kept", grid.name),
            Self::DropGrid { name } => format!("grid “{name}” dropped"),
            Self::UsualGrid { name: Some(name) } => format!("grid “{name}” for all groups"),
            Self::UsualGrid { name: None } => "no grid for all groups".into(),
            Self::Correct { devices, clips, handling } => {
                let what = match handling {
                    None => "as proposed",
                    Some(Handling { correction: None, fill: Fill::Silence }) => "as proposed, losses silent",
                    Some(Handling { correction: None, fill: Fill::Close }) => "as proposed, losses closed",
                    Some(Handling { correction: Some(Correction::Resample), .. }) => "resampled",
                    Some(Handling { correction: Some(Correction::Recut), .. }) => "re-cut",
                    Some(Handling { correction: Some(Correction::Leave), .. }) => "left as it ran",
                };
                match (devices.len(), clips.len()) {
                    (0, 1) => format!("a clip's sound {what}"),
                    (0, count) => format!("the sound of {count} clips {what}"),
                    (1, 0) => format!("a device's sound {what}"),
                    (count, _) => format!("the sound of {count} devices {what}"),
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const LEAVE: Handling = Handling { correction: Some(Correction::Leave), fill: Fill::Silence };
    const RECUT: Handling = Handling { correction: Some(Correction::Recut), fill: Fill::Close };

    #[test]
    fn the_nearest_choice_holds_and_taking_it_back_uncovers_the_next() {
        let (device, clip, other) = (DeviceId(1), ClipId(7), ClipId(8));
        let correct = |devices: &[DeviceId], clips: &[ClipId], handling| SoundChange::Correct {
            devices: devices.to_vec(),
            clips: clips.to_vec(),
            handling,
        };
        let habit = SoundHabit::default();
        assert_eq!(habit.handling(device, clip), Handling::default());
        let habit = habit.changed(&correct(&[device], &[], Some(LEAVE)));
        let habit = habit.changed(&correct(&[], &[clip, clip], Some(RECUT)));
        assert_eq!((habit.handling(device, clip), habit.handling(device, other)), (RECUT, LEAVE));
        assert_eq!(habit.clips.len(), 1);
        let habit = habit.changed(&correct(&[], &[clip], None));
        assert_eq!(habit.handling(device, clip), LEAVE);
    }
}
