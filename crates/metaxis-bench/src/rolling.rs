//! A day on which cameras roll on while the recorder is stopped and started: none of its takes hears all of a clip.

use crate::{
    Shoot,
    world::{crystal, dice, recorder, world},
};
use metaxis_core::sync::{Effort, Mode};
use metaxis_shoot::field::{EarPlan, Gap, Room};
use rand::Rng;

/// Time of day at which the world begins, seconds.
const BEGIN_S: f64 = 36_000.0;

/// Three cameras that roll through three takes of a recorder with time references.
pub(crate) fn rolling_on(seed: u64) -> Shoot {
    let mut rng = dice(seed, 25);
    let sound = world(400.0, &mut rng);
    let room = Room::new(0.3 + 0.4 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    let takes = [(1.0, 90.0 + 20.0 * rng.random::<f64>()), (140.0, 110.0), (280.0, 115.0)];
    // The longest is the reference's origin.
    for (from_s, length_s) in [takes[2], takes[1], takes[0]] {
        let plan = EarPlan { from_s, ..recorder(length_s) };
        shoot.record(0, 0, &sound, &room, &plan, true, rng.random());
        if let Some(own) = shoot.takes.last_mut() {
            own.time_reference_s = Some(BEGIN_S + from_s);
        }
    }
    for device in 1..=3 {
        let (from_s, during) = (1.0 + 20.0 * rng.random::<f64>(), takes[rng.random_range(0..3)]);
        let lost_s = 0.02 * 50_f64.powf(rng.random::<f64>());
        let at_s = during.0 - from_s + 25.0 + (during.1 - 40.0) * rng.random::<f64>();
        let plan = EarPlan {
            from_s,
            length_s: 396.0 - from_s,
            distance_m: 1.0 + 4.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 12.0,
            gaps: vec![Gap { at_s, lost_s }],
            ..EarPlan::default()
        };
        shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}
