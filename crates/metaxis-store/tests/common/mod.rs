//! Productions to try things on.
#![allow(dead_code)] // each test uses a part of it

use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId},
    group::{Angle, AnglePart, Group},
    sync::{Placement, Stretch},
    time::{FrameRate, Tick, Timecode},
};
use metaxis_store::{ClipView, DayView, GroupId, IntakeChange, NewClip, Part, PassFacts, Store};
use std::path::Path;

pub struct Kept {
    folder: tempfile::TempDir,
    pub store: Store,
    pub clips: Vec<ClipId>,
    pub devices: Vec<DeviceId>,
}

impl Kept {
    /// A production with nothing in it.
    pub fn empty() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("p.sqlite")).expect("a store");
        Self { folder, store, clips: vec![], devices: vec![] }
    }

    /// Two devices with three clips each.
    pub fn new() -> Self {
        let mut kept = Self::empty();
        for name in ["A_FLOOR", "B_BENCH"] {
            kept.devices.push(kept.store.device_of_folder(name).expect("a device"));
            for take in 1..=3 {
                let facts = ClipFacts {
                    duration_s: 5.0,
                    scene: Some("1".into()),
                    take: Some(take.to_string()),
                    ..ClipFacts::default()
                };
                let clip = kept.add(&format!("{name}/{}00{take}.mov", &name[..1]), facts);
                kept.clips.push(clip);
            }
        }
        kept
    }

    /// Another clip of the device of its folder; the same one again where it is there.
    pub fn add(&self, relative: &str, facts: ClipFacts) -> ClipId {
        let folder = relative.split('/').next().expect("a folder");
        let clip = NewClip {
            device: self.store.device_of_folder(folder).expect("a device"),
            root: "/m".into(),
            relative: relative.into(),
            path: format!("/m/{relative}").into_bytes(),
            bytes: 1,
            fingerprint: format!("{:032x}", self.clips.len()),
            facts,
            part: Part::Sync,
            day: Some("2026-05-14".into()),
        };
        self.store.keep_clip(&clip).expect("kept")
    }

    pub fn folder(&self) -> &Path {
        self.folder.path()
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
        self.pass(&[self.clips[0], self.clips[3]], 100, 0);
    }

    /// Another pass over these clips: one group of so many frames, in which each is an angle and begins at frame `from`.
    pub fn pass(&self, clips: &[ClipId], frames: i64, from: i64) {
        let stretch = Stretch::whole(4.0, (1000 + from) as f64 / 25.0);
        let angle = |(at, clip): (usize, &ClipId)| {
            let part = AnglePart {
                still: false,
                clip: *clip,
                from_frame: from,
                to_frame: from + 100,
                stretch,
                picture_delay_s: 0.0,
                rate: FrameRate::FPS_25,
            };
            Angle::of(DeviceId(at as i64 + 1), vec![part])
        };
        let group = Group {
            name: "1 / 1".into(),
            start: Timecode::new(1000, FrameRate::FPS_25, false),
            axis_zero: Tick(0),
            component: 0,
            frames,
            width: 640,
            height: 360,
            angles: clips.iter().enumerate().map(angle).collect(),
            sound: None,
            window: None,
            removed: vec![],
            seams: vec![],
            grid: None,
        };
        let pass = PassFacts {
            name: "Whole day".into(),
            reference: DeviceId(1),
            origin: clips[0],
            axis_zero: Tick(0),
            took_s: 1.0,
            notes: vec![],
            islands: vec![],
        };
        let mut all = self.clips.clone();
        all.extend(clips.iter().filter(|clip| !self.clips.contains(clip)));
        all.dedup();
        let placed: Vec<(ClipId, Placement)> =
            all.into_iter().map(|clip| (clip, Placement::unplaced("a test"))).collect();
        self.store.keep_pass(&pass, &placed, &[group]).expect("a pass");
    }

    /// Another pass, in which a clip begins at a moment of the axis; the others lie as they did.
    pub fn lay(&self, clip: ClipId, start_s: f64) {
        let shown = self.store.shown().expect("a pass");
        let placed: Vec<(ClipId, Placement)> = shown
            .placements
            .iter()
            .map(|own| {
                let mut placement = own.placement.clone();
                if own.clip == clip {
                    placement.stretches = vec![Stretch::whole(4.0, start_s)];
                }
                (own.clip, placement)
            })
            .collect();
        self.store.keep_pass(&shown.pass.expect("a pass").facts, &placed, &[]).expect("a pass");
    }

    /// Numbers of the groups that are shown.
    pub fn groups(&self) -> Vec<GroupId> {
        self.store.shown().expect("a pass").groups.iter().map(|group| group.id).collect()
    }
}
