//! Groups proposed from placements: clips that ran together, split where nothing ran.

use super::{Angle, AnglePart, Group};
use crate::{
    clip::{ClipFacts, ClipId, DeviceId},
    sync::Placement,
    time::{FrameRate, Tick, Timecode},
};

/// A placed clip as the proposer sees it.
pub struct PlacedClip<'a> {
    /// The clip.
    pub id: ClipId,
    /// Its device.
    pub device: DeviceId,
    /// What its file says.
    pub facts: &'a ClipFacts,
    /// Where it lies.
    pub placement: &'a Placement,
    /// Whether its device is the reference.
    pub reference: bool,
}

impl PlacedClip<'_> {
    fn extent(&self) -> Option<(f64, f64)> {
        self.placement.extent_s()
    }
}

/// Proposes groups in time order. `axis_zero` is the time of day of the axis's zero, where known. Runs
/// without a picture make no group. Angles follow the order of `device_order`.
///
/// ```
/// use metaxis_core::{
///     clip::{ClipFacts, ClipId, DeviceId, PictureFacts},
///     group::{PlacedClip, propose_groups},
///     sync::{Placement, Stretch},
///     time::{FrameRate, Tick},
/// };
///
/// // Two cameras at 25 frames a second; the second begins four seconds after the first.
/// let picture = PictureFacts {
///     rate: FrameRate::FPS_25,
///     constant_rate: true,
///     width: 1920,
///     height: 1080,
///     codec: "h264".into(),
///     start_s: 0.0,
///     duration_s: 30.0,
///     frames: Some(750),
///     still: false,
/// };
/// let facts = ClipFacts { duration_s: 30.0, picture: Some(picture), ..ClipFacts::default() };
/// let placed = [0.0, 4.0].map(|start_s| Placement {
///     stretches: vec![Stretch::whole(30.0, start_s)],
///     ..Placement::unplaced("")
/// });
/// let clip = |id: i64, placement| PlacedClip {
///     id: ClipId(id),
///     device: DeviceId(id),
///     facts: &facts,
///     placement,
///     reference: false,
/// };
/// let groups = propose_groups(&[clip(1, &placed[0]), clip(2, &placed[1])], Tick(0), &[DeviceId(2), DeviceId(1)]);
///
/// assert_eq!(groups.len(), 1);
/// assert_eq!((groups[0].frames, groups[0].covered_by_all()), (850, Some((100, 750))));
/// assert_eq!(groups[0].angles[0].device, DeviceId(2));
/// ```
pub fn propose_groups(clips: &[PlacedClip], axis_zero: Tick, device_order: &[DeviceId]) -> Vec<Group> {
    let mut placed: Vec<(&PlacedClip, f64, f64)> =
        clips.iter().filter_map(|clip| clip.extent().map(|(from, to)| (clip, from, to))).collect();
    placed.sort_by(|a, b| a.0.placement.component.cmp(&b.0.placement.component).then(a.1.total_cmp(&b.1)));
    let mut runs: Vec<(f64, Vec<&PlacedClip>)> = vec![];
    for (clip, from, to) in placed {
        match runs.last_mut() {
            Some((end, run)) if from < *end && run[0].placement.component == clip.placement.component => {
                *end = end.max(to);
                run.push(clip);
            }
            _ => runs.push((to, vec![clip])),
        }
    }
    let begins = |run: &[&PlacedClip]| run[0].extent().map_or(0.0, |(from, _)| from);
    runs.sort_by(|a, b| begins(&a.1).total_cmp(&begins(&b.1)));
    let mut groups: Vec<Group> = vec![];
    for (_, run) in runs {
        let number = groups.len() + 1;
        if let Some(mut group) = build(&run, axis_zero, device_order, number) {
            group.name = free_name(&groups, group.name);
            groups.push(group);
        }
    }
    groups
}

/// The name, or where another group has it the name with the first number that is free.
fn free_name(groups: &[Group], name: String) -> String {
    let free = |name: &String| groups.iter().all(|other| other.name != *name);
    let mut names = (2..).map(|number| format!("{name} ({number})"));
    if free(&name) { name } else { names.find(free).unwrap_or_default() }
}

fn build(run: &[&PlacedClip], axis_zero: Tick, device_order: &[DeviceId], number: usize) -> Option<Group> {
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
    let extents: Vec<(f64, f64)> = run.iter().filter_map(|clip| clip.extent()).collect();
    let from = extents.iter().map(|e| e.0).fold(f64::INFINITY, f64::min);
    let to = extents.iter().map(|e| e.1).fold(f64::NEG_INFINITY, f64::max);
    let label_at = |axis_s: f64| (Tick::from_seconds(axis_s) + axis_zero).frame(rate);
    let first = label_at(from);
    let mut group = Group {
        name: name(run, number),
        start: Timecode::new(first, rate, counts_drop(run, rate)),
        axis_zero,
        component: run[0].placement.component,
        frames: (label_at(to) - first).max(1),
        width: smallest.width,
        height: smallest.height,
        angles: vec![],
        sound: None,
    };
    // Labels wrap at midnight; the axis does not. Keep the two together.
    let wrapped = first - group.start.frames;
    group.axis_zero = axis_zero - Tick::of_frame(wrapped, rate);
    for &device in device_order {
        let own: Vec<&PlacedClip> = run.iter().copied().filter(|clip| clip.device == device).collect();
        let seen: Vec<&PlacedClip> =
            own.iter().copied().filter(|clip| clip.facts.picture.is_some()).collect();
        if !seen.is_empty() {
            let angle = angle(&group, device, &seen);
            group.angles.push(angle);
        }
        if own.iter().any(|clip| clip.reference && clip.facts.sound.is_some()) {
            group.sound = Some(angle(&group, device, &own));
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

fn name(run: &[&PlacedClip], number: usize) -> String {
    let titled = run.iter().find(|clip| clip.reference && clip.facts.scene.is_some());
    match titled.map(|clip| (&clip.facts.scene, &clip.facts.take)) {
        Some((Some(scene), Some(take))) => format!("{scene} / {take}"),
        Some((Some(scene), None)) => scene.clone(),
        _ => format!("Group {number}"),
    }
}

fn angle(group: &Group, device: DeviceId, clips: &[&PlacedClip]) -> Angle {
    let mut parts = vec![];
    for clip in clips {
        let rate = clip.facts.picture.as_ref().map_or(group.rate(), |picture| picture.rate);
        let delay = clip.facts.picture_delay_s();
        for stretch in &clip.placement.stretches {
            // A frame belongs to the part on screen in its middle: the frame before the edge, half a frame on.
            let half = 0.5 / group.rate().as_f64();
            let edge = |axis_s: f64| group.frame_at(Tick::from_seconds(axis_s + half)).clamp(0, group.frames);
            let begins = stretch.axis_s(stretch.clip_start_s.max(delay.max(0.0)));
            let (from_frame, to_frame) = (edge(begins), edge(stretch.end_s()));
            if from_frame < to_frame {
                parts.push(AnglePart {
                    clip: clip.id,
                    from_frame,
                    to_frame,
                    stretch: *stretch,
                    picture_delay_s: delay,
                    rate,
                });
            }
        }
    }
    parts.sort_by_key(|part| part.from_frame);
    // Where clips of one device lie over each other, the earlier runs to its end.
    let mut end = 0;
    for part in &mut parts {
        part.from_frame = part.from_frame.max(end).min(part.to_frame);
        end = end.max(part.to_frame);
    }
    parts.retain(|part| part.from_frame < part.to_frame);
    Angle { device, parts }
}
