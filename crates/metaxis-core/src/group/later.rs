//! A group that a person put together, when a later pass lays its clips elsewhere.

use super::{Angle, AnglePart, Group, lanes::one_lane};
use crate::{
    clip::ClipId,
    sync::{Placement, Stretch},
    time::Tick,
};
use std::collections::BTreeMap;

/// What lies nearer to where the day has it is as the day has it, seconds.
const AS_LAID_S: f64 = 0.5e-3;

/// The stretch of a placement that a part of its clip is of.
fn laid<'a>(placement: &'a Placement, part: &AnglePart) -> Option<&'a Stretch> {
    let begins = |own: &&Stretch| own.clip_start_s <= part.stretch.clip_start_s;
    placement.stretches.iter().rfind(begins).or(placement.stretches.first())
}

/// How much later a part lies than a placement has it, seconds.
fn off_s(placement: &Placement, part: &AnglePart) -> Option<f64> {
    let laid = laid(placement, part)?;
    Some(part.stretch.axis_s(laid.clip_start_s) - laid.axis_s(laid.clip_start_s))
}

impl Group {
    /// The same on another axis, which begins so much earlier; and in that component of it.
    pub fn on_axis(&self, later: Tick, component: u32) -> Self {
        let part = |part: &AnglePart| AnglePart {
            stretch: Stretch { start_s: part.stretch.start_s + later.seconds(), ..part.stretch },
            ..part.clone()
        };
        let angle = |own: &Angle| Angle { parts: own.parts.iter().map(part).collect(), ..own.clone() };
        if later == Tick(0) {
            return Self { component, ..self.clone() };
        }
        Self {
            axis_zero: self.axis_zero - later,
            component,
            angles: self.angles.iter().map(angle).collect(),
            sound: self.sound.as_ref().map(angle),
            ..self.clone()
        }
    }

    /// The clips that lie elsewhere than the day has them, each with how much later, seconds. Those that the day does not place, or
    /// places where nothing binds them to the group, are left out.
    pub fn moved<'a>(&self, placement: impl Fn(ClipId) -> Option<&'a Placement>) -> BTreeMap<ClipId, f64> {
        let parts = self.angles.iter().flat_map(|angle| &angle.parts);
        let off = parts.filter_map(|part| {
            let own = placement(part.clip).filter(|own| own.component == self.component)?;
            Some((part.clip, off_s(own, part)?))
        });
        off.filter(|(_, off_s)| off_s.abs() > AS_LAID_S).collect()
    }

    /// Its angles with these clips where the day has them; what was blanked of one stays blank.
    pub fn relaid<'a>(
        &self,
        clips: &[ClipId],
        placement: impl Fn(ClipId) -> Option<&'a Placement>,
    ) -> Vec<Angle> {
        let rate = self.rate().as_f64();
        let part = |part: &AnglePart| {
            let Some(own) = placement(part.clip).filter(|_| clips.contains(&part.clip)) else {
                return Some(part.clone());
            };
            let (Some(stretch), Some(off_s)) = (laid(own, part), off_s(own, part)) else {
                return Some(part.clone());
            };
            let by = (-off_s * rate).round() as i64;
            let at = |frame: i64| frame.saturating_add(by).clamp(0, self.frames);
            let (from_frame, to_frame) = (at(part.from_frame), at(part.to_frame));
            (from_frame < to_frame).then(|| AnglePart {
                from_frame,
                to_frame,
                stretch: *stretch,
                ..part.clone()
            })
        };
        let angle = |own: &Angle| Angle { parts: one_lane(own.parts.iter().filter_map(part)), ..own.clone() };
        self.angles.iter().map(angle).collect()
    }
}
