//! Groups proposed from placements, and which frame of which clip is on screen when.

use crate::common::{a_group, at, camera, placed_clips, ran_together, recorder};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{
        Angle, AngleId, Arrange, ArrangeError, Group, GroupBy, GroupDay, GroupFormat, PlacedClip, Slate,
        day_zero, propose_groups,
    },
    line::{Line, LineEdit},
    sync::{Placement, Stretch},
    time::{FrameRate, Tick, Timecode},
};
use proptest::prelude::*;

#[test]
fn what_ran_together_is_a_group_with_an_angle_a_device() {
    let (_, group) = a_group();
    assert_eq!(group.start.to_string(), "09:14:00:00");
    assert_eq!((group.frames, group.rate().to_string()), (750, "25".into()));
    assert_eq!(group.angles.iter().map(|a| a.id.0).collect::<Vec<_>>(), [1, 2]);
    assert_eq!(group.sound.as_ref().map(|s| s.id.0), Some(9));
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
    let mut clips: Vec<PlacedClip> = (0..3)
        .map(|i| PlacedClip {
            id: ClipId(i as i64),
            device: DeviceId(i as i64),
            facts: &facts[i],
            placement: &placed[i],
            reference: i == 2,
        })
        .collect();
    clips.push(PlacedClip {
        id: ClipId(3),
        device: DeviceId(0),
        facts: &facts[0],
        placement: &lost,
        reference: false,
    });
    let order: Vec<DeviceId> = (0..3).map(DeviceId).collect();
    let groups = ran_together(&clips, Tick(0), &order);
    assert_eq!(groups.len(), 2, "the recorder alone makes no group, and the unplaced clip is in none");
    assert!(groups.iter().all(|group| group.angles.len() == 1 && group.sound.is_none()));
}

#[test]
fn a_group_over_midnight_keeps_its_labels_and_its_axis_together() {
    let facts = [camera(10.0, 25)];
    let placed = [at(5.0, 10.0, 0.0)];
    let clips = [PlacedClip {
        id: ClipId(0),
        device: DeviceId(0),
        facts: &facts[0],
        placement: &placed[0],
        reference: false,
    }];
    let groups = ran_together(&clips, Tick::from_seconds(86_400.0 - 2.0), &[DeviceId(0)]);
    assert_eq!(groups[0].start.to_string(), "00:00:03:00");
    assert_eq!(groups[0].frame_start(0), Tick::from_seconds(5.0));
    assert_eq!(groups[0].frame_at(Tick::from_seconds(6.0)), 25);
}

#[test]
fn a_group_counts_drop_frame_as_its_cameras_do() {
    let rate = FrameRate::new(30_000, 1001).expect("a rate");
    let clip = |seconds: f64, drop: Option<bool>| {
        let mut facts = camera(seconds, 30);
        facts.picture.as_mut().expect("a picture").rate = rate;
        facts.timecode = drop.map(|drop| Timecode::new(1_078_920, rate, drop));
        facts
    };
    let counts = |clips: [ClipFacts; 3]| {
        let placed = clips.each_ref().map(|facts| at(0.0, facts.duration_s, 0.0));
        let groups = ran_together(
            &placed_clips(&clips, &placed, &[1, 2, 3], None),
            Tick::of_frame(1_078_920, rate),
            &[DeviceId(1), DeviceId(2), DeviceId(3)],
        );
        groups[0].start.to_string()
    };
    // Ten hours by the clock, to the frame; counted without dropping that is 36 s more.
    assert_eq!(counts([clip(60.0, Some(true)), clip(50.0, Some(true)), clip(80.0, None)]), "10:00:00;00");
    assert_eq!(counts([clip(60.0, Some(false)), clip(50.0, None), clip(80.0, None)]), "09:59:24:00");
    assert_eq!(
        counts([clip(60.0, Some(false)), clip(50.0, Some(true)), clip(20.0, Some(true))]),
        "10:00:00;00"
    );
    // At a rate that cannot drop, nothing does.
    let mut slow = clip(60.0, Some(true));
    slow.picture.as_mut().expect("a picture").rate = FrameRate::FPS_25;
    assert!(!counts([slow, camera(20.0, 25), camera(20.0, 25)]).contains(';'));
}

#[test]
fn two_groups_never_have_one_name() {
    // Take 10 came first, then two runs of take 1: the name that begins alike is none of them.
    let named = |take: &str| {
        let mut facts = recorder(10.0);
        (facts.scene, facts.take) = (Some("1".into()), Some(take.into()));
        facts
    };
    let sound = [named("10"), named("1"), named("1")];
    let picture = camera(8.0, 25);
    let starts = [0.0, 30.0, 60.0];
    let placed: Vec<Placement> = starts.iter().map(|start_s| at(*start_s, 10.0, 0.0)).collect();
    let seen: Vec<Placement> = starts.iter().map(|start_s| at(*start_s + 1.0, 8.0, 0.0)).collect();
    let clip = |id: usize, device: i64, facts, placement| PlacedClip {
        id: ClipId(id as i64),
        device: DeviceId(device),
        facts,
        placement,
        reference: device == 9,
    };
    let clips: Vec<PlacedClip> = (0..3)
        .flat_map(|i| [clip(i, 9, &sound[i], &placed[i]), clip(10 + i, 1, &picture, &seen[i])])
        .collect();
    let names: Vec<String> = ran_together(&clips, Tick(0), &[DeviceId(1), DeviceId(9)])
        .into_iter()
        .map(|group| group.name)
        .collect();
    assert_eq!(names, ["1 / 10", "1 / 1", "1 / 1 (2)"]);
}

/// A morning of three takes, 20 s each, from 10, 50 and 90 s on. Two cameras begin 3 s before each and go on 2 s behind it; a
/// third rolls on all the time. The recorder is stopped between takes, or is not.
fn morning(recorder_stops: bool) -> (Vec<ClipFacts>, Vec<Placement>, Vec<i64>) {
    let starts = [10.0, 50.0, 90.0];
    let mut all: Vec<(ClipFacts, Placement, i64)> = vec![];
    for (number, start_s) in starts.iter().enumerate() {
        for device in [1, 2] {
            all.push((camera(25.0, 25), at(start_s - 3.0, 25.0, 0.0), device));
        }
        if recorder_stops {
            let mut facts = recorder(20.0);
            (facts.scene, facts.take) = (Some("4".into()), Some((number + 1).to_string()));
            all.push((facts, at(*start_s, 20.0, 0.0), 9));
        }
    }
    all.push((camera(130.0, 25), at(0.0, 130.0, 0.0), 3));
    if !recorder_stops {
        all.push((recorder(128.0), at(1.0, 128.0, 0.0), 9));
    }
    let mut apart = (vec![], vec![], vec![]);
    for (facts, placement, device) in all {
        apart.0.push(facts);
        apart.1.push(placement);
        apart.2.push(device);
    }
    apart
}

/// From when to when groups reach, seconds, with their names and angles.
fn reaching(
    (facts, placed, devices): &(Vec<ClipFacts>, Vec<Placement>, Vec<i64>),
    slates: &[Slate],
    by: GroupBy,
) -> Vec<(String, f64, f64, usize)> {
    let clips = placed_clips(facts, placed, devices, facts.iter().position(|own| own.picture.is_none()));
    let order: Vec<DeviceId> = [1, 2, 3, 9].map(DeviceId).to_vec();
    let day = GroupDay { clips: &clips, slates, axis_zero: Tick(0), order: &order, to_track: false };
    let end = |group: &metaxis_core::group::Group| group.frame_start(group.frames).seconds();
    propose_groups(&day, &by)
        .into_iter()
        .map(|group| (group.name.clone(), group.frame_start(0).seconds(), end(&group), group.angles.len()))
        .collect()
}

#[test]
fn takes_end_where_people_stopped_though_somebody_rolls_on() {
    let day = morning(true);
    let takes = reaching(&day, &[], GroupBy::Takes);
    let expected = [("4 / 1", 0.0, 32.0), ("4 / 2", 47.0, 72.0), ("4 / 3", 87.0, 130.0)];
    assert_eq!(takes.len(), 3, "{takes:?}");
    for ((name, from_s, to_s, angles), own) in takes.iter().zip(expected) {
        assert_eq!((name.as_str(), *from_s, *to_s, *angles), (own.0, own.1, own.2, 3));
    }
    // By what ran together it is one; a scene is all of its takes.
    assert_eq!(reaching(&day, &[], GroupBy::Runs).len(), 1);
    assert_eq!(reaching(&day, &[], GroupBy::Scenes), [("4".into(), 0.0, 130.0, 3)]);
    // Where fewer than three devices ran for five seconds, nothing was made.
    let pauses = reaching(&day, &[], GroupBy::Pauses { fewer_than: 3, least_s: 5.0 });
    let expected = [(7.0, 32.0), (47.0, 72.0), (87.0, 112.0)];
    assert_eq!(pauses.iter().map(|own| (own.1, own.2)).collect::<Vec<_>>(), expected);
    assert_eq!(reaching(&day, &[], GroupBy::Pauses { fewer_than: 3, least_s: 40.0 }).len(), 1);
    // A device's day, and all of it.
    let device = reaching(&day, &[], GroupBy::Device { device: DeviceId(1) });
    assert_eq!(device.iter().map(|own| (own.1, own.2)).collect::<Vec<_>>(), [(7.0, 112.0)]);
    assert_eq!(reaching(&day, &[], GroupBy::Day), [("Day".into(), 0.0, 130.0, 3)]);
}

#[test]
fn slates_tell_takes_apart_where_a_recorder_was_not_stopped() {
    let day = morning(false);
    assert_eq!(reaching(&day, &[], GroupBy::Takes).len(), 1);
    // Both cameras see each slate four seconds into their clips; one of them says what is on it.
    let slate = |clip: usize, name: Option<&str>| Slate {
        clip: ClipId(clip as i64),
        at_s: 4.0,
        take: name.map(Into::into),
    };
    let slates: Vec<Slate> = (0..3)
        .flat_map(|take| {
            [slate(2 * take, Some(["7 / 1", "7 / 2", "7 / 3"][take])), slate(2 * take + 1, None)]
        })
        .collect();
    let takes = reaching(&day, &slates, GroupBy::Takes);
    let spans: Vec<(&str, f64, f64)> = takes.iter().map(|own| (own.0.as_str(), own.1, own.2)).collect();
    assert_eq!(spans, [("7 / 1", 0.0, 32.0), ("7 / 2", 47.0, 72.0), ("7 / 3", 87.0, 130.0)]);
    // Where nobody stops at all, a take begins five seconds before its slate.
    let all = (
        vec![camera(100.0, 25), recorder(100.0)],
        vec![at(0.0, 100.0, 0.0), at(0.0, 100.0, 0.0)],
        vec![1, 9],
    );
    let on_one = |at_s: f64| Slate { clip: ClipId(0), at_s, take: None };
    let takes = reaching(&all, &[on_one(3.0), on_one(60.0)], GroupBy::Takes);
    assert_eq!(takes.iter().map(|own| (own.1, own.2)).collect::<Vec<_>>(), [(0.0, 55.0), (55.0, 100.0)]);
}

#[test]
fn an_angle_begins_and_ends_with_its_picture() {
    // The picture begins 0.4 s before its sound and ends 0.2 s before it does; another begins late.
    let clip = |start_s: f64, frames: i64| {
        let mut facts = camera(10.0, 25);
        let sound = recorder(10.0).sound;
        facts.sound = sound;
        let picture = facts.picture.as_mut().expect("a picture");
        (picture.start_s, picture.duration_s, picture.frames) = (start_s, frames as f64 / 25.0, Some(frames));
        facts
    };
    let facts = [clip(-0.4, 255), clip(0.2, 250)];
    let placed = [at(100.0, 10.0, 0.0), at(100.0, 10.0, 0.0)];
    let group =
        ran_together(&placed_clips(&facts, &placed, &[1, 2], None), Tick(0), &[DeviceId(1), DeviceId(2)])
            .remove(0);
    assert_eq!(group.frame_start(0).seconds(), 99.6);
    for (angle, own) in group.angles.iter().zip(&facts) {
        let part = &angle.parts[0];
        let frames = own.picture.as_ref().and_then(|picture| picture.frames).expect("a count");
        assert_eq!((part.to_frame - part.from_frame, group.clip_frame(part, part.from_frame)), (frames, 0));
        assert_eq!(group.clip_frame(part, part.to_frame - 1), frames - 1);
    }
    assert_eq!(group.angles.iter().map(|own| own.parts[0].from_frame).collect::<Vec<_>>(), [0, 15]);
}

/// A day: for each clip its device, start, length, rate and pictures a second.
fn any_day() -> impl Strategy<Value = Vec<(i64, f64, f64, f64, i64)>> {
    let rates = prop::sample::select(vec![24_i64, 25, 30, 50, 60]);
    prop::collection::vec((1..5_i64, 0.0..300.0_f64, 0.5..60.0_f64, -120.0..120.0_f64, rates), 1..14)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]
    #[test]
    fn groups_hold_every_picture_once_and_show_the_frame_of_their_moment(
        day in any_day(),
        zero_s in 0.0..86_400.0_f64,
    ) {
        let facts: Vec<_> = day.iter().map(|&(_, _, length, _, fps)| camera(length, fps)).collect();
        let placed: Vec<Placement> = day.iter().map(|&(_, start, length, ppm, _)| at(start, length, ppm)).collect();
        let devices: Vec<i64> = day.iter().map(|clip| clip.0).collect();
        let clips = placed_clips(&facts, &placed, &devices, None);
        let order: Vec<DeviceId> = (1..5).map(DeviceId).collect();
        let groups = ran_together(&clips, Tick::from_seconds(zero_s), &order);
        let mut names: Vec<&str> = groups.iter().map(|group| group.name.as_str()).collect();
        names.sort_unstable();
        names.dedup();
        prop_assert_eq!(names.len(), groups.len());
        let mut home = vec![None; day.len()];
        for (number, group) in groups.iter().enumerate() {
            prop_assert!(group.angles.windows(2).all(|pair| pair[0].device <= pair[1].device));
            let ids: std::collections::HashSet<AngleId> = group.angles.iter().map(|angle| angle.id).collect();
            prop_assert_eq!(ids.len(), group.angles.len());
            for angle in &group.angles {
                prop_assert!(angle.parts.windows(2).all(|pair| pair[0].to_frame <= pair[1].from_frame));
                for part in &angle.parts {
                    prop_assert!(0 <= part.from_frame && part.from_frame < part.to_frame && part.to_frame <= group.frames);
                    let i = part.clip.0 as usize;
                    prop_assert!(home[i].is_none_or(|other| other == number), "a clip is in one group");
                    home[i] = Some(number);
                    prop_assert_eq!(Some(DeviceId(day[i].0)), angle.device);
                    for frame in [part.from_frame, part.to_frame - 1] {
                        // Frames and times are each other's inverse, and the picture is the one of that moment.
                        prop_assert_eq!(group.frame_at(group.frame_start(frame)), frame);
                        let (start, end) = (group.frame_start(frame).seconds(), group.frame_start(frame + 1).seconds());
                        let shown_s = group.clip_frame(part, frame) as f64 / day[i].4 as f64;
                        let own_s = placed[i].stretches[0].clip_s(0.5 * (start + end)).max(0.0);
                        prop_assert!(shown_s <= own_s + 1e-6 && own_s < shown_s + 1.0 / day[i].4 as f64 + 1e-6);
                    }
                }
            }
            let first = group.frame_start(0).seconds();
            let begins = group.angles.iter().flat_map(|angle| &angle.parts).map(|part| placed[part.clip.0 as usize].stretches[0].start_s);
            prop_assert!(begins.fold(f64::INFINITY, f64::min) >= first - 1e-6, "nothing lies before frame 0");
            // As many angles run as are said, and every frame is told of once.
            let coverage = group.coverage();
            prop_assert_eq!((coverage[0].from, coverage[coverage.len() - 1].to), (0, group.frames));
            prop_assert!(coverage.windows(2).all(|pair| pair[0].to == pair[1].from && pair[0].angles != pair[1].angles));
            for own in &coverage {
                for frame in [own.from, (own.from + own.to) / 2, own.to - 1] {
                    let running = group.seen().filter(|angle| group.part_at(angle.id, frame).is_some()).count();
                    prop_assert_eq!(running, own.angles);
                }
            }
            if let Some((from, to)) = group.covered_by_all() {
                for frame in [from, (from + to) / 2, to - 1] {
                    prop_assert!(group.angles.iter().all(|angle| group.part_at(angle.id, frame).is_some()));
                }
            }
        }
        for (i, home) in home.iter().enumerate() {
            prop_assert!(home.is_some(), "clip {i} is in no group");
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]
    /// Trimmed to any window, a group shows the same frames of the same clips at the same moments.
    #[test]
    fn a_trimmed_group_shows_what_the_whole_shows(day in any_day(), zero_s in 0.0..86_400.0_f64, cut in (0.0..1.0_f64, 0.0..1.0_f64)) {
        let facts: Vec<_> = day.iter().map(|&(_, _, length, _, fps)| camera(length, fps)).collect();
        let placed: Vec<Placement> = day.iter().map(|&(_, start, length, ppm, _)| at(start, length, ppm)).collect();
        let devices: Vec<i64> = day.iter().map(|clip| clip.0).collect();
        let clips = placed_clips(&facts, &placed, &devices, None);
        let order: Vec<DeviceId> = (1..5).map(DeviceId).collect();
        for mut whole in ran_together(&clips, Tick::from_seconds(zero_s), &order) {
            let frame = |share: f64| (share * whole.frames as f64) as i64;
            let (from, to) = (frame(cut.0.min(cut.1)), frame(cut.0.max(cut.1)));
            whole.window = Some((from, to));
            let ((from, to), shown) = (whole.window(), whole.shown());
            prop_assert!(0 <= from && from < to && to <= whole.frames);
            prop_assert_eq!((shown.frames, shown.angles.len()), (to - from, whole.angles.len()));
            for at in [0, (to - from) / 2, to - from - 1] {
                prop_assert_eq!(shown.frame_start(at), whole.frame_start(from + at));
                prop_assert_eq!(shown.label(at), whole.label(from + at));
                for id in whole.angles.iter().map(|angle| angle.id) {
                    let seen = |group: &metaxis_core::group::Group, frame: i64| {
                        let part = group.part_at(id, frame)?;
                        Some((part.clip, group.clip_frame(part, frame)))
                    };
                    prop_assert_eq!(seen(&shown, at), seen(&whole, from + at));
                }
            }
            // A line made on what is shown is the same pictures on all of it.
            let angles: Vec<AngleId> = whole.angles.iter().map(|angle| angle.id).collect();
            let mut line = Line::new(whole.frames, angles[0]);
            let edit = LineEdit::take((to - from) / 2, angles[angles.len() - 1]);
            let _ = line.apply(&line.within(whole.left(), edit));
            let own = line.of(&whole.left());
            for at in [0, (to - from) / 2, to - from - 1] {
                prop_assert_eq!(own.angle_at(at), line.angle_at(from + at));
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]
    /// With pieces taken out, a group shows the frames that are left, one behind the other, under labels that run on; an edit of its
    /// line is one of what is shown and leaves the rest; put back, all is as it was.
    #[test]
    fn what_is_taken_out_is_closed_up_and_put_back(
        day in any_day(),
        cuts in prop::collection::vec((0.0..1.0_f64, 0.0..0.3_f64), 1..5),
        edits in prop::collection::vec((0.0..1.0_f64, 0..4_usize), 1..6),
        pick in 0.0..1.0_f64,
    ) {
        let facts: Vec<_> = day.iter().map(|&(_, _, length, _, fps)| camera(length, fps)).collect();
        let placed: Vec<Placement> = day.iter().map(|&(_, start, length, ppm, _)| at(start, length, ppm)).collect();
        let devices: Vec<i64> = day.iter().map(|clip| clip.0).collect();
        let clips = placed_clips(&facts, &placed, &devices, None);
        let order: Vec<DeviceId> = (1..5).map(DeviceId).collect();
        for bare in ran_together(&clips, Tick::from_seconds(3600.0), &order) {
            let mut whole = bare.clone();
            for (from, length) in &cuts {
                let shown = whole.shown().frames;
                let frame = |share: f64| (share * shown as f64) as i64;
                if let Some(removed) = whole.with_removed(&[(frame(*from), frame(from + length))]) {
                    whole.removed = removed;
                }
            }
            let (left, shown) = (whole.left(), whole.shown());
            prop_assert_eq!(shown.frames, left.iter().map(|(from, to)| to - from).sum::<i64>());
            prop_assert_eq!(shown.seams.len() + 1, left.len());
            prop_assert_eq!(shown.pieces().len(), left.len());
            let whole_frames: Vec<i64> = left.iter().flat_map(|(from, to)| *from..*to).collect();
            let step = (whole_frames.len() / 40).max(1);
            for (number, &frame) in whole_frames.iter().enumerate().step_by(step) {
                let own = number as i64;
                prop_assert_eq!(whole.whole_frame(own), frame);
                prop_assert_eq!((shown.frame_start(own), shown.frame_end(own)), (whole.frame_start(frame), whole.frame_end(frame)));
                prop_assert_eq!(shown.frame_at(whole.frame_start(frame) + Tick(1)), own);
                prop_assert_eq!(shown.label(own), shown.start.plus(own));
                for id in whole.angles.iter().map(|angle| angle.id) {
                    let seen = |group: &Group, frame: i64| {
                        let part = group.part_at(id, frame)?;
                        Some((part.clip, group.clip_frame(part, frame)))
                    };
                    prop_assert_eq!(seen(&shown, own), seen(&whole, frame));
                }
            }
            // What lies in a piece that is out is the first frame behind it.
            for (seam, pair) in shown.seams.iter().zip(left.windows(2)) {
                prop_assert_eq!(shown.frame_at(whole.frame_start(pair[0].1) + Tick(1)), seam.at);
                prop_assert_eq!(shown.frame_at(whole.frame_end(pair[1].0 - 1) - Tick(1)), seam.at);
            }
            for part in shown.angles.iter().flat_map(|angle| &angle.parts) {
                prop_assert!(shown.seams.iter().all(|seam| seam.at <= part.from_frame || part.to_frame <= seam.at));
            }

            // Edits of what is shown, and what is not shown beside them.
            let angles: Vec<AngleId> = whole.angles.iter().map(|angle| angle.id).collect();
            let mut line = Line::new(whole.frames, angles[0]);
            for (number, (from, _)) in cuts.iter().enumerate() {
                let edit = LineEdit::take((from * whole.frames as f64) as i64, angles[number % angles.len()]);
                let _ = line.apply(&edit);
            }
            for (share, angle) in &edits {
                let edit = LineEdit::take((share * shown.frames as f64) as i64, angles[angle % angles.len()]);
                let (before, mut alone) = (line.clone(), line.of(&left));
                let done = line.apply(&line.within(left.clone(), edit.clone()));
                let back = match (done, alone.apply(&edit)) {
                    (Ok(back), Ok(_)) => back,
                    (own, other) => {
                        prop_assert_eq!(own.err(), other.err());
                        continue;
                    }
                };
                prop_assert_eq!(&line.of(&left), &alone);
                // Behind its first cut, what is out is as it was.
                for (from, to) in &whole.removed {
                    let cut = before.switches().iter().map(|own| own.at).find(|at| (from..to).contains(&at));
                    let kept = |frame| line.angle_at(frame) == before.angle_at(frame);
                    prop_assert!((cut.unwrap_or(*to)..*to).all(kept));
                }
                let mut undone = line.clone();
                undone.apply(&back).expect("it was done");
                prop_assert_eq!(undone, before);
            }

            // In another format the same moments are out, but for pieces shorter than a frame of it.
            let fifty = Timecode::new(0, FrameRate::new(50, 1).expect("a rate"), false);
            let other = whole.in_format(&GroupFormat { start: fifty, ..whole.format() });
            let frame_s = 1.0 / shown.rate().as_f64().min(50.0);
            let (own, its) = (shown.pieces(), other.shown().pieces());
            for (own, its) in own.iter().zip(&its).filter(|_| own.len() == its.len()) {
                prop_assert!((own.begins - its.begins).seconds().abs() <= frame_s, "{own:?} {its:?}");
                prop_assert!((own.ends - its.ends).seconds().abs() <= frame_s, "{own:?} {its:?}");
            }

            // Put back in any order.
            while let Some(seam) = {
                let seams = whole.shown().seams;
                seams.get((pick * seams.len() as f64) as usize).copied()
            } {
                whole.removed = whole.with_put_back(seam.at).expect("it is out");
            }
            whole.removed = whole.with_put_back(0).unwrap_or(whole.removed);
            whole.removed = whole.with_put_back(whole.shown().frames).unwrap_or(whole.removed);
            prop_assert_eq!(&whole, &bare);
        }
    }
}

#[test]
fn a_day_begins_when_what_is_known_says() {
    let label = |text: &str| Timecode::parse(text, FrameRate::FPS_25).expect("a label");
    let with = |text: Option<&str>| {
        let mut facts = camera(60.0, 25);
        facts.timecode = text.map(label);
        facts
    };
    // The recorder begins seven seconds behind the first camera and says nothing; of three cameras two agree.
    let said = [Some("14:00:05:00"), Some("14:00:08:00"), Some("02:11:00:00"), None];
    let facts: Vec<ClipFacts> = said.map(with).to_vec();
    let placed = [-7.0, -4.0, 0.0, 0.0].map(|start_s| at(start_s, 60.0, 0.0));
    let of = |facts: &[ClipFacts], known: Option<f64>| {
        let clips = placed_clips(facts, &placed, &[1, 2, 3, 9], Some(3));
        let zero = day_zero(&clips, 3, known);
        let order: Vec<DeviceId> = [1, 2, 3, 9].map(DeviceId).to_vec();
        ran_together(&clips, zero, &order)[0].start.to_string()
    };
    assert_eq!(of(&facts, None), "14:00:05:00");
    // What places the axis on the day is better; the clip at its zero knows best.
    assert_eq!(of(&facts, Some(36_000.0)), "09:59:53:00");
    let mut counted = facts.clone();
    counted[3].time_reference = Some(43_200 * 48_000);
    assert_eq!(of(&counted, Some(36_000.0)), "11:59:53:00");
    // Nothing at all: nothing wraps at midnight.
    let bare: Vec<ClipFacts> = [None; 4].map(with).to_vec();
    assert_eq!(of(&bare, None), "01:00:00:00");
}

#[test]
fn clips_of_one_device_over_each_other_are_several_angles() {
    let facts = [camera(60.0, 25), camera(20.0, 25), camera(30.0, 25), camera(10.0, 25)];
    // The second lies over the first, the third goes on where the first ends, the fourth begins a little early.
    let placed = [at(0.0, 60.0, 0.0), at(10.0, 20.0, 0.0), at(59.9, 30.0, 0.0), at(30.1, 10.0, 0.0)];
    let clips = placed_clips(&facts, &placed, &[1, 1, 1, 1], None);
    let groups = ran_together(&clips, Tick(0), &[DeviceId(1)]);
    let [group] = groups.as_slice() else { panic!("{} groups", groups.len()) };
    let lane = |own: &Angle| -> Vec<(i64, i64, i64)> {
        own.parts.iter().map(|part| (part.clip.0, part.from_frame, part.to_frame)).collect()
    };
    assert_eq!(group.angles.iter().map(|own| own.id.0).collect::<Vec<_>>(), [1, 2]);
    assert_eq!(lane(&group.angles[0]), [(0, 0, 1500), (2, 1500, 2247)]);
    assert_eq!(lane(&group.angles[1]), [(1, 250, 750), (3, 753, 1003)]);
}

#[test]
fn every_take_of_a_track_is_an_angle_the_longest_first() {
    let facts = [recorder(180.0), camera(400.0, 25), camera(100.0, 25), camera(170.0, 25)];
    // Two takes in one file of the first camera, and one each in two of the second.
    let stretch = |from_s: f64, to_s: f64, start_s: f64| Stretch {
        clip_start_s: from_s,
        clip_end_s: to_s,
        ..Stretch::whole(to_s - from_s, start_s)
    };
    let twice = Placement {
        stretches: vec![stretch(0.0, 150.0, 0.0), stretch(200.0, 380.0, 0.0)],
        ..Placement::unplaced("")
    };
    let placed = [at(0.0, 180.0, 0.0), twice, at(20.0, 100.0, 0.0), at(5.0, 170.0, 0.0)];
    let clips = placed_clips(&facts, &placed, &[9, 1, 2, 2], Some(0));
    let order = [DeviceId(1), DeviceId(2), DeviceId(9)];
    let day = GroupDay { clips: &clips, slates: &[], axis_zero: Tick(0), order: &order, to_track: true };
    let groups = propose_groups(&day, &GroupBy::Takes);
    let [group] = groups.as_slice() else { panic!("{} groups", groups.len()) };
    let takes: Vec<(i64, i64, i64)> = group
        .angles
        .iter()
        .map(|own| {
            (
                own.device.map_or(0, |device| device.0),
                own.parts[0].clip.0,
                own.parts[0].to_frame - own.parts[0].from_frame,
            )
        })
        .collect();
    assert_eq!(takes, [(1, 1, 5000), (1, 1, 3750), (2, 3, 4250), (2, 2, 2500)]);
    assert_eq!(group.sound.as_ref().map(|own| own.parts.len()), Some(1));
}

/// What a person can do with the angles of a group; numbers are taken modulo what there is.
fn any_arranging() -> impl Strategy<Value = (u8, usize, i64, i64)> {
    (0_u8..6, 0_usize..8, 0_i64..600, 0_i64..600)
}

proptest! {
    #[test]
    fn angles_arranged_in_any_way_are_a_group(steps in proptest::collection::vec(any_arranging(), 1..20)) {
        let (_, mut group) = a_group();
        for (what, which, one, other) in steps {
            let angle = group.angles[which % group.angles.len()].id;
            let clip = ClipId(which as i64 % 4);
            let how = match what {
                0 => Arrange::Name { angle, name: (which > 2).then(|| format!("Angle of {which}")) },
                1 => Arrange::Hide { angle, hidden: which % 2 == 0 },
                2 => Arrange::Add { name: None },
                3 => Arrange::Remove { angle },
                4 => Arrange::SetAside { clip },
                _ => Arrange::Blank { angle, from: one.min(other), to: one.max(other) },
            };
            let shown = |group: &Group, id: AngleId| -> Vec<Option<ClipId>> {
                (0..group.frames).map(|frame| group.part_at(id, frame).map(|part| part.clip)).collect()
            };
            let Ok(angles) = group.arranged(&how) else { continue };
            let next = Group { angles, ..group.clone() };
            // Nothing else is another than what was asked for.
            for own in &group.angles {
                let before = shown(&group, own.id);
                let expected: Option<Vec<Option<ClipId>>> = match how {
                    Arrange::Remove { angle } if angle == own.id => None,
                    Arrange::SetAside { clip } => Some(before.into_iter().map(|on| on.filter(|on| *on != clip)).collect()),
                    Arrange::Blank { angle, from, to } if angle == own.id => Some(
                        (0..).zip(before).map(|(frame, on)| on.filter(|_| !(from..to).contains(&frame))).collect(),
                    ),
                    _ => Some(before),
                };
                prop_assert_eq!(next.angle(own.id).map(|_| shown(&next, own.id)), expected);
            }
            let ids: std::collections::HashSet<AngleId> = next.angles.iter().map(|own| own.id).collect();
            prop_assert_eq!(ids.len(), next.angles.len());
            prop_assert!(next.seen().next().is_some());
            group = next;
        }
    }

    #[test]
    fn a_clip_set_aside_and_taken_in_again_is_where_it_was(which in 1_i64..4) {
        let (_, group) = a_group();
        let clip = ClipId(which);
        let own = group.angles.iter().find(|own| own.parts.iter().any(|part| part.clip == clip)).expect("an angle");
        let parts: Vec<_> = own.parts.iter().filter(|part| part.clip == clip).cloned().collect();
        let device = own.device.expect("a device");
        let without = Group { angles: group.arranged(&Arrange::SetAside { clip }).expect("aside"), ..group.clone() };
        prop_assert_eq!(without.part_at(own.id, parts[0].from_frame), None);
        let again = without.with_clip(device, &parts, None).expect("taken in");
        prop_assert_eq!(&again, &group.angles);
        // Where another runs, it has an angle of its own; into another device's it does not go.
        let busy = ClipId(which % 3 + 1);
        let other = group.angles.iter().find(|own| own.parts.iter().any(|part| part.clip == busy)).expect("an angle");
        if other.device != Some(device) {
            prop_assert_eq!(group.with_clip(device, &parts, Some(other.id)), Err(ArrangeError::OtherDevice));
        }
    }
}

#[test]
fn what_would_leave_nothing_is_refused() {
    let (_, group) = a_group();
    let [floor, gallery] = [group.angles[0].id, group.angles[1].id];
    let hidden = Group {
        angles: group.arranged(&Arrange::Hide { angle: floor, hidden: true }).expect("aside"),
        ..group.clone()
    };
    assert_eq!(hidden.arranged(&Arrange::Hide { angle: gallery, hidden: true }), Err(ArrangeError::NoneSeen));
    let one =
        Group { angles: group.arranged(&Arrange::Remove { angle: floor }).expect("one"), ..group.clone() };
    assert_eq!(one.arranged(&Arrange::Remove { angle: gallery }), Err(ArrangeError::Nothing));
    let name = |name: &str| group.arranged(&Arrange::Name { angle: floor, name: Some(name.into()) });
    assert_eq!((name(" "), name(&"x".repeat(300))), (Err(ArrangeError::Name), Err(ArrangeError::Name)));
    assert!(name("غرفة الجرس").is_ok());
    let nobody = Arrange::Hide { angle: AngleId(99), hidden: true };
    assert_eq!(group.arranged(&nobody), Err(ArrangeError::NoAngle(AngleId(99))));
    // What all angles cover is what those cover that are seen.
    assert_eq!(hidden.covered_by_all(), Some((100, 350)));
}

proptest! {
    #[test]
    fn a_group_in_another_format_shows_the_same_pictures_at_the_same_moments(
        rate in prop_oneof![
            Just((24_000, 1001)), Just((24, 1)), Just((25, 1)), Just((30_000, 1001)), Just((50, 1)), Just((60_000, 1001))
        ],
        label in 0_i64..2_000_000,
        trimmed in prop::option::of((0_i64..300, 1_i64..300)),
        frame in 0_i64..1_800,
    ) {
        let (_, mut group) = a_group();
        group.window = trimmed.map(|(from, length)| (from, from + length));
        let rate = FrameRate::new(rate.0, rate.1).expect("a rate");
        let format = GroupFormat { start: Timecode::new(label, rate, false), width: 1280, height: 720 };
        let other = group.in_format(&format);
        prop_assert_eq!(other.format(), format);
        let (head, other_head) = (group.shown().frame_start(0), other.shown().frame_start(0));
        prop_assert!((head.seconds() - other_head.seconds()).abs() < 0.5 / rate.as_f64());
        // In the middle of any frame the same picture is on screen, but where an edge lies within half a frame of it.
        let near = 0.5 / rate.as_f64() + 0.5 / group.rate().as_f64() + 1e-6;
        let middle_s = other.frame_start(frame).seconds() + 0.5 / rate.as_f64();
        for angle in &group.angles {
            let edge_s = |at: i64| group.frame_start(at).seconds();
            let edges = angle.parts.iter().flat_map(|part| [part.from_frame, part.to_frame]);
            if edges.map(edge_s).any(|edge_s| (edge_s - middle_s).abs() < near) {
                continue;
            }
            let clip = |group: &Group, frame: i64| group.part_at(angle.id, frame).map(|part| part.clip);
            prop_assert_eq!(clip(&other, frame), clip(&group, group.frame_at(Tick::from_seconds(middle_s))));
        }
        // Back in its own format it is the same where the rate was.
        if rate == group.rate() {
            prop_assert_eq!(&other.in_format(&group.format()), &group);
        }
        // A cut stays at its moment.
        let mut line = Line::new(group.frames, AngleId(1));
        line.apply(&LineEdit::take(200, AngleId(2))).expect("a take");
        let there = group.line_in(&line, &other).expect("a line");
        let cut_s = other.frame_start(there.switches()[1].at).seconds();
        prop_assert!((cut_s - group.frame_start(200).seconds()).abs() <= 0.5 / rate.as_f64() + 1e-9);
        prop_assert_eq!(there.frames(), other.frames);
    }
}

proptest! {
    #[test]
    fn a_group_goes_to_another_axis_and_its_clips_to_where_the_day_has_them(
        later_s in -5_000.0..5_000.0_f64,
        off_frames in -60_i64..60,
        ppm in -40.0..40.0_f64,
        which in 0_usize..2,
    ) {
        let (facts, group) = a_group();
        let later = Tick::from_seconds(later_s);
        let there = group.on_axis(later, 3);
        prop_assert_eq!((there.start, there.component), (group.start, 3));
        prop_assert_eq!(there.frame_start(77), group.frame_start(77) + later);
        let part = &group.angles[1].parts[which];
        for frame in [part.from_frame, part.to_frame - 1] {
            let now = there.part_at(AngleId(2), frame).expect("a part");
            prop_assert!((there.clip_position(now, frame) - group.clip_position(part, frame)).abs() < 1e-3);
        }
        // The day has one of its clips elsewhere, with a clock of its own; the other nowhere.
        let start_s = part.stretch.start_s + off_frames as f64 / 25.0;
        let stretch = Stretch { start_s, rate_ppm: ppm, ..part.stretch };
        let placed = Placement { stretches: vec![stretch], ..Placement::unplaced("") };
        let day = |clip: ClipId| (clip == part.clip).then_some(&placed);
        let moved: Vec<(ClipId, i64)> =
            group.moved(day).into_iter().map(|(clip, by_s)| (clip, (by_s * 25.0).round() as i64)).collect();
        let expected: Vec<(ClipId, i64)> = (off_frames != 0).then_some((part.clip, -off_frames)).into_iter().collect();
        prop_assert_eq!(moved, expected);
        let seen = &facts[part.clip.0 as usize];
        let placed_clip =
            PlacedClip { id: part.clip, device: DeviceId(2), facts: seen, placement: &placed, reference: false };
        let laid = Group { angles: group.with_off(&placed_clip, 0.0), ..group.clone() };
        prop_assert!(laid.moved(day).is_empty());
        prop_assert_eq!(&laid.angles[0], &group.angles[0]);
        let own: Vec<_> = laid.angles[1].parts.iter().filter(|own| own.clip == part.clip).collect();
        prop_assert!(own.iter().all(|own| own.stretch == stretch));
        prop_assert!(laid.angles[1].parts.windows(2).all(|pair| pair[0].to_frame <= pair[1].from_frame));
    }
}

#[test]
fn a_group_within_a_longer_one_stays_as_it_was_put_together() {
    let (_, whole) = a_group();
    // The middle of it: one clip aside, ten frames blank, an angle more.
    let own = Group { window: Some((150, 500)), ..whole.clone() }.shown();
    let clip = own.part_at(AngleId(2), 30).expect("a clip").clip;
    let mut own = Group { angles: own.arranged(&Arrange::SetAside { clip }).expect("aside"), ..own };
    own.angles = own.arranged(&Arrange::Blank { angle: AngleId(1), from: 50, to: 60 }).expect("blank");
    own.angles = own.arranged(&Arrange::Add { name: Some("Score".into()) }).expect("one more");
    let with = Group { angles: whole.overlaid(&own), ..whole.clone() };
    let clip_at =
        |group: &Group, id: i64, frame: i64| group.part_at(AngleId(id), frame).map(|part| part.clip);
    for frame in 0..whole.frames {
        for id in [1, 2] {
            let expected = match frame {
                150..500 => clip_at(&own, id, frame - 150),
                _ => clip_at(&whole, id, frame),
            };
            assert_eq!(clip_at(&with, id, frame), expected, "angle {id} at {frame}");
        }
    }
    assert_eq!(with.angles[2].name.as_deref(), Some("Score"));
    // Itself over itself is itself.
    assert_eq!(whole.overlaid(&whole), whole.angles);
}

#[test]
fn a_clip_moved_by_parts_of_a_frame_adds_up_keeps_its_blanks_and_comes_back() {
    let (facts, group) = a_group();
    let floor = &group.angles[0].parts[0];
    let placement = at(2.0, 20.0, 0.0);
    let clip = PlacedClip {
        id: floor.clip,
        device: DeviceId(1),
        facts: &facts[1],
        placement: &placement,
        reference: false,
    };
    let blank = Arrange::Blank { angle: AngleId(1), from: 100, to: 110 };
    let start = Group { angles: group.arranged(&blank).expect("blank"), ..group.clone() };
    let frames = |group: &Group| -> Vec<(i64, i64)> {
        group.angles[0].parts.iter().map(|part| (part.from_frame, part.to_frame)).collect()
    };
    assert_eq!(frames(&start), [(50, 100), (110, 550)]);
    let mut moved = start.clone();
    for _ in 0..1000 {
        let off_s = moved.off_s(clip.id, &placement).expect("it is there");
        moved.angles = moved.with_off(&clip, off_s + 0.0004);
    }
    // A thousand times 0.4 ms are ten frames.
    assert_eq!(frames(&moved), [(60, 110), (120, 560)]);
    // Out over the head of the group and in again, nothing is lost.
    let out = Group { angles: moved.with_off(&clip, -4.0), ..moved.clone() };
    assert_eq!(frames(&out), [(10, 450)]);
    let back = Group { angles: out.with_off(&clip, 0.0), ..out.clone() };
    assert_eq!(frames(&back), frames(&start));
    // Moved onto the next of its angle it is cut there, and not refused.
    let first = &group.angles[1].parts[0];
    let second = at(4.0, 10.0, 40.0);
    let gallery = PlacedClip {
        id: first.clip,
        device: DeviceId(2),
        facts: &facts[2],
        placement: &second,
        reference: false,
    };
    let over = Group { angles: group.with_off(&gallery, 0.4), ..group.clone() };
    assert!(over.angles[1].parts.windows(2).all(|pair| pair[0].to_frame <= pair[1].from_frame));
    assert_eq!(over.angles[1].parts[0].from_frame, first.from_frame + 10);
}

#[test]
fn in_another_format_a_clip_begins_to_a_frame_of_that() {
    // It begins three quarters into a frame of 25: that frame is not its, but of the two of 50 that it is, the second is.
    let facts = [recorder(30.0), camera(20.0, 25)];
    let placed = [at(0.0, 30.0, 0.0), at(1.0 + 0.029, 20.0, 0.0)];
    let clips = placed_clips(&facts, &placed, &[9, 1], Some(0));
    let group = ran_together(&clips, Tick(0), &[DeviceId(1), DeviceId(9)]).remove(0);
    let part = |group: &Group| (group.angles[0].parts[0].from_frame, group.angles[0].parts[0].to_frame);
    let fifty = Timecode::new(0, FrameRate::new(50, 1).expect("a rate"), false);
    let at_fifty = group.in_format(&GroupFormat { start: fifty, ..group.format() });
    assert_eq!((part(&group), part(&at_fifty)), ((26, 526), (51, 1051)));
    // By way of a coarser rate nothing is lost; an edge that a person set stays at its moment.
    let slow = Timecode::new(0, FrameRate::new(12, 1).expect("a rate"), false);
    let by_way = group.in_format(&GroupFormat { start: slow, ..group.format() });
    let back = by_way.in_format(&GroupFormat { start: fifty, ..group.format() });
    assert_eq!(part(&back), part(&at_fifty));
    let mut cut = group.clone();
    cut.angles[0].parts[0].from_frame = 100;
    assert_eq!(part(&cut.in_format(&GroupFormat { start: fifty, ..group.format() })), (200, 1051));
}
