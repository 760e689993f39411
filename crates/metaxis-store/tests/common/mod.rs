//! Productions to try things on.
#![allow(dead_code)] // each test uses a part of it

use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Angle, AnglePart, Group},
    sync::{Placement, Stretch},
    time::{FrameRate, Tick, Timecode},
};
use metaxis_store::{ClipView, DayView, IntakeChange, NewClip, Part, PassFacts, Store};

pub struct Kept {
    folder: tempfile::TempDir,
    pub store: Store,
    pub clips: Vec<ClipId>,
    pub devices: Vec<DeviceId>,
}

impl Kept {
    /// Two devices with three clips each.
    pub fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("p.sqlite")).expect("a store");
        let mut kept = Self { folder, store, clips: vec![], devices: vec![] };
        for name in ["A_FLOOR", "B_BENCH"] {
            let device = kept.store.device_of_folder(name).expect("a device");
            kept.devices.push(device);
            for take in 1..=3 {
                let relative = format!("{name}/{}00{take}.mov", &name[..1]);
                let facts = ClipFacts {
                    duration_s: 5.0,
                    scene: Some("1".into()),
                    take: Some(take.to_string()),
                    ..ClipFacts::default()
                };
                let clip = NewClip {
                    device,
                    root: "/m".into(),
                    path: format!("/m/{relative}").into_bytes(),
                    bytes: 1,
                    fingerprint: format!("{:032x}", kept.clips.len()),
                    facts,
                    part: Part::Sync,
                    day: Some("2026-05-14".into()),
                    relative,
                };
                kept.clips.push(kept.store.keep_clip(&clip).expect("kept"));
            }
        }
        kept
    }

    pub fn again(self) -> Self {
        drop(self.store);
        let store = Store::open(&self.folder.path().join("p.sqlite")).expect("a store");
        Self { store, ..self }
    }

    pub fn day(&self) -> DayView {
        self.store.day().expect("a day")
    }

    pub fn clip(&self, index: usize) -> ClipView {
        let day = self.day();
        day.clips.into_iter().find(|clip| clip.id == self.clips[index]).expect("a clip")
    }

    pub fn edit(&self, change: IntakeChange) {
        self.store.edit_intake(&change).expect("changed");
    }

    pub fn slate(&self, index: usize, scene: &str, take: &str) -> IntakeChange {
        IntakeChange::Slate {
            clips: vec![self.clips[index]],
            scene: Some(scene.into()),
            take: Some(take.into()),
            notes: None,
            circled: None,
        }
    }

    /// The same with a pass and its group: the first clip of each device, as two angles of 100 frames.
    pub fn synced() -> Self {
        let kept = Self::new();
        kept.sync();
        kept
    }

    /// Another pass with the same group.
    pub fn sync(&self) {
        let angle = |at: usize| Angle {
            device: self.devices[at],
            parts: vec![AnglePart {
                clip: self.clips[3 * at],
                from_frame: 0,
                to_frame: 100,
                stretch: Stretch {
                    clip_start_s: 0.0,
                    clip_end_s: 4.0,
                    start_s: 0.0,
                    rate_ppm: 0.0,
                    start_sigma_s: 0.0,
                    rate_sigma_ppm: 0.0,
                },
                picture_delay_s: 0.0,
                rate: FrameRate::FPS_25,
            }],
        };
        let group = Group {
            name: "1 / 1".into(),
            start: Timecode::new(1000, FrameRate::FPS_25, false),
            axis_zero: Tick(0),
            component: 0,
            frames: 100,
            width: 640,
            height: 360,
            angles: vec![angle(0), angle(1)],
            sound: None,
        };
        let pass = PassFacts {
            name: "Whole day".into(),
            reference: self.devices[0],
            origin: self.clips[0],
            axis_zero: Tick(0),
            took_s: 1.0,
            notes: vec![],
            islands: vec![],
        };
        let placed: Vec<(ClipId, Placement)> =
            self.clips.iter().map(|clip| (*clip, Placement::unplaced("a test"))).collect();
        self.store.keep_pass(&pass, &placed, &[group]).expect("a pass");
    }

    /// Numbers of the groups that are shown.
    pub fn groups(&self) -> Vec<i64> {
        self.day().groups.iter().map(|group| group.id).collect()
    }
}
