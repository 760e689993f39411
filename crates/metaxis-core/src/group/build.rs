//! A group made of clips that lie on the axis.

use super::{
    Angle, AngleId, AnglePart, Group, GroupDay, PlacedClip,
    lanes::{lanes, one_lane},
};
use crate::{
    clip::DeviceId,
    sync::Stretch,
    time::{FrameRate, Tick, Timecode},
};

impl PlacedClip<'_> {
    /// Its stretches with the axis times from which to which it has something to show (or, without a picture, to hear): a
    /// picture may begin before its sound, and end before or behind it.
    fn shown(&self) -> Vec<(Stretch, f64, f64)> {
        let delay_s = self.facts.picture_delay_s();
        let range = self.facts.picture.as_ref().map(|own| (delay_s, delay_s + own.duration_s));
        let all = &self.placement.stretches;
        let part = |(number, own): (usize, &Stretch)| {
            let (first, last) = (number == 0, number + 1 == all.len());
            let (from_s, to_s) = range.map_or((own.clip_start_s, own.clip_end_s), |(from_s, to_s)| {
                (
                    if first { from_s } else { own.clip_start_s.max(from_s) },
                    if last { to_s } else { own.clip_end_s.min(to_s) },
                )
            });
            (from_s < to_s).then(|| (*own, own.axis_s(from_s), own.axis_s(to_s)))
        };
        all.iter().enumerate().filter_map(part).collect()
    }

    /// From when to when it runs, picture and sound.
    pub(super) fn extent(&self) -> Option<(f64, f64)> {
        let own = self.placement.extent_s()?;
        let shown = self.shown();
        let seen = shown.first().zip(shown.last()).map_or(own, |(first, last)| (first.1, last.2));
        Some((own.0.min(seen.0), own.1.max(seen.1)))
    }
}

/// From when to when clips run.
pub(super) fn whole(run: &[&PlacedClip]) -> (f64, f64) {
    let extents = run.iter().filter_map(|clip| clip.extent());
    extents.fold((f64::INFINITY, f64::NEG_INFINITY), |all, own| (all.0.min(own.0), all.1.max(own.1)))
}

/// What a group is made of.
pub(super) struct Parts<'a> {
    /// The clips that take part.
    pub run: &'a [&'a PlacedClip<'a>],
    /// From when to when it reaches on the axis, seconds; all of its clips unless given.
    pub extent: Option<(f64, f64)>,
    /// The day that they are of.
    pub day: &'a GroupDay<'a>,
}

/// Makes a group of its parts; `None` where nothing of them is a picture.
pub(super) fn build(parts: &Parts, name: String) -> Option<Group> {
    let Parts { run, extent, day } = *parts;
    let axis_zero = day.axis_zero;
    let pictures: Vec<_> = run.iter().filter_map(|clip| clip.facts.picture.as_ref()).collect();
    // A device counts once, into however many files it split its day.
    let mut rates: Vec<(DeviceId, FrameRate)> = run
        .iter()
        .filter_map(|clip| Some((clip.device, clip.facts.picture.as_ref()?.rate.snapped())))
        .collect();
    rates.sort_by_key(|(device, rate)| (*device, rate.num(), rate.den()));
    rates.dedup();
    // A time-lapse lies in the group at its own rate, and has no say in how that counts.
    let fit: Vec<FrameRate> = rates.iter().map(|(_, rate)| *rate).filter(|rate| rate.can_be_cut()).collect();
    rates.first()?;
    let rate = common_rate(&fit).unwrap_or(FrameRate::FPS_25);
    let smallest = pictures.iter().min_by_key(|p| u64::from(p.width) * u64::from(p.height))?;
    let (from, to) = extent.unwrap_or_else(|| whole(run));
    let label_at = |axis_s: f64| (Tick::from_seconds(axis_s) + axis_zero).frame(rate);
    let first = label_at(from);
    let mut group = Group {
        name,
        start: Timecode::new(first, rate, counts_drop(run, rate)),
        axis_zero,
        component: run[0].placement.component,
        frames: (label_at(to) - first).max(1),
        width: smallest.width,
        height: smallest.height,
        angles: vec![],
        sound: None,
        window: None,
        removed: vec![],
        seams: vec![],
        grid: None,
    };
    // Labels wrap at midnight; the axis does not. Keep the two together.
    let wrapped = first - group.start.frames;
    group.axis_zero = axis_zero - Tick::of_frame(wrapped, rate);
    // Behind the numbers of all devices, the same for the same device and rank in every group of a day.
    let further = day.order.iter().map(|device| device.0).max().unwrap_or(0) + 1;
    for (number, &device) in day.order.iter().enumerate() {
        let own: Vec<&PlacedClip> = run.iter().copied().filter(|clip| clip.device == device).collect();
        let takes = own.iter().filter(|clip| clip.facts.picture.is_some()).map(|clip| group.parts_of(clip));
        for (rank, parts) in lanes(takes.collect(), &group, day.to_track).into_iter().enumerate() {
            let mut angle = Angle::of(device, parts);
            if rank > 0 {
                angle.id = AngleId(further + ((rank - 1) * day.order.len() + number) as i64);
            }
            group.angles.push(angle);
        }
        if own.iter().any(|clip| clip.reference && clip.facts.sound.is_some()) {
            group.sound = Some(Angle::of(device, one_lane(own.iter().flat_map(|clip| group.parts_of(clip)))));
        }
    }
    (!group.angles.is_empty()).then_some(group)
}

/// Whether a group of a rate counts drop-frame: as most of its cameras do that count at it, longest first.
fn counts_drop(run: &[&PlacedClip], rate: FrameRate) -> bool {
    let (mut dropping_s, mut other_s) = (0.0, 0.0);
    for facts in run.iter().map(|clip| clip.facts).filter(|facts| facts.picture.is_some()) {
        // A count at half the rate or twice counts the same seconds.
        let Some(label) = facts.timecode.filter(|label| label.rate.can_drop()) else { continue };
        *(if label.drop { &mut dropping_s } else { &mut other_s }) += facts.duration_s;
    }
    rate.can_drop() && dropping_s > other_s
}

/// The most frequent rate, the lower one on a tie.
fn common_rate(rates: &[FrameRate]) -> Option<FrameRate> {
    let count = |rate: &FrameRate| rates.iter().filter(|other| *other == rate).count();
    rates.iter().copied().max_by(|a, b| count(a).cmp(&count(b)).then(b.as_f64().total_cmp(&a.as_f64())))
}

impl Group {
    /// The frame from which on something is on screen that begins at a moment of the axis: a frame belongs to what is there in its
    /// middle, so it is that before the edge, half a frame on. May lie outside the group.
    pub(super) fn edge(&self, axis_s: f64) -> i64 {
        self.frame_at(Tick::from_seconds(axis_s + 0.5 / self.rate().as_f64()))
    }

    /// The parts of a clip that lie in the group.
    pub fn parts_of(&self, clip: &PlacedClip) -> Vec<AnglePart> {
        let picture = clip.facts.picture.as_ref();
        let still = picture.is_some_and(|picture| picture.still);
        // A still has no rate of its own.
        let rate = picture.filter(|_| !still).map_or(self.rate(), |picture| picture.rate);
        let picture_delay_s = clip.facts.picture_delay_s();
        let edge = |axis_s: f64| self.edge(axis_s).clamp(0, self.frames);
        let part = |(stretch, begins_s, ends_s): (Stretch, f64, f64)| {
            let (from_frame, to_frame) = (edge(begins_s), edge(ends_s));
            let own =
                AnglePart { clip: clip.id, from_frame, to_frame, stretch, picture_delay_s, rate, still };
            (from_frame < to_frame).then_some(own)
        };
        clip.shown().into_iter().filter_map(part).collect()
    }
}
