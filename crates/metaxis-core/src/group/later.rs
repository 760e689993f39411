//! A group that a person put together, when a later pass lays its clips elsewhere.

use super::{Angle, AnglePart, Group, PlacedClip, lanes::one_lane};
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

    /// How much later a clip lies than a placement has it, seconds; `None` where it is not in the group, or nowhere.
    pub fn off_s(&self, clip: ClipId, placement: &Placement) -> Option<f64> {
        let mut parts = self.angles.iter().flat_map(|angle| &angle.parts);
        off_s(placement, parts.find(|part| part.clip == clip)?)
    }

    /// Its angles with a clip so much later than its placement has it, seconds; as they are where it is not in the group. What was
    /// blanked of it stays blank, and of clips that lie over each other the earlier runs to its end.
    pub fn with_off(&self, clip: &PlacedClip, by_s: f64) -> Vec<Angle> {
        let Some(was_s) = self.off_s(clip.id, clip.placement) else { return self.angles.clone() };
        let whole = |by_s: f64| {
            let stretches = clip.placement.stretches.iter();
            let stretches = stretches.map(|own| Stretch { start_s: own.start_s + by_s, ..*own }).collect();
            let placement = Placement { stretches, ..clip.placement.clone() };
            self.parts_of(&PlacedClip { placement: &placement, ..*clip })
        };
        let (was, now) = (whole(was_s), whole(by_s));
        let frames = |by_s: f64| (by_s * self.rate().as_f64()).round() as i64;
        let later = frames(by_s) - frames(was_s);
        let is_in = |angle: &&Angle| angle.parts.iter().any(|part| part.clip == clip.id);
        let alone = self.angles.iter().filter(is_in).count() == 1;
        let anew = |angle: &Angle| {
            let (own, rest): (Vec<&AnglePart>, Vec<&AnglePart>) =
                angle.parts.iter().partition(|part| part.clip == clip.id);
            if own.is_empty() {
                return angle.clone();
            }
            let of_part = |part: &AnglePart| {
                let is_same = |one: &&AnglePart| one.stretch.clip_start_s == part.stretch.clip_start_s;
                let shown: Vec<&AnglePart> = own.iter().copied().filter(is_same).collect();
                match was.iter().find(is_same) {
                    // A piece that lay outside the group comes in.
                    None if alone => vec![part.clone()],
                    None => vec![],
                    Some(before) => {
                        let blank = holes((before.from_frame, before.to_frame), &shown);
                        without(part, blank.map(|(from, to)| (from + later, to + later)))
                    }
                }
            };
            let parts = rest.into_iter().cloned().chain(now.iter().flat_map(of_part));
            Angle { parts: one_lane(parts), ..angle.clone() }
        };
        self.angles.iter().map(anew).collect()
    }
}

/// What `parts`, in the order of time, leave open of a range of frames.
fn holes((from, to): (i64, i64), parts: &[&AnglePart]) -> impl Iterator<Item = (i64, i64)> {
    let ends = parts.iter().map(|part| part.to_frame);
    let begins = parts.iter().map(|part| part.from_frame).chain([to]).collect::<Vec<_>>();
    let open: Vec<(i64, i64)> = [from].into_iter().chain(ends).zip(begins).collect();
    open.into_iter().filter(|(from, to)| from < to)
}

/// A part without some ranges of frames.
fn without(part: &AnglePart, ranges: impl Iterator<Item = (i64, i64)>) -> Vec<AnglePart> {
    let mut left = vec![];
    let mut at = part.from_frame;
    for (from, to) in ranges.chain([(part.to_frame, part.to_frame)]) {
        let end = from.min(part.to_frame);
        if at < end {
            left.push(AnglePart { from_frame: at, to_frame: end, ..part.clone() });
        }
        at = at.max(to);
    }
    left
}
