//! The angles of a group: a device's pictures, or what a person put together.

use super::{AnglePart, Group};
use crate::{
    clip::{ClipId, DeviceId},
    lut::SeenThrough,
};
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// An angle, by a number that it keeps within its group whatever it is called and wherever it stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, TS)]
pub struct AngleId(#[ts(type = "number")] pub i64);

/// One angle: what a device recorded in the group. What it recorded over each other is several.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, TS)]
#[serde(from = "StoredAngle")]
pub struct Angle {
    /// Its number.
    pub id: AngleId,
    /// The device; `None` where it waits for its first clip.
    pub device: Option<DeviceId>,
    /// What a person calls it; as its device unless given.
    pub name: Option<String>,
    /// Whether it is set aside: it has no number key, and is off in documents.
    pub hidden: bool,
    /// What its pictures are seen through; as its device's unless given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[ts(optional)]
    pub through: Option<SeenThrough>,
    /// Parts in time order, without overlaps.
    pub parts: Vec<AnglePart>,
}

/// As it is kept; before angles had numbers, that of its device was its own.
#[derive(Deserialize)]
struct StoredAngle {
    id: Option<AngleId>,
    device: Option<DeviceId>,
    name: Option<String>,
    #[serde(default)]
    hidden: bool,
    through: Option<SeenThrough>,
    parts: Vec<AnglePart>,
}

impl From<StoredAngle> for Angle {
    fn from(own: StoredAngle) -> Self {
        let StoredAngle { id, device, name, hidden, through, parts } = own;
        let id = id.or(device.map(AngleId::of)).unwrap_or(AngleId(0));
        Self { id, device, name, hidden, through, parts }
    }
}

impl AngleId {
    /// Of no angle: where a line shows nothing.
    pub const BLACK: Self = Self(0);

    /// The number of a device's first angle.
    pub fn of(device: DeviceId) -> Self {
        Self(device.0)
    }
}

impl Angle {
    /// The first angle of a device.
    pub fn of(device: DeviceId, parts: Vec<AnglePart>) -> Self {
        Self {
            id: AngleId::of(device),
            device: Some(device),
            name: None,
            hidden: false,
            through: None,
            parts,
        }
    }

    /// Whether nothing of these frames is taken.
    pub fn is_free(&self, from: i64, to: i64) -> bool {
        self.parts.iter().all(|part| part.to_frame <= from || part.from_frame >= to)
    }

    /// The same without a clip; `None` where it has none of it.
    pub fn without(&self, clip: ClipId) -> Option<Self> {
        let parts: Vec<AnglePart> = self.parts.iter().filter(|part| part.clip != clip).cloned().collect();
        (parts.len() < self.parts.len()).then(|| Self { parts, ..self.clone() })
    }
}

impl Group {
    /// The angles that are switched to, in the order of their number keys.
    pub fn seen(&self) -> impl Iterator<Item = &Angle> {
        self.angles.iter().filter(|angle| !angle.hidden)
    }

    /// A number that no angle has: `wanted`, else the next behind all.
    pub fn free_angle(&self, wanted: AngleId) -> AngleId {
        if self.angle(wanted).is_none() {
            return wanted;
        }
        AngleId(self.angles.iter().map(|angle| angle.id.0).max().unwrap_or(0).saturating_add(1))
    }

    /// Which of its device's angles one is, from 0, in the order of their numbers.
    pub fn rank(&self, angle: &Angle) -> usize {
        self.angles.iter().filter(|own| own.device == angle.device && own.id < angle.id).count()
    }

    /// The angle of `other` that is as one of these: of the same device, and as many of it before.
    pub fn counterpart<'a>(&self, angle: AngleId, other: &'a Self) -> Option<&'a Angle> {
        let own = self.angle(angle)?;
        let device = own.device?;
        let mut of_device: Vec<&Angle> =
            other.angles.iter().filter(|one| one.device == Some(device)).collect();
        of_device.sort_by_key(|one| one.id);
        of_device.get(self.rank(own)).copied()
    }

    /// What an angle is called: by a person, else as its device, the second of one with a number.
    ///
    /// ```
    /// use metaxis_core::{clip::DeviceId, group::{Angle, AngleId, Group}, time::{FrameRate, Tick, Timecode}};
    ///
    /// let first = Angle::of(DeviceId(4), vec![]);
    /// let second = Angle { id: AngleId(5), ..first.clone() };
    /// let crane = Angle { id: AngleId(6), name: Some("Crane".into()), ..first.clone() };
    /// let group = Group {
    ///     name: "4 / 2".into(),
    ///     start: Timecode::new(0, FrameRate::FPS_25, false),
    ///     axis_zero: Tick(0),
    ///     component: 0,
    ///     frames: 500,
    ///     width: 1920,
    ///     height: 1080,
    ///     angles: vec![first, second, crane],
    ///     sound: None,
    ///     window: None,
    ///     removed: vec![],
    ///     seams: vec![],
    ///     grid: None,
    /// };
    /// let names: Vec<String> = group.angles.iter().map(|own| group.angle_name(own, |_| "B Bank".into())).collect();
    /// assert_eq!(names, ["B Bank", "B Bank 2", "Crane"]);
    /// ```
    pub fn angle_name(&self, angle: &Angle, device: impl Fn(DeviceId) -> String) -> String {
        if let Some(name) = &angle.name {
            return name.clone();
        }
        match (angle.device, self.rank(angle)) {
            (Some(own), 0) => device(own),
            (Some(own), rank) => format!("{} {}", device(own), rank + 1),
            (None, rank) => format!("Angle {}", rank + 1),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_kept_before_angles_had_numbers_reads_on() -> Result<(), serde_json::Error> {
        let old: Angle = serde_json::from_str(r#"{ "device": 7, "parts": [] }"#)?;
        assert_eq!(old, Angle::of(DeviceId(7), vec![]));
        // And what is kept now is itself again.
        let waiting = Angle {
            id: AngleId(9),
            device: None,
            name: Some("Score".into()),
            hidden: true,
            through: Some(SeenThrough::Nothing),
            parts: vec![],
        };
        assert_eq!(serde_json::from_str::<Angle>(&serde_json::to_string(&waiting)?)?, waiting);
        Ok(())
    }
}
