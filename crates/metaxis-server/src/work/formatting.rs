//! Groups in another format: their rate, size, and from which label on they count.

use super::grouping::Grouping;
use crate::{App, error::ApiError};
use metaxis_core::{
    clip::ClipId,
    group::{Group, GroupFormat},
    time::{FrameRate, Timecode},
};
use metaxis_store::{GroupChange, GroupId, MadeGroup};
use serde::Deserialize;
use ts_rs::TS;

/// From which label on a group counts.
#[derive(Debug, Clone, PartialEq, Deserialize, TS)]
#[serde(tag = "from", rename_all = "snake_case")]
pub enum StartsAt {
    /// The time of day, as the day knows it.
    Day,
    /// Nought.
    Zero,
    /// One o'clock sharp.
    Hour,
    /// The timecode of one of its clips.
    Clip {
        /// It.
        clip: ClipId,
    },
    /// What somebody typed.
    Typed {
        /// The label.
        label: String,
    },
}

/// Another format of a group.
#[derive(Debug, Deserialize, TS)]
pub struct FormatGroup {
    #[ts(type = "number")]
    version: i64,
    rate: FrameRate,
    /// Whether it counts drop-frame.
    drop: bool,
    width: u32,
    height: u32,
    start: StartsAt,
}

/// Gives a group another format. Its number: counted at another rate it is another group, and the one before is not lost.
///
/// # Errors
/// Where it cannot be so, and errors of the store; then nothing is changed.
pub fn format_group(app: &App, id: GroupId, wanted: &FormatGroup) -> Result<GroupId, ApiError> {
    let grouping = Grouping::of(app)?;
    let own = grouping.summary(id)?;
    let zero = Timecode { frames: 0, rate: wanted.rate, drop: wanted.drop };
    let bare = GroupFormat { start: zero, width: wanted.width, height: wanted.height };
    if !bare.can_be() {
        return Err(ApiError::Refused(
            "a group counts 1 to 1000 frames a second, drop-frame only at 29.97 and its multiples, and is 16 to 16384 pixels wide and high, by twos".into(),
        ));
    }
    let start = label(&grouping, &own.group, &wanted.start, zero)?;
    let format = GroupFormat { start, ..bare };
    let version = Some(wanted.version);
    if own.group.rate() == wanted.rate {
        app.store.edit_groups(version, &GroupChange::Format { group: id, format })?;
        return Ok(id);
    }
    let stored = app.store.whole_group(id)?;
    let group = stored.group.in_format(&format);
    let line = stored.line.as_ref().and_then(|line| stored.group.line_in(line, &group));
    let what = format!("{} at {:.3} frames a second", group.name, wanted.rate.as_f64());
    let made = app.store.replace_groups(version, &what, &[id], &[MadeGroup { group, line, ..stored }])?;
    made.first().copied().ok_or_else(|| ApiError::NotFound("the group is not there".into()))
}

/// The label of the first frame that is shown.
fn label(grouping: &Grouping, group: &Group, start: &StartsAt, zero: Timecode) -> Result<Timecode, ApiError> {
    let (rate, drop) = (zero.rate, zero.drop);
    Ok(match start {
        StartsAt::Zero => zero,
        StartsAt::Hour => zero.plus(3600 * rate.nominal()),
        StartsAt::Day => zero.plus((group.frame_start(0) + grouping.zero()).frame(rate)),
        StartsAt::Typed { label } => Timecode::parse(label, rate)
            .map_err(|e| ApiError::Refused(format!("“{label}” is no timecode: {e}")))?
            .at_rate(rate, drop),
        StartsAt::Clip { clip } => {
            let part = group.angles.iter().flat_map(|angle| &angle.parts).find(|part| part.clip == *clip);
            let facts = grouping.clips.iter().find(|own| own.id == *clip).map(|own| &own.facts);
            let (Some(part), Some(own)) = (part, facts.and_then(|facts| facts.timecode)) else {
                return Err(ApiError::Refused("that clip is not in the group, or has no timecode".into()));
            };
            let at_frame = own.plus(group.clip_frame(part, part.from_frame)).at_rate(rate, drop);
            at_frame.plus(-group.passed(part.from_frame).frame(rate))
        }
    })
}
