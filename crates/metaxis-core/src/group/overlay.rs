//! A group within a longer one, with all that a person put together in it.

use super::{Angle, AnglePart, Group, lanes::one_lane};

impl Group {
    /// Its angles, but in the frames of `own`, which counts as this one does, those of `own`: what was moved, blanked, taken in or
    /// set aside there stays so. An angle of it that has no counterpart here is one more.
    pub fn overlaid(&self, own: &Self) -> Vec<Angle> {
        let by = self.frame_at(own.frame_start(0));
        let (first, end) = (by.clamp(0, self.frames), by.saturating_add(own.frames).clamp(0, self.frames));
        let cut = |part: &AnglePart, from: i64, to: i64| {
            let (from_frame, to_frame) = (part.from_frame.max(from), part.to_frame.min(to));
            (from_frame < to_frame).then(|| AnglePart { from_frame, to_frame, ..part.clone() })
        };
        let mut whole = self.clone();
        for angle in &mut whole.angles {
            let outside = |part: &AnglePart| [cut(part, 0, first), cut(part, end, self.frames)];
            angle.parts = angle.parts.iter().flat_map(outside).flatten().collect();
        }
        for angle in &own.angles {
            let moved = angle.parts.iter().filter_map(|part| {
                let later = AnglePart {
                    from_frame: part.from_frame.saturating_add(by),
                    to_frame: part.to_frame.saturating_add(by),
                    ..part.clone()
                };
                cut(&later, first, end)
            });
            let there = own.counterpart(angle.id, self).map(|there| there.id);
            match whole.angles.iter_mut().find(|one| Some(one.id) == there) {
                Some(there) => there.parts.extend(moved),
                None => {
                    let id = whole.free_angle(angle.id);
                    whole.angles.push(Angle { id, parts: moved.collect(), ..angle.clone() });
                }
            }
        }
        for angle in &mut whole.angles {
            angle.parts = one_lane(angle.parts.drain(..));
        }
        whole.angles
    }
}
