//! The shoot days of a pass, each placed by itself.

use super::{
    findings::{FoundDay, asides},
    outcome::no_reference,
};
use crate::{
    error::ApiError,
    heard_day::{Listened, axis_zero},
};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    sync::{
        Arrival, DayClip, DayError, DayPlan, Mode, PlacedDay, Step, axis_origin, find_day, pick_reference,
        shoot_days, weigh_day,
    },
};
use metaxis_media::MediaError;
use metaxis_store::{DayView, PassPlan, PlacementView, StoredClip};
use std::ops::ControlFlow;

/// The shoot days of the clips that take part, in their order, each with its clips by their numbers in `taking`. Performances
/// to a track are of no day.
pub(super) fn days_of(taking: &[StoredClip], day: &DayView, mode: Mode) -> Vec<Vec<usize>> {
    if mode == Mode::Playback {
        return vec![(0..taking.len()).collect()];
    }
    let named = |clip: &StoredClip| day.clips.iter().find(|own| own.id == clip.id)?.day.as_deref();
    let names: Vec<Option<&str>> = taking.iter().map(named).collect();
    shoot_days(&names)
}

/// A day that was placed, what was found on it, and the device whose clock is its axis.
pub(super) struct Placed {
    pub day: PlacedDay,
    pub found: FoundDay,
    pub reference: DeviceId,
}

/// One of the days that a pass places.
pub(super) struct ToPlace<'a> {
    /// Its clips, by their numbers in `listened`.
    pub numbers: &'a [usize],
    /// The same as the engine sees them.
    pub clips: &'a [DayClip<'a>],
    /// All clips.
    pub listened: &'a [Listened],
    /// How many days after the axis's day it lies.
    pub after: i64,
    /// The device asked for.
    pub reference: Option<DeviceId>,
    /// Whether another device will do where that one recorded nothing.
    pub any: bool,
}

impl ToPlace<'_> {
    /// Places it; what a person set aside stays so. `flow` is told of clips by their numbers in `listened`, and the time of day
    /// at the axis's zero by its own clip's clock.
    pub fn place(
        self,
        plan: &PassPlan,
        before: &[PlacementView],
        flow: &(dyn Fn(Step, Option<f64>) -> ControlFlow<()> + Sync),
    ) -> Result<Placed, ApiError> {
        let Self { numbers, clips, listened, after, .. } = self;
        let reference = self.reference().ok_or_else(no_reference)?;
        let day_plan = DayPlan { reference, origin: None, effort: plan.effort, mode: plan.mode };
        let failed = |e: DayError| match e {
            DayError::Stopped => MediaError::Stopped.into(),
            DayError::NoReference => no_reference(),
        };
        let origin = axis_origin(clips, &day_plan).map(|origin| &listened[numbers[origin]].facts);
        let zero_s = origin.and_then(|facts| facts.time_reference_s().or_else(|| facts.own_clock_s()));
        let known = |step: Step| {
            let news = step.news.map(|news| Arrival { clip: numbers[news.clip], ..news });
            flow(Step { news, ..step }, zero_s)
        };
        let found = find_day(clips, day_plan, &known).map_err(failed)?;
        let ids: Vec<ClipId> = numbers.iter().map(|&number| listened[number].id).collect();
        let result = weigh_day(clips, day_plan, &found, &asides(&ids, before)).map_err(failed)?;
        let zero = axis_zero(&listened[numbers[result.reference]].facts, &result.islands);
        let plan = DayPlan { origin: Some(result.reference), ..day_plan };
        let day = PlacedDay { clips: numbers.to_vec(), after, zero_s: zero.seconds(), result };
        Ok(Placed { day, found: FoundDay { clips: ids, plan, found }, reference: DeviceId(reference as i64) })
    }

    /// The device asked for; another where that one recorded nothing that day, and where nobody asked.
    fn reference(&self) -> Option<usize> {
        let asked = self.reference.map(|device| device.0 as usize);
        let heard = |device: &usize| self.clips.iter().any(|clip| clip.device == *device && clip.is_heard());
        asked.filter(|device| !self.any || heard(device)).or_else(|| pick_reference(self.clips))
    }
}
