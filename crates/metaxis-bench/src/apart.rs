//! A day of takes that nothing ties to each other but the devices' clocks: the recorder has no time reference and is
//! stopped after each.

use crate::{
    Shoot,
    world::{crystal, dice, programme},
};
use metaxis_core::{
    signal::LISTEN_RATE,
    sync::{Effort, EvidenceKind, Label, Mode},
};
use metaxis_shoot::field::{EarPlan, Room};
use rand::Rng;

/// Takes of a day.
const TAKES: usize = 13;
/// Time of day at which the first begins, seconds.
const BEGIN_S: f64 = 32_400.0;
/// Seconds by which the clocks of the recorder and the cameras are fast: one is set to another zone.
const FAST_S: [f64; 4] = [0.0, 3_600.0, -17.0, 41.0];
/// Camera 3 comes after lunch, when this many takes are done.
const LUNCH: usize = 7;

fn by_clock(true_s: f64) -> Label {
    Label { kind: EvidenceKind::DeviceClock, time_s: true_s.floor(), sigma_s: 1.0, unit_s: 1.0 }
}

pub(crate) fn apart(seed: u64) -> Shoot {
    let mut rng = dice(seed, 15);
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    let clocks = [0.0, 1.0, 2.0, 3.0].map(|_| crystal(&mut rng));
    let mut day_s = BEGIN_S;
    for take in 0..TAKES {
        // The first is the longest: its clock starts the axis.
        let length_s = if take == 0 { 130.0 } else { 30.0 + 80.0 * rng.random::<f64>() };
        let sound = programme(&mut rng).make(length_s + 20.0, LISTEN_RATE);
        let room = Room::new(0.3 + 0.4 * rng.random::<f64>(), rng.random());
        shoot.worlds_s.push(day_s);
        let ran: Vec<usize> = (1..=3)
            .filter(|&camera| match camera {
                3 => take >= LUNCH,
                _ => take == 0 || rng.random_range(0..5) > 0,
            })
            .collect();
        for device in [0].into_iter().chain(ran.iter().copied()) {
            // Cameras are started around the recorder, and one starts in the middle.
            let late_s = if device == 0 { 5.0 } else { 9.0 * rng.random::<f64>() };
            let own_s =
                if device == 0 { length_s } else { (length_s - 5.0) * (0.5 + 0.5 * rng.random::<f64>()) };
            let plan = EarPlan {
                from_s: late_s,
                length_s: own_s,
                distance_m: if device == 0 { 1.0 } else { 1.0 + 6.0 * rng.random::<f64>() },
                clock_ppm: clocks[device],
                signal_to_noise_db: if device == 0 { 30.0 } else { 10.0 },
                ..EarPlan::default()
            };
            let due = !ran.is_empty();
            shoot.record(device, take, &sound, &room, &plan, due, rng.random());
            if let Some(own) = shoot.takes.last_mut() {
                own.labels = vec![by_clock(day_s + late_s + FAST_S[device])];
            }
        }
        day_s += length_s + 60.0 + 900.0 * rng.random::<f64>();
    }
    shoot
}
