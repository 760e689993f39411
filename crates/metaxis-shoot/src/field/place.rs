//! Where a source is while it is recorded: it stands, walks, or goes into another room.

use super::{EarPlan, Room, rng};
use crate::sound::{SPEED_OF_SOUND, convolve};
use rand::Rng;

/// How a source moves while it is recorded.
#[derive(Debug, Clone, Default, PartialEq)]
pub enum Course {
    /// It stands.
    #[default]
    Stands,
    /// It walks to and fro between these distances, metres, and rests at either end.
    Walks {
        /// The nearer.
        near_m: f64,
        /// The farther.
        far_m: f64,
    },
    /// It goes into another room, and the microphone with it.
    Changes {
        /// When, in the recording's own time, seconds.
        at_s: f64,
        /// The other room.
        room: Room,
    },
}

/// A person's pace, metres a second, and how long one stays, seconds.
const PACE: f64 = 1.2;
const RESTS_S: f64 = 6.0;
/// Places along a walk whose responses are reckoned.
const PLACES: usize = 8;
/// A door, seconds.
const DOOR_S: f64 = 0.5;

/// What is heard from each of the places that a source comes by.
pub(super) struct Places<'a> {
    wets: Vec<Vec<f32>>,
    plan: &'a EarPlan,
    /// How far a walk has got when the recording begins, seconds.
    before_s: f64,
}

impl<'a> Places<'a> {
    /// Of `sound` in `room`, as `plan` hears it.
    pub fn new(sound: &[f32], rate: u32, room: &Room, plan: &'a EarPlan, seed: u64) -> Self {
        let wet = |room: &Room, distance_m: f64| {
            convolve(sound, &room.response(distance_m, rate, seed, plan.pickup))
        };
        let wets = match &plan.course {
            Course::Stands => vec![wet(room, plan.distance_m)],
            Course::Walks { near_m, far_m } => (0..PLACES)
                .map(|i| wet(room, near_m * (far_m / near_m).powf(i as f64 / (PLACES - 1) as f64)))
                .collect(),
            Course::Changes { room: other, .. } => {
                vec![wet(room, plan.distance_m), wet(other, plan.distance_m)]
            }
        };
        Self { wets, plan, before_s: 30.0 * rng(seed, 42).random::<f64>() }
    }

    /// At a moment of the recording: between which places the source is (a whole number is one of them), and how much
    /// later it is heard than from the plan's distance, seconds.
    fn at(&self, clip_s: f64) -> (f64, f64) {
        match &self.plan.course {
            Course::Stands => (0.0, 0.0),
            Course::Walks { near_m, far_m } => {
                let way_s = (far_m - near_m) / PACE;
                let phase = (clip_s + self.before_s) % (2.0 * (way_s + RESTS_S));
                let gone = match phase {
                    away if away < way_s + RESTS_S => (away / way_s).min(1.0),
                    back => 1.0 - ((back - way_s - RESTS_S) / way_s).min(1.0),
                };
                let distance_m = near_m + gone * (far_m - near_m);
                let place = (distance_m / near_m).ln() / (far_m / near_m).ln() * (PLACES - 1) as f64;
                (place, (distance_m - self.plan.distance_m) / SPEED_OF_SOUND)
            }
            Course::Changes { at_s, .. } => (((clip_s - at_s) / DOOR_S).clamp(0.0, 1.0), 0.0),
        }
    }

    /// What is heard at a moment of the recording; `read` makes a sample of what is heard from one place, so much later.
    pub fn heard(&self, clip_s: f64, read: &dyn Fn(&[f32], f64) -> f32) -> f32 {
        let (place, later_s) = self.at(clip_s);
        let (first, share) = (place as usize, place.fract() as f32);
        let here = read(&self.wets[first], later_s);
        match self.wets.get(first + 1) {
            Some(next) if share > 0.0 => here * (1.0 - share) + read(next, later_s) * share,
            _ => here,
        }
    }
}
