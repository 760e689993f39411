//! The angles of a group as a person arranges them.

use super::{Angle, AngleId, AnglePart, Group, lanes::one_lane};
use crate::{
    clip::{ClipId, DeviceId},
    lut::SeenThrough,
    names::{MOST_LETTERS, readable},
};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use ts_rs::TS;

/// What is done with the angles of a group.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(tag = "do", rename_all = "snake_case")]
pub enum Arrange {
    /// An angle is called otherwise; as its device where `None`.
    Name {
        /// It.
        angle: AngleId,
        /// Its name.
        name: Option<String>,
    },
    /// An angle is set aside, or shown again.
    Hide {
        /// It.
        angle: AngleId,
        /// Whether it is aside.
        hidden: bool,
    },
    /// An angle is seen through something else than its device's pictures; as those where `None`.
    SeeThrough {
        /// It.
        angle: AngleId,
        /// What.
        through: Option<SeenThrough>,
    },
    /// An angle more, which waits for its first clip.
    Add {
        /// Its name.
        name: Option<String>,
    },
    /// An angle is not wanted, with all that is in it.
    Remove {
        /// It.
        angle: AngleId,
    },
    /// A clip is not wanted in the group.
    SetAside {
        /// It.
        clip: ClipId,
    },
    /// Nothing is shown of some frames of an angle.
    Blank {
        /// It.
        angle: AngleId,
        /// First frame of the group,
        #[ts(type = "number")]
        from: i64,
        /// and the first that is shown again.
        #[ts(type = "number")]
        to: i64,
    },
}

impl Arrange {
    /// The same of all frames of `whole`, of what of it is shown.
    #[must_use]
    pub fn of_whole(self, whole: &Group) -> Self {
        match self {
            Self::Blank { angle, from, to } => {
                let (from, to) = whole.whole_range(from, to);
                Self::Blank { angle, from, to }
            }
            other => other,
        }
    }

    /// What is done, in words.
    pub fn said(&self) -> &'static str {
        match self {
            Self::Name { name: Some(_), .. } => "an angle named",
            Self::Name { name: None, .. } => "an angle called as its device",
            Self::Hide { hidden: true, .. } => "an angle set aside",
            Self::Hide { hidden: false, .. } => "an angle shown again",
            Self::SeeThrough { .. } => "what an angle is seen through",
            Self::Add { .. } => "an empty angle",
            Self::Remove { .. } => "an angle removed",
            Self::SetAside { .. } => "a clip set aside",
            Self::Blank { .. } => "an angle blanked",
        }
    }
}

/// Why angles cannot be arranged so.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum ArrangeError {
    /// No such angle.
    #[error("the group has no angle {}", .0.0)]
    NoAngle(AngleId),
    /// No such clip.
    #[error("the clip is not in the group")]
    NoClip,
    /// Nothing would be left.
    #[error("that would leave the group without pictures: delete the group instead")]
    Nothing,
    /// All would be aside.
    #[error("one angle has to stay: show another first")]
    NoneSeen,
    /// There is no room.
    #[error("another clip of that angle runs there: give it an angle of its own")]
    Taken,
    /// Clips of two devices in one angle.
    #[error("that angle is another device's: give the clip an angle of its own")]
    OtherDevice,
    /// The clip runs at another time.
    #[error("the clip does not run while the group does")]
    Elsewhere,
    /// Frames that are none.
    #[error("nothing of that angle is there to be blanked")]
    NothingThere,
    /// A name that cannot be read.
    #[error("a name has between 1 and {MOST_LETTERS} letters")]
    Name,
    /// It is so already.
    #[error("it is so already")]
    NoChange,
}

impl Group {
    /// Its angles, arranged otherwise.
    ///
    /// # Errors
    /// [`ArrangeError`].
    pub fn arranged(&self, how: &Arrange) -> Result<Vec<Angle>, ArrangeError> {
        let mut angles = self.angles.clone();
        let known =
            |id: &AngleId| angles.iter().position(|own| own.id == *id).ok_or(ArrangeError::NoAngle(*id));
        let readable = |name: &Option<String>| match name {
            Some(name) => readable(name).map(Some).ok_or(ArrangeError::Name),
            None => Ok(None),
        };
        match how {
            Arrange::Name { angle, name } => {
                let at = known(angle)?;
                angles[at].name = readable(name)?;
            }
            Arrange::Hide { angle, hidden } => {
                let at = known(angle)?;
                angles[at].hidden = *hidden;
            }
            Arrange::SeeThrough { angle, through } => {
                let at = known(angle)?;
                angles[at].through.clone_from(through);
            }
            Arrange::Add { name } => {
                let id = self.free_angle(AngleId(1));
                let name = readable(name)?;
                angles.push(Angle { id, device: None, name, hidden: false, through: None, parts: vec![] });
            }
            Arrange::Remove { angle } => {
                let at = known(angle)?;
                angles.remove(at);
            }
            Arrange::SetAside { clip } => {
                for angle in &mut angles {
                    if let Some(left) = angle.without(*clip) {
                        *angle = left;
                    }
                }
                if angles == self.angles {
                    return Err(ArrangeError::NoClip);
                }
            }
            Arrange::Blank { angle, from, to } => {
                let at = known(angle)?;
                let rest = |(begin, end): (i64, i64), part: &AnglePart| {
                    let (from_frame, to_frame) = (part.from_frame.max(begin), part.to_frame.min(end));
                    (from_frame < to_frame).then(|| AnglePart { from_frame, to_frame, ..part.clone() })
                };
                let pieces = angles[at]
                    .parts
                    .iter()
                    .flat_map(|part| [rest((0, *from), part), rest((*to, self.frames), part)]);
                let left: Vec<AnglePart> = pieces.flatten().collect();
                if from >= to || left == angles[at].parts {
                    return Err(ArrangeError::NothingThere);
                }
                angles[at].parts = left;
            }
        }
        self.can_be(angles)
    }

    /// Its angles with a clip of `device` that has these parts in it: in the angle `to`, else in the device's first with room, else
    /// in one of its own. Where it is in the group already, it is laid anew.
    ///
    /// # Errors
    /// [`ArrangeError`].
    pub fn with_clip(
        &self,
        device: DeviceId,
        parts: &[AnglePart],
        to: Option<AngleId>,
    ) -> Result<Vec<Angle>, ArrangeError> {
        let (Some(first), Some(last)) = (parts.first(), parts.last()) else {
            return Err(ArrangeError::Elsewhere);
        };
        let was = self.angles.iter().find(|angle| angle.parts.iter().any(|part| part.clip == first.clip));
        let mut angles: Vec<Angle> = self
            .angles
            .iter()
            .map(|angle| angle.without(first.clip).unwrap_or_else(|| angle.clone()))
            .collect();
        let has_room = |angle: &Angle| angle.is_free(first.from_frame, last.to_frame);
        let own = |angle: &&mut Angle| angle.device == Some(device) && has_room(angle);
        let angle = match to.or(was.map(|angle| angle.id)) {
            Some(id) => Some(angles.iter_mut().find(|own| own.id == id).ok_or(ArrangeError::NoAngle(id))?),
            None => angles.iter_mut().find(own),
        };
        match angle {
            Some(angle) => {
                if *angle.device.get_or_insert(device) != device {
                    return Err(ArrangeError::OtherDevice);
                }
                if !has_room(angle) {
                    return Err(ArrangeError::Taken);
                }
                angle.parts = one_lane(angle.parts.drain(..).chain(parts.iter().cloned()));
            }
            None => {
                let id = self.free_angle(AngleId::of(device));
                angles.push(Angle { id, ..Angle::of(device, parts.to_vec()) });
            }
        }
        self.can_be(angles)
    }

    /// These angles, where the group can have them.
    fn can_be(&self, angles: Vec<Angle>) -> Result<Vec<Angle>, ArrangeError> {
        if angles.iter().all(|angle| angle.parts.is_empty()) {
            return Err(ArrangeError::Nothing);
        }
        if angles.iter().all(|angle| angle.hidden) {
            return Err(ArrangeError::NoneSeen);
        }
        if angles == self.angles {
            return Err(ArrangeError::NoChange);
        }
        Ok(angles)
    }
}
