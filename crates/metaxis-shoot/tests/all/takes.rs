//! Groups proposed by takes, against the takes of a simulated day.

use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, PictureFacts, SoundFacts},
    group::{Group, GroupBy, GroupDay, PlacedClip, Slate, propose_groups},
    sync::{Placement, Stretch},
    time::{FrameRate, SampleRate, Tick},
};
use metaxis_shoot::{ClipPlan, Scenario, large_day};
use std::collections::BTreeSet;

/// A day's clips where they truly lie, the recorder's with their scene and take where `named`; and one camera that rolls on
/// from the first to the last of it.
struct Day {
    plan: Scenario,
    facts: Vec<ClipFacts>,
    placed: Vec<Placement>,
    devices: Vec<DeviceId>,
}

impl Day {
    fn new(named: bool) -> Self {
        let mut plan = large_day(400, 3);
        plan.clips.retain(|clip| !clip.scene.starts_with("apart"));
        let (mut facts, mut placed, mut devices) = (vec![], vec![], vec![]);
        for clip in &plan.clips {
            let device = plan.devices.iter().position(|own| own.folder == clip.device).expect("its device");
            let (from_s, to_s) = extent(&plan, clip);
            let has_picture = plan.devices[device].picture.is_some();
            let mut own = clip_facts(to_s - from_s, has_picture);
            if named && !has_picture {
                (own.scene, own.take) = (clip.slate_scene.clone(), clip.slate_take.clone());
            }
            facts.push(own);
            placed.push(lying(from_s, to_s));
            devices.push(DeviceId(device as i64));
        }
        let all: Vec<(f64, f64)> = plan.clips.iter().map(|clip| extent(&plan, clip)).collect();
        let (from_s, to_s) = all.iter().fold((f64::MAX, f64::MIN), |a, b| (a.0.min(b.0), a.1.max(b.1)));
        facts.push(clip_facts(to_s - from_s + 20.0, true));
        placed.push(lying(from_s - 10.0, to_s + 10.0));
        devices.push(DeviceId(99));
        Self { plan, facts, placed, devices }
    }

    fn groups(&self, slates: &[Slate], by: GroupBy) -> Vec<Group> {
        let recorder = DeviceId(self.plan.devices.len() as i64 - 1);
        let clip = |number: usize| PlacedClip {
            id: ClipId(number as i64),
            device: self.devices[number],
            facts: &self.facts[number],
            placement: &self.placed[number],
            reference: self.devices[number] == recorder,
        };
        let clips: Vec<PlacedClip> = (0..self.facts.len()).map(clip).collect();
        let order: Vec<DeviceId> = (0..self.plan.devices.len() as i64).chain([99]).map(DeviceId).collect();
        propose_groups(
            &GroupDay { clips: &clips, slates, axis_zero: Tick(0), order: &order, to_track: false },
            &by,
        )
    }

    /// Asserts that every take is a group, with the pictures of that take and of nothing else but the one that rolls on.
    fn assert_takes(&self, groups: &[Group]) {
        assert_eq!(groups.len(), self.plan.scenes.iter().filter(|scene| !scene.slates.is_empty()).count());
        for group in groups {
            let parts = group.angles.iter().flat_map(|angle| &angle.parts);
            let shown: BTreeSet<usize> = parts.map(|part| part.clip.0 as usize).collect();
            let scenes: BTreeSet<&str> =
                shown.iter().filter_map(|clip| Some(self.plan.clips.get(*clip)?.scene.as_str())).collect();
            assert_eq!(scenes.len(), 1, "{}: {scenes:?}", group.name);
            let scene = scenes.first().copied().unwrap_or_default();
            let pictures = (0..self.plan.clips.len()).filter(|clip| self.facts[*clip].picture.is_some());
            let due: BTreeSet<usize> = pictures
                .filter(|clip| self.plan.clips[*clip].scene == scene)
                .chain([self.plan.clips.len()])
                .collect();
            assert_eq!(shown, due, "{scene}");
        }
    }
}

fn extent(plan: &Scenario, clip: &ClipPlan) -> (f64, f64) {
    let scene = plan.scenes.iter().find(|scene| scene.name == clip.scene).expect("its scene");
    (scene.start_s + clip.from_s, scene.start_s + clip.to_s)
}

fn lying(from_s: f64, to_s: f64) -> Placement {
    Placement { stretches: vec![Stretch::whole(to_s - from_s, from_s)], ..Placement::unplaced("") }
}

fn clip_facts(duration_s: f64, has_picture: bool) -> ClipFacts {
    let sound = SoundFacts {
        rate: SampleRate(48_000),
        channels: 1,
        channel_names: vec![],
        codec: "pcm_s16le".into(),
        start_s: 0.0,
        duration_s,
        labelled_s: None,
        streams: vec![],
        left_out: 0,
    };
    let picture = PictureFacts {
        rate: FrameRate::FPS_25,
        constant_rate: true,
        width: 640,
        height: 360,
        codec: "h264".into(),
        start_s: 0.0,
        duration_s,
        frames: None,
        still: false,
        colour: metaxis_core::clip::ColourFacts::default(),
    };
    ClipFacts {
        duration_s,
        sound: Some(sound),
        picture: has_picture.then_some(picture),
        ..ClipFacts::default()
    }
}

#[test]
fn every_take_of_a_large_day_is_a_group_though_a_camera_rolls_on() {
    let day = Day::new(true);
    assert_eq!(day.groups(&[], GroupBy::Runs).len(), 1);
    let groups = day.groups(&[], GroupBy::Takes);
    day.assert_takes(&groups);
    for (group, scene) in groups.iter().zip(&day.plan.scenes) {
        assert_eq!(group.name, scene.name.replace('-', " / "));
    }
    // A scene for each scene, one behind the other.
    let scenes: BTreeSet<&str> =
        day.plan.scenes.iter().filter_map(|scene| scene.name.split('-').next()).collect();
    let found = day.groups(&[], GroupBy::Scenes);
    assert!(found.iter().all(|group| scenes.contains(group.name.as_str())));
    assert_eq!(found.len(), scenes.iter().filter(|scene| **scene != "apart").count());
}

#[test]
fn slates_alone_tell_the_same() {
    let mut day = Day::new(false);
    // The recorder was left running from the first take to the last.
    let sound = |facts: &ClipFacts| facts.picture.is_none();
    let recorded: Vec<usize> = (0..day.facts.len()).filter(|clip| sound(&day.facts[*clip])).collect();
    let first = day.placed[recorded[0]].stretches[0].start_s;
    let last = day.placed[recorded[recorded.len() - 1]].stretches[0].end_s();
    for clip in &recorded {
        day.placed[*clip] = Placement::unplaced("");
    }
    day.facts[recorded[0]] = clip_facts(last - first, false);
    day.placed[recorded[0]] = lying(first, last);
    let slates: Vec<Slate> = (0..day.plan.clips.len())
        .filter(|clip| day.plan.clips[*clip].device == "CAM_A")
        .map(|clip| {
            let own = &day.plan.clips[clip];
            let scene = day.plan.scenes.iter().find(|scene| scene.name == own.scene).expect("its scene");
            Slate { clip: ClipId(clip as i64), at_s: scene.slates[0].at_s - own.from_s, take: None }
        })
        .collect();
    day.assert_takes(&day.groups(&slates, GroupBy::Takes));
}
