//! Quiet passages of a group, judged on its sound.

use super::judged::{Judged, channel_names};
use crate::{App, error::ApiError};
use metaxis_core::{
    group::Group,
    line::{LEVELS_PER_SECOND, QuietHabit, quiet_passages},
};
use metaxis_media::Stop;
use metaxis_store::GroupId;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// What quiet passages are looked for by.
#[derive(Debug, Default, Deserialize)]
#[serde(default)]
pub struct LookForQuiet {
    /// The channel of the group's sound that is judged, from 0; what of it is matched unless given.
    pub channel: Option<usize>,
    threshold_db: Option<f32>,
    least_s: Option<f64>,
    after_s: Option<f64>,
    before_s: Option<f64>,
}

/// Quiet passages of a group.
#[derive(Debug, Serialize, TS)]
pub struct QuietView {
    /// What is softer was taken for quiet, dBFS.
    threshold_db: f32,
    /// From which frame of what is shown up to which, in order.
    #[ts(type = "Array<[number, number]>")]
    passages: Vec<(i64, i64)>,
    /// Names of the channels that can be judged.
    channels: Vec<String>,
}

/// What can be asked for, seconds.
const LONGEST_S: f64 = 3600.0;

impl LookForQuiet {
    fn habit(&self) -> QuietHabit {
        let usual = QuietHabit::default();
        let seconds = |given: Option<f64>, usual: f64| {
            given.filter(|own| own.is_finite()).unwrap_or(usual).clamp(0.0, LONGEST_S)
        };
        QuietHabit {
            threshold_db: self.threshold_db.filter(|own| own.is_finite()),
            least_s: seconds(self.least_s, usual.least_s),
            after_s: seconds(self.after_s, usual.after_s),
            before_s: seconds(self.before_s, usual.before_s),
        }
    }
}

/// The quiet passages of a group. Where its sound did not run nothing is known, and nothing is quiet.
///
/// # Errors
/// Where it has no sound, or not that channel; errors of the store and of media.
pub fn quiet(app: &App, id: GroupId, wanted: &LookForQuiet, stop: &Stop) -> Result<QuietView, ApiError> {
    let group: Group = app.store.group(id)?.group;
    let none = || ApiError::Refused("the group has no sound to judge by".into());
    let heard = group.sound.as_ref().filter(|own| !own.parts.is_empty()).ok_or_else(none)?;
    let channels = channel_names(app, heard.parts[0].clip)?;
    if wanted.channel.is_some_and(|own| own >= channels.len()) {
        return Err(ApiError::Refused("the group's sound has no such channel".into()));
    }
    let all = Judged { app, channel: wanted.channel, stop }.runs(&group, &heard.parts)?;
    // One threshold for all of it.
    let mut habit = wanted.habit();
    let together: Vec<f32> = all.iter().flat_map(|(_, own)| own).copied().collect();
    let threshold_db = quiet_passages(&together, &habit).threshold_db;
    habit.threshold_db = Some(threshold_db);
    let rate = group.rate().as_f64();
    let mut passages = vec![];
    for (first, levels) in &all {
        for (from, to) in quiet_passages(levels, &habit).passages {
            let frame = |step: usize| step as f64 / LEVELS_PER_SECOND as f64 * rate;
            let (from, to) = (first + frame(from).ceil() as i64, first + frame(to).floor() as i64);
            if from < to {
                passages.push((from, to.min(group.frames)));
            }
        }
    }
    Ok(QuietView { threshold_db, passages, channels })
}
