//! Groups proposed from placements, and which frame of which clip is on screen when.

mod common;

use common::{a_group, at, camera, recorder};
use metaxis_core::{
    clip::{ClipId, DeviceId},
    group::{GroupClip, propose_groups},
    sync::Placement,
    time::Tick,
};

#[test]
fn what_ran_together_is_a_group_with_an_angle_a_device() {
    let (_, group) = a_group();
    assert_eq!(group.start.to_string(), "09:14:00:00");
    assert_eq!((group.frames, group.rate().to_string()), (750, "25".into()));
    assert_eq!(group.angles.iter().map(|a| a.device.0).collect::<Vec<_>>(), [1, 2]);
    assert_eq!(group.sound.as_ref().map(|s| s.device.0), Some(9));
    let parts: Vec<_> = group.angles[1].parts.iter().map(|p| (p.from_frame, p.to_frame)).collect();
    assert_eq!(parts, [(100, 350), (351, 601)], "a frame of nothing lies between the two files");
    assert_eq!(group.covered_by_all(), Some((100, 350)));
}

#[test]
fn the_clip_frame_is_the_one_in_the_middle_of_the_group_frame() {
    let (_, group) = a_group();
    let [a, c] = [&group.angles[0].parts[0], &group.angles[1].parts[0]];
    assert_eq!(group.clip_frame(a, 50), 0);
    assert_eq!(group.clip_frame(a, 51), 1);
    // At 50 fps the middle of group frame 100 is the boundary of frames 0 and 1; 40 ppm decides it.
    assert_eq!(group.clip_frame(c, 100), 1);
    assert_eq!(group.clip_frame(c, 349), 499);
}

#[test]
fn silence_splits_and_pictures_are_needed() {
    let facts = [camera(10.0, 25), camera(10.0, 25), recorder(10.0)];
    let placed = [at(0.0, 10.0, 0.0), at(60.0, 10.0, 0.0), at(120.0, 10.0, 0.0)];
    let lost = Placement::unplaced("nowhere");
    let mut clips: Vec<GroupClip> = (0..3)
        .map(|i| GroupClip {
            id: ClipId(i as i64),
            device: DeviceId(i as i64),
            facts: &facts[i],
            placement: &placed[i],
            reference: i == 2,
        })
        .collect();
    clips.push(GroupClip {
        id: ClipId(3),
        device: DeviceId(0),
        facts: &facts[0],
        placement: &lost,
        reference: false,
    });
    let order: Vec<DeviceId> = (0..3).map(DeviceId).collect();
    let groups = propose_groups(&clips, Tick(0), &order);
    assert_eq!(groups.len(), 2, "the recorder alone makes no group, and the unplaced clip is in none");
    assert!(groups.iter().all(|group| group.angles.len() == 1 && group.sound.is_none()));
}

#[test]
fn a_group_over_midnight_keeps_its_labels_and_its_axis_together() {
    let facts = [camera(10.0, 25)];
    let placed = [at(5.0, 10.0, 0.0)];
    let clips = [GroupClip {
        id: ClipId(0),
        device: DeviceId(0),
        facts: &facts[0],
        placement: &placed[0],
        reference: false,
    }];
    let groups = propose_groups(&clips, Tick::from_seconds(86_400.0 - 2.0), &[DeviceId(0)]);
    assert_eq!(groups[0].start.to_string(), "00:00:03:00");
    assert_eq!(groups[0].frame_start(0), Tick::from_seconds(5.0));
    assert_eq!(groups[0].frame_at(Tick::from_seconds(6.0)), 25);
}
