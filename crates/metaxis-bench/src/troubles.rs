//! What goes wrong outside: telephones, people who walk, wind, hands, doors.

use crate::{
    Shoot,
    world::{crystal, dice, recorder, world},
};
use metaxis_core::sync::{Effort, Mode};
use metaxis_shoot::field::{Course, EarPlan, Pickup, Room};
use rand::Rng;
use rand_chacha::ChaCha8Rng;

/// Length of what is to be heard, seconds, and devices beside the recorder.
const LENGTH_S: f64 = 240.0;
const DEVICES: usize = 6;

/// A recorder, and six devices with one clip each of 25 to 75 s; `trouble` says what is wrong with a device's.
fn troubled(mut rng: ChaCha8Rng, trouble: &dyn Fn(usize, EarPlan, &mut ChaCha8Rng) -> EarPlan) -> Shoot {
    let sound = world(LENGTH_S, &mut rng);
    let room = Room::new(0.3 + 0.5 * rng.random::<f64>(), rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    shoot.record(0, 0, &sound, &room, &recorder(LENGTH_S - 2.0), true, rng.random());
    for device in 1..=DEVICES {
        let plan = EarPlan {
            from_s: 5.0 + 150.0 * rng.random::<f64>(),
            length_s: 25.0 + 50.0 * rng.random::<f64>(),
            distance_m: 1.0 + 5.0 * rng.random::<f64>(),
            clock_ppm: crystal(&mut rng),
            signal_to_noise_db: 15.0,
            ..EarPlan::default()
        };
        let plan = trouble(device, plan, &mut rng);
        shoot.record(device, 0, &sound, &room, &plan, true, rng.random());
    }
    shoot
}

/// A gate, 300 to 3400 Hz, gain that follows, packets lost: 0 to 8 %.
pub(crate) fn telephones(seed: u64) -> Shoot {
    troubled(dice(seed, 21), &|device, plan, _| EarPlan {
        up_to_hz: 3_400.0,
        automatic_gain: true,
        pickup: Pickup::Omni,
        telephone: Some(0.016 * (device - 1) as f64),
        ..plan
    })
}

/// People who walk from 1 m to 4, 8 or 14 m and back: their sound comes up to 38 ms later than before. A clip is right at
/// any of their places.
pub(crate) fn walking(seed: u64) -> Shoot {
    troubled(dice(seed, 22), &|device, plan, _| {
        let far_m = [4.0, 8.0, 14.0][device % 3];
        EarPlan { distance_m: 0.5 * (1.0 + far_m), course: Course::Walks { near_m: 1.0, far_m }, ..plan }
    })
}

/// Wind of -6 to +18 dB, a hand on every other device.
pub(crate) fn wind_and_hands(seed: u64) -> Shoot {
    troubled(dice(seed, 23), &|device, plan, _| EarPlan {
        wind_db: Some(-12.0 + 6.0 * (device - 1) as f64).filter(|_| device > 1),
        hand: device % 2 == 1,
        pickup: Pickup::Omni,
        ..plan
    })
}

/// Through a door into another room in the middle of the clip.
pub(crate) fn room_changes(seed: u64) -> Shoot {
    troubled(dice(seed, 24), &|_, plan, rng| {
        let at_s = plan.length_s * (0.3 + 0.4 * rng.random::<f64>());
        let room = Room::new(0.2 + 1.2 * rng.random::<f64>(), rng.random());
        EarPlan { course: Course::Changes { at_s, room }, pickup: Pickup::Omni, ..plan }
    })
}
