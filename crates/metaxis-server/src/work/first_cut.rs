//! A first cut of a group, from who speaks.

use super::judged::{Judged, channel_names};
use crate::{App, error::ApiError};
use metaxis_core::{
    clip::DeviceId,
    group::{AngleId, Group},
    line::{FirstCutHabit, LEVELS_PER_SECOND, LineEdit, Microphone, Shot, Switch, first_cut},
};
use metaxis_media::Stop;
use metaxis_store::{GroupId, KeptLineId, Seat, Seats};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What a first cut of a group can be made of.
#[derive(Debug, Serialize, TS)]
pub struct FirstCutView {
    /// Names of the channels of its sound.
    channels: Vec<String>,
    /// How one was made last in this production; as is usual where none was.
    seats: Seats,
}

/// A first cut that is to be made.
#[derive(Debug, Deserialize, TS)]
pub struct MakeFirstCut {
    /// What the line is called that it is kept as.
    pub name: String,
    /// Who wears what, and how it cuts.
    pub seats: Seats,
}

/// What nobody hears, dBFS.
const SILENT_DB: f32 = -100.0;
/// No shot has to be longer, seconds.
const LONGEST_S: f64 = 600.0;

/// What a first cut of a group can be made of.
///
/// # Errors
/// Where it has no sound, and errors of the store.
pub fn first_cut_of(app: &App, id: GroupId) -> Result<FirstCutView, ApiError> {
    let group = app.store.group(id)?.group;
    let heard = heard(&group)?;
    let usual = FirstCutHabit::default();
    let usual = Seats {
        seats: vec![],
        wide: vec![],
        least_s: usual.least_s,
        lead_s: usual.lead_s,
        alone_s: usual.alone_s,
    };
    let seats = app.store.seats()?.unwrap_or(usual);
    Ok(FirstCutView { channels: channel_names(app, heard[0].clip)?, seats })
}

fn heard(group: &Group) -> Result<&[metaxis_core::group::AnglePart], ApiError> {
    let own = group.sound.as_ref().map(|own| own.parts.as_slice()).filter(|own| !own.is_empty());
    own.ok_or_else(|| ApiError::Refused("the group has no recorder: nothing says who speaks".into()))
}

/// What makes shots the line.
pub(super) fn switched(shots: &[Shot]) -> LineEdit {
    LineEdit::restore(shots.iter().map(|own| Switch::cut(own.at, own.angle)).collect())
}

/// The angles of devices that are switched to, in the order of the devices.
fn angles(group: &Group, devices: &[DeviceId]) -> Vec<AngleId> {
    let of = |device: &DeviceId| {
        group.seen().filter(|angle| angle.device == Some(*device)).map(|angle| angle.id).collect::<Vec<_>>()
    };
    devices.iter().flat_map(of).collect()
}

/// Makes a first cut of a group, kept as a line of its own beside that of the group. How it was made is kept for the next.
///
/// # Errors
/// Where nothing says who speaks; errors of the store and of media.
pub fn make_first_cut(
    app: &App,
    id: GroupId,
    wanted: &MakeFirstCut,
    stop: &Stop,
) -> Result<KeptLineId, ApiError> {
    let group = app.store.group(id)?.group;
    let parts = heard(&group)?;
    let names = channel_names(app, parts[0].clip)?;
    let seated: Vec<(usize, &Seat)> = wanted
        .seats
        .seats
        .iter()
        .filter(|seat| !angles(&group, &seat.devices).is_empty())
        .filter_map(|seat| Some((names.iter().position(|own| *own == seat.channel)?, seat)))
        .collect();
    if seated.is_empty() {
        return Err(ApiError::Refused(
            "say of one microphone at least which camera shows who wears it".into(),
        ));
    }
    let steps = (group.passed(group.frames).seconds() * LEVELS_PER_SECOND as f64).round() as usize;
    let mut microphones = vec![];
    for (channel, seat) in seated {
        let mut levels = vec![SILENT_DB; steps];
        for (from, run) in (Judged { app, channel: Some(channel), stop }).runs(&group, parts)? {
            let first = (group.passed(from).seconds() * LEVELS_PER_SECOND as f64).round() as usize;
            for (there, own) in levels.iter_mut().skip(first).zip(run) {
                *there = own;
            }
        }
        microphones.push(Microphone { levels, angles: angles(&group, &seat.devices) });
    }
    let seconds = |own: f64| if own.is_finite() { own.clamp(0.0, LONGEST_S) } else { 0.0 };
    let habit = FirstCutHabit {
        least_s: seconds(wanted.seats.least_s),
        lead_s: seconds(wanted.seats.lead_s),
        alone_s: seconds(wanted.seats.alone_s).max(0.5),
        wide: angles(&group, &wanted.seats.wide),
    };
    let shots = first_cut(&group, &microphones, &habit);
    app.store.keep_seats(&wanted.seats)?;
    Ok(app.store.keep_made_line(id, &wanted.name, switched(&shots), &shots)?)
}
