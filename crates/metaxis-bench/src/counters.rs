//! Shoots on which cameras count in every way there is, some of their clips without sound.

use crate::{
    Shoot, Take,
    world::{dice, recorder, world},
};
use metaxis_core::sync::{Effort, EvidenceKind, Label, Mode};
use metaxis_shoot::field::{EarPlan, Room};
use rand::Rng;

const FRAME_S: f64 = 0.04;
/// Time of day at which the world begins.
const BEGIN_S: f64 = 33_000.0;

/// How a camera counts.
#[derive(Clone, Copy)]
enum Counter {
    /// Timecode in its files, so many frames late.
    File(i64),
    /// Timecode on its sound, so many frames late.
    Signal(i64),
    /// The same label at the start of every clip.
    Standing,
    /// It counts only while recording.
    WhileRecording,
    /// It was set anew in the middle of the day, by an odd number of frames.
    SetAnew,
    /// A clock of whole seconds, so many seconds fast.
    Clock(f64),
}

/// Clips of a camera; the last two have no sound.
const CLIPS: usize = 5;
const HEARD: usize = 3;
const CLIP_S: f64 = 25.0;
const WORLD_S: f64 = 200.0;

impl Counter {
    fn label(self, clip: usize, start_s: f64) -> Label {
        let true_s = BEGIN_S + start_s;
        let framed = |seconds: f64| (seconds / FRAME_S + 1e-6).floor() * FRAME_S;
        let of = |kind, time_s, sigma_s, unit_s| Label { kind, time_s, sigma_s, unit_s };
        let file = |seconds: f64| of(EvidenceKind::FileTimecode, framed(seconds), 0.289 * FRAME_S, FRAME_S);
        match self {
            Self::File(late) => file(true_s + late as f64 * FRAME_S),
            Self::Signal(late) => {
                of(EvidenceKind::AudioTimecode, true_s + late as f64 * FRAME_S, 1e-4, FRAME_S)
            }
            Self::Standing => file(3_600.0),
            Self::WhileRecording => file(clip as f64 * CLIP_S),
            Self::SetAnew => file(true_s + if clip < 2 { 0.0 } else { 4_321.0 }),
            Self::Clock(fast_s) => of(EvidenceKind::DeviceClock, (true_s + fast_s).floor(), 1.0, 1.0),
        }
    }

    /// Frames by which a pass ought to call it late.
    fn late_frames(self) -> Option<i64> {
        match self {
            Self::File(late) | Self::Signal(late) => Some(late),
            _ => None,
        }
    }
}

/// One shoot: a recorder with a time reference, and a camera for each way to count.
pub(crate) fn timecode(seed: u64) -> Shoot {
    let mut rng = dice(seed, 11);
    let sound = world(WORLD_S, &mut rng);
    let room = Room::new(0.4, rng.random());
    let mut shoot = Shoot::new(Mode::Day, Effort::Normal);
    let plan = recorder(WORLD_S - 2.0);
    shoot.record(0, 0, &sound, &room, &plan, true, rng.random());
    shoot.takes[0].labels = vec![Label {
        kind: EvidenceKind::FileTimecode,
        time_s: BEGIN_S + plan.from_s,
        sigma_s: 5e-5,
        unit_s: FRAME_S,
    }];
    let odd =
        |rng: &mut rand_chacha::ChaCha8Rng| (2 + rng.random_range(0..20)) * if rng.random() { 1 } else { -1 };
    let counters = [
        Counter::File(0),
        Counter::File(odd(&mut rng)),
        Counter::Signal(0),
        Counter::Signal(odd(&mut rng)),
        Counter::Standing,
        Counter::WhileRecording,
        Counter::SetAnew,
        Counter::Clock(3_600.0 * f64::from(rng.random_range(-3..3)) + 60.0 * rng.random::<f64>()),
    ];
    for (i, counter) in counters.into_iter().enumerate() {
        let device = i + 1;
        let (distance_m, clock_ppm) = (1.0 + 2.0 * rng.random::<f64>(), 30.0 * (rng.random::<f64>() - 0.5));
        shoot.late_frames.extend(counter.late_frames().map(|late| (device, late)));
        for clip in 0..CLIPS {
            let from_s = 3.0 + 38.0 * clip as f64 + 10.0 * rng.random::<f64>();
            let plan = EarPlan {
                from_s,
                length_s: CLIP_S,
                distance_m,
                clock_ppm,
                signal_to_noise_db: 15.0,
                ..EarPlan::default()
            };
            let silent = clip >= HEARD;
            let due = !silent || counter.late_frames().is_some();
            shoot.record(device, 0, &sound, &room, &plan, due, rng.random());
            if let Some(take) = shoot.takes.last_mut() {
                label(take, counter.label(clip, from_s), silent);
            }
        }
    }
    shoot
}

fn label(take: &mut Take, label: Label, silent: bool) {
    take.labels = vec![label];
    take.silent = silent;
}
