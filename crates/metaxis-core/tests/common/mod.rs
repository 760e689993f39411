//! Placed clips for tests.
#![allow(dead_code)]

use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, PictureFacts, SoundFacts},
    group::{Group, GroupBy, GroupDay, PlacedClip, propose_groups},
    sync::{Placement, Stretch, Verdict},
    time::{FrameRate, SampleRate, Tick, Timecode},
};

/// A camera clip of `duration_s` at `fps` frames a second.
pub fn camera(duration_s: f64, fps: i64) -> ClipFacts {
    ClipFacts {
        picture: Some(PictureFacts {
            rate: FrameRate::new(fps, 1).expect("a rate"),
            constant_rate: true,
            width: 640,
            height: 360,
            codec: "h264".into(),
            start_s: 0.0,
            duration_s,
            frames: None,
            still: false,
            colour: metaxis_core::clip::ColourFacts::default(),
        }),
        ..recorder(duration_s)
    }
}

/// A sound clip.
pub fn recorder(duration_s: f64) -> ClipFacts {
    ClipFacts {
        sound: Some(SoundFacts {
            rate: SampleRate(48_000),
            channels: 1,
            channel_names: vec![],
            codec: "pcm_s16le".into(),
            start_s: 0.0,
            duration_s,
            labelled_s: None,
            streams: vec![],
            left_out: 0,
        }),
        duration_s,
        ..ClipFacts::default()
    }
}

/// Placed solidly from `start_s` on.
pub fn at(start_s: f64, duration_s: f64, rate_ppm: f64) -> Placement {
    Placement {
        verdict: Verdict::Solid,
        confidence: 0.999,
        stretches: vec![Stretch { rate_ppm, ..Stretch::whole(duration_s, start_s) }],
        reasons: vec![],
        ..Placement::unplaced("")
    }
}

/// Clips numbered from 0, each of the device of its place; `reference` is the place of the reference's clip.
pub fn placed_clips<'a>(
    facts: &'a [ClipFacts],
    placed: &'a [Placement],
    devices: &[i64],
    reference: Option<usize>,
) -> Vec<PlacedClip<'a>> {
    let clip = |(i, device): (usize, &i64)| PlacedClip {
        id: ClipId(i as i64),
        device: DeviceId(*device),
        facts: &facts[i],
        placement: &placed[i],
        reference: reference == Some(i),
    };
    devices.iter().enumerate().map(clip).collect()
}

/// Groups of what ran together.
pub fn ran_together(clips: &[PlacedClip], axis_zero: Tick, order: &[DeviceId]) -> Vec<Group> {
    propose_groups(&GroupDay { clips, slates: &[], axis_zero, order, to_track: false }, &GroupBy::Runs)
}

/// Two cameras (the second split in two files, at 50 fps) and a recorder that ran from 09:14:00.
pub fn a_group() -> (Vec<ClipFacts>, Group) {
    let mut first = camera(20.0, 25);
    first.timecode = Some(Timecode::parse("09:14:02:00", FrameRate::FPS_25).expect("a label"));
    let facts = vec![recorder(30.0), first, camera(10.0, 50), camera(10.0, 50)];
    let placed = [at(0.0, 30.0, 0.0), at(2.0, 20.0, 0.0), at(4.0, 10.0, 40.0), at(14.04, 10.0, 40.0)];
    let devices = [9, 1, 2, 2];
    let clips = placed_clips(&facts, &placed, &devices, Some(0));
    let zero = Tick::from_seconds(9.0 * 3600.0 + 14.0 * 60.0);
    let mut groups = ran_together(&clips, zero, &[DeviceId(1), DeviceId(2), DeviceId(9)]);
    assert_eq!(groups.len(), 1);
    (facts.clone(), groups.remove(0))
}
