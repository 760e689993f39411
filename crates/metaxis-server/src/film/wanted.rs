//! What films can be made of.

use crate::turnover::{DayTurnover, TurnedAssembly, TurnedGroup};
use metaxis_core::{
    clip::ClipId,
    group::{Angle, AngleId},
};
use serde::Deserialize;
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
    /// Lines one behind another.
    Assembly(&'a TurnedAssembly),
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
    /// Each assembly that is not put aside.
    Assemblies,
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
            Self::Assemblies => {
                day.assemblies.iter().filter(|own| !own.aside).map(Wanted::Assembly).collect()
            }
        }
    }
}
