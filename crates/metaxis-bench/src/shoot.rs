//! A shoot in memory: takes with their truth, and a run of the engine over them.

use crate::ears::{Ear, ears};
use metaxis_core::{
    signal::LISTEN_RATE,
    sync::{DayClip, DayPlan, DayResult, Effort, GivenDistance, Label, Mode, SampleSource, place_day},
};
use metaxis_shoot::field::{EarPlan, Room, TrueTime, hear};
use rayon::prelude::*;
use std::{ops::ControlFlow, time::Instant};

/// One recording.
pub struct Take {
    /// Device; 0 is the reference.
    pub device: usize,
    /// What it recorded: takes of one world can be compared.
    pub world: usize,
    /// Samples at [`LISTEN_RATE`]: of its only channel, or of the first.
    pub samples: Vec<f32>,
    /// Its channels, where it has several.
    pub channels: Vec<Vec<f32>>,
    /// The time of the world that is heard at each moment of its own.
    pub truth: TrueTime,
    /// Whether the engine is asked to find it: overlaps enough with something, loud enough.
    pub due: bool,
    /// Time references are those of the world's time plus this, where it has one.
    pub time_reference_s: Option<f64>,
    /// When it began by its own labels.
    pub labels: Vec<Label>,
    /// It has no microphone.
    pub silent: bool,
}

/// A whole shoot.
pub struct Shoot {
    /// The recordings; the first is the origin.
    pub takes: Vec<Take>,
    /// How it is synced.
    pub mode: Mode,
    /// How much is spent.
    pub effort: Effort,
    /// Devices whose timecode is so many frames late all day: what is to be named.
    pub late_frames: Vec<(usize, i64)>,
    /// Time of day at which each world begins, where that is asked for, seconds.
    pub worlds_s: Vec<f64>,
}

impl Shoot {
    /// An empty one.
    pub fn new(mode: Mode, effort: Effort) -> Self {
        Self { takes: vec![], mode, effort, late_frames: vec![], worlds_s: vec![] }
    }

    /// Adds a recording of `sound`.
    #[allow(clippy::too_many_arguments)]
    pub fn record(
        &mut self,
        device: usize,
        world: usize,
        sound: &[f32],
        room: &Room,
        plan: &EarPlan,
        due: bool,
        seed: u64,
    ) {
        let heard = hear(sound, LISTEN_RATE, room, plan, seed);
        self.takes.push(Take {
            device,
            world,
            samples: heard.samples,
            channels: vec![],
            truth: heard.truth,
            due,
            time_reference_s: None,
            labels: vec![],
            silent: false,
        });
    }

    /// Syncs it; the result and the seconds it took.
    pub fn sync(&self) -> (DayResult, f64) {
        let ears: Vec<Vec<Ear>> = self.takes.par_iter().map(ears).collect();
        let clips: Vec<DayClip> = self
            .takes
            .iter()
            .zip(&ears)
            .map(|(take, ears)| DayClip {
                device: take.device,
                duration_s: SampleSource::len(&take.samples) as f64 / f64::from(LISTEN_RATE),
                has_picture: take.device > 0,
                sounds: ears.iter().map(Ear::sound).collect(),
                time_reference_s: take.time_reference_s,
                labels: take.labels.clone(),
                against_box: None,
                marks: vec![],
                distance: GivenDistance::None,
            })
            .collect();
        let plan = DayPlan { reference: 0, origin: Some(0), effort: self.effort, mode: self.mode };
        let begin = Instant::now();
        let result = place_day(&clips, plan, &|_| ControlFlow::Continue(())).expect("the origin has sound");
        (result, begin.elapsed().as_secs_f64())
    }
}
