//! Labels (timecode, clocks) solved together with sound, on arrays whose truth is known.

use crate::hearing::{Clip, clip, heard, place, says, scene, start};
use metaxis_core::{
    clip::{ClipFacts, PictureFacts},
    ltc::{AgainstBox, LtcFound},
    signal::{Carries, ChannelState},
    sync::{
        ClockTrust, DayResult, EvidenceKind, GivenDistance, Label, SOUND_M_PER_S, Verdict, clock_notes,
        labels,
    },
    time::{FrameRate, Timecode},
};

const FRAME: f64 = 0.04;
/// Time of day at which the recorder starts.
const DAY_S: f64 = 33_240.0;

fn label(kind: EvidenceKind, time_s: f64) -> Label {
    let (sigma_s, unit_s) = match kind {
        EvidenceKind::AudioTimecode => (1e-4, FRAME),
        EvidenceKind::DeviceClock => (1.0, 1.0),
        _ => (0.3 * FRAME, FRAME),
    };
    Label { kind, time_s, sigma_s, unit_s }
}

/// A file timecode: whole frames.
fn framed(time_s: f64) -> Label {
    label(EvidenceKind::FileTimecode, (time_s / FRAME).floor() * FRAME)
}

/// A recorder over the whole scene, with its time reference.
fn recorder(scene: &[f32], seconds: f64) -> Clip {
    let mut own = clip(0, heard(scene, 0.0, seconds, 0.0, 1.0, 0.001, 1));
    own.labels = vec![label(EvidenceKind::FileTimecode, DAY_S)];
    own
}

/// A camera's clip of the scene.
fn camera(scene: &[f32], device: usize, start_s: f64, seconds: f64, own: Label) -> Clip {
    let mut made =
        clip(device, heard(scene, start_s, seconds, 0.0, 1.0, 0.001, device as u64 + start_s as u64));
    made.labels = vec![own];
    made
}

/// A clip without sound.
fn silent(device: usize, seconds: f64, own: Label) -> Clip {
    let mut made = clip(device, vec![0.0; (seconds * 16_000.0) as usize]);
    made.silent = true;
    made.labels = vec![own];
    made
}

#[test]
fn a_silent_picture_is_placed_by_timecode_that_its_device_has_proved() {
    let scene = scene(120.0, 31);
    let at = [5.02, 40.31, 70.77];
    let mut clips = vec![recorder(&scene, 118.0)];
    clips.extend(at.iter().map(|&s| camera(&scene, 1, s, 20.0, framed(DAY_S + s))));
    clips.push(silent(1, 9.0, framed(DAY_S + 97.0)));
    let result = place(&clips);
    let placed = &result.placements[4];
    // A label names a frame: where in it the clip began stays open, the less the more clips tell.
    assert_eq!(placed.verdict, Verdict::Check, "{:?}", placed.reasons);
    assert!((0.75..0.985).contains(&placed.confidence), "{}", placed.confidence);
    assert!((start(&result, 4) - 97.0).abs() < 0.6 * FRAME, "{}", start(&result, 4));
    let (own, device) = (placed.stretches[0].rate_ppm, result.placements[2].stretches[0].rate_ppm);
    assert!((own - device).abs() < 2.0 && own != 0.0, "it runs as its device does: {own}, {device}");
    says(&result, 4, "It has no sound to match: placed by its file timecode to the frame it names");
    assert_eq!(placed.reasons.len(), 1, "once is enough: {:?}", placed.reasons);
    assert!(placed.evidence.iter().any(|e| e.kind == EvidenceKind::FileTimecode && e.used));
}

/// The box's clock is 7 ppm faster than the recorder's: a device known both ways tells, and one that is never heard runs
/// as the box says.
#[test]
fn a_device_that_is_never_heard_runs_as_its_audio_timecode_says() {
    let scene = scene(200.0, 41);
    let signal = |s: f64| label(EvidenceKind::AudioTimecode, DAY_S + s);
    let mut heard_camera = clip(1, heard(&scene, 10.0, 150.0, 20.0, 1.0, 0.001, 5));
    heard_camera.labels = vec![signal(10.0)];
    heard_camera.against_box = Some(AgainstBox { rate_ppm: 13.0, sigma_ppm: 0.1 });
    let mut unheard = silent(2, 100.0, signal(30.0));
    unheard.against_box = Some(AgainstBox { rate_ppm: -40.0, sigma_ppm: 0.1 });
    let clips = [recorder(&scene, 198.0), heard_camera, unheard];
    let result = place(&clips);
    let stretch = result.placements[2].stretches[0];
    assert!((stretch.start_s - 30.0).abs() < 0.01, "{stretch:?}");
    assert!((stretch.rate_ppm + 33.0).abs() < 0.5 && stretch.rate_sigma_ppm < 2.0, "{stretch:?}");
    // Two boxes would be two clocks: then nothing is said.
    let mut third = camera(&scene, 3, 60.0, 100.0, signal(60.0));
    third.against_box = Some(AgainstBox { rate_ppm: 90.0, sigma_ppm: 0.1 });
    let result = place(&clips.into_iter().chain([third]).collect::<Vec<_>>());
    assert_eq!(result.placements[2].stretches[0].rate_ppm, 0.0);
}

#[test]
fn a_silent_picture_of_a_device_never_heard_is_placed_but_to_be_checked() {
    let scene = scene(60.0, 32);
    let clips = [recorder(&scene, 58.0), silent(1, 9.0, framed(DAY_S + 30.0))];
    let result = place(&clips);
    assert_eq!(result.placements[1].verdict, Verdict::Check);
    assert!((start(&result, 1) - 30.0).abs() < FRAME);
    says(&result, 1, "which no clip of the device confirms");
}

#[test]
fn a_clock_alone_places_to_its_own_seconds_and_says_so() {
    let scene = scene(60.0, 33);
    let clock = |s: f64| label(EvidenceKind::DeviceClock, (DAY_S + s + 3641.0).floor());
    let clips =
        [recorder(&scene, 58.0), camera(&scene, 1, 4.0, 20.0, clock(4.0)), silent(1, 9.0, clock(40.5))];
    let result = place(&clips);
    let placed = &result.placements[2];
    assert_eq!(placed.verdict, Verdict::Check);
    assert!(placed.confidence < 0.1, "a second is not half a frame: {}", placed.confidence);
    assert!((start(&result, 2) - 40.5).abs() < 2.0, "{}", start(&result, 2));
    says(&result, 2, "placed by its device's clock alone, to about");
    let notes = clock_notes(&result.clocks, &result.distances);
    assert_eq!(notes.len(), 1, "{notes:?}");
    assert!(notes[0].text.contains("1 h 41 s fast") || notes[0].text.contains("1 h 40 s fast"), "{notes:?}");
    assert!(notes[0].text.contains("1 h of it looks like a time zone"), "{notes:?}");
}

#[test]
fn a_clock_places_no_clip_whose_sound_ought_to_have_been_found() {
    let scene = scene(90.0, 46);
    let clock = |s: f64| label(EvidenceKind::DeviceClock, (DAY_S + s).floor());
    let clips = [
        recorder(&scene, 88.0),
        camera(&scene, 1, 4.0, 20.0, clock(4.0)),
        camera(&scene, 1, 60.0, 20.0, clock(60.0)),
        camera(&self::scene(20.0, 47), 1, 0.0, 15.0, clock(35.0)),
    ];
    let result = place(&clips);
    assert_eq!(result.placements[3].verdict, Verdict::Unplaced, "{:?}", result.placements[3].reasons);
}

/// A sound that holds one passage twice, a clip of a camera before and after both, and one wholly inside the second, each
/// labelled; the last one's result and where it began.
fn inside_the_second_of_two(seed: u64, labelled: impl Fn(f64) -> Label) -> (DayResult, f64) {
    let part = scene(20.0, seed);
    let mut twice = scene(30.0, seed + 1);
    twice.extend(&part);
    twice.extend(scene(25.0, seed + 2));
    let second_s = twice.len() as f64 / 16_000.0;
    twice.extend(&part);
    twice.extend(scene(40.0, seed + 3));
    let mut inside = clip(1, heard(&part, 2.0, 15.0, 0.0, 1.0, 0.01, 9));
    inside.labels = vec![labelled(second_s + 2.0)];
    let clips = [
        recorder(&twice, 134.0),
        camera(&twice, 1, 2.0, 15.0, labelled(2.0)),
        camera(&twice, 1, 118.0, 14.0, labelled(118.0)),
        inside,
    ];
    (place(&clips), second_s + 2.0)
}

#[test]
fn clocks_measured_on_two_clips_decide_where_the_sound_repeats() {
    let clock = |s: f64| label(EvidenceKind::DeviceClock, (DAY_S - 7200.0 + s).floor());
    let (result, begun_s) = inside_the_second_of_two(48, clock);
    assert!((start(&result, 3) - begun_s).abs() < 1e-3, "{}", start(&result, 3));
    says(&result, 3, "its device's clock decided");
}

#[test]
fn standing_and_whole_hour_timecode_is_set_aside() {
    let scene = scene(90.0, 34);
    let hour = || framed(3600.0);
    let clips = [
        recorder(&scene, 88.0),
        camera(&scene, 1, 4.0, 20.0, hour()),
        camera(&scene, 1, 40.0, 20.0, hour()),
        silent(1, 9.0, hour()),
        silent(2, 9.0, hour()),
    ];
    let result = place(&clips);
    for clip in [3, 4] {
        assert_eq!(result.placements[clip].verdict, Verdict::Unplaced, "{:?}", result.placements[clip]);
    }
    let trust = |device: usize| {
        result.clocks.iter().find(|clock| clock.device == device).map(|clock| clock.trust).expect("a clock")
    };
    assert_eq!((trust(1), trust(2)), (ClockTrust::Standing, ClockTrust::WholeHour));
    let notes = clock_notes(&result.clocks, &result.distances);
    assert!(notes.iter().any(|note| note.device == 1 && note.text.contains("all 3 clips")), "{notes:?}");
}

#[test]
fn timecode_that_counts_only_while_recording_is_set_aside() {
    let scene = scene(150.0, 35);
    let mut clips = vec![recorder(&scene, 148.0)];
    // Each clip's label goes on where the last one ended.
    for (i, s) in [4.0, 50.0, 101.0].into_iter().enumerate() {
        clips.push(camera(&scene, 1, s, 20.0, framed(20.0 * i as f64 + 0.2)));
    }
    clips.push(silent(1, 9.0, framed(60.2)));
    let result = place(&clips);
    let clock = result.clocks.iter().find(|clock| clock.device == 1).expect("a clock");
    assert_eq!(clock.trust, ClockTrust::Wandering);
    assert_eq!(result.placements[4].verdict, Verdict::Unplaced);
}

#[test]
fn silent_clips_go_by_the_nearest_timecode_where_it_was_set_anew() {
    let scene = scene(260.0, 38);
    // Jammed anew three frames off, or given another time of day, after the second clip.
    for off_s in [3.0 * FRAME, 4_321.0 + 7.0 * FRAME] {
        let label = |s: f64| framed(DAY_S + s + if s > 120.0 { off_s } else { 0.0 });
        let mut clips = vec![recorder(&scene, 258.0)];
        clips.extend([5.02, 50.31, 131.77, 180.4].map(|s| camera(&scene, 1, s, 20.0, label(s))));
        clips.extend([90.0, 220.0].map(|s| silent(1, 9.0, label(s))));
        let result = place(&clips);
        for (clip, s) in [(5, 90.0), (6, 220.0)] {
            assert!((start(&result, clip) - s).abs() < 0.75 * FRAME, "{clip}: {}", start(&result, clip));
        }
        let notes = clock_notes(&result.clocks, &result.distances);
        assert_eq!(notes.len(), 1, "{notes:?}");
        assert!(notes[0].text.contains("was set anew during the day"), "{notes:?}");
    }
}

#[test]
fn a_whole_device_eleven_frames_off_is_said_once_with_its_remedy() {
    let scene = scene(120.0, 36);
    let mut clips = vec![recorder(&scene, 118.0)];
    clips.extend(
        [5.02, 40.31, 70.77].iter().map(|&s| camera(&scene, 1, s, 20.0, framed(DAY_S + s + 11.0 * FRAME))),
    );
    let result = place(&clips);
    let notes = clock_notes(&result.clocks, &result.distances);
    assert_eq!(notes.len(), 1, "{notes:?}");
    assert_eq!(notes[0].take_off, Some(11));
    assert!(notes[0].text.contains("Take 11 frames off"), "{notes:?}");
    assert!((start(&result, 2) - 40.31).abs() < 0.5e-3, "sound decides");
    says(&result, 2, "Its file timecode says the same");
}

#[test]
fn one_clip_whose_timecode_disagrees_is_told_by_how_many_frames() {
    let scene = scene(150.0, 37);
    let mut clips = vec![recorder(&scene, 148.0)];
    for (i, s) in [5.02, 40.31, 70.77, 101.3].into_iter().enumerate() {
        let error = if i == 1 { 11.0 * FRAME } else { 0.0 };
        clips.push(camera(&scene, 1, s, 20.0, framed(DAY_S + s + error)));
    }
    let result = place(&clips);
    assert!((start(&result, 2) - 40.31).abs() < 0.5e-3);
    says(&result, 2, "frames ahead of its sound: sound was used");
    assert!(clock_notes(&result.clocks, &result.distances).is_empty());
}

#[test]
fn timecode_decides_where_the_sound_repeats() {
    let signal = |s: f64| label(EvidenceKind::AudioTimecode, DAY_S + s);
    let (result, begun_s) = inside_the_second_of_two(38, signal);
    assert!((start(&result, 3) - begun_s).abs() < 1e-3, "{}", start(&result, 3));
    assert_eq!(result.placements[3].verdict, Verdict::Solid, "{:?}", result.placements[3].reasons);
    says(&result, 3, "its audio timecode decided");
}

#[test]
fn an_island_lies_on_the_day_by_its_timecode() {
    let (main, far) = (scene(60.0, 42), scene(60.0, 43));
    let clips = [
        recorder(&main, 58.0),
        camera(&main, 1, 3.0, 15.0, framed(DAY_S + 3.0)),
        camera(&main, 1, 25.0, 15.0, framed(DAY_S + 25.0)),
        camera(&far, 1, 5.0, 40.0, framed(DAY_S + 505.0)),
        camera(&far, 2, 12.0, 40.0, label(EvidenceKind::DeviceClock, 0.0)),
    ];
    let result = place(&clips);
    let [one, other] = [start(&result, 3), start(&result, 4)];
    assert!((one - 505.0).abs() < FRAME, "{one}");
    assert!((other - one - 7.0).abs() < 1e-3, "sound keeps the island together: {}", other - one);
    let (lies, with) = (result.placements[3].component, result.placements[4].component);
    assert!(lies == with && lies > 0, "two labels in whole frames do not show it to half a frame");
    let island = result.islands[lies as usize];
    assert_eq!(island.by, Some(EvidenceKind::FileTimecode));
    assert!(island.sigma_s.is_some_and(|sigma_s| sigma_s < FRAME), "{island:?}");
}

#[test]
fn what_timecode_puts_where_nothing_ran_belongs_to_no_take() {
    let main = scene(60.0, 44);
    let clips = [
        recorder(&main, 58.0),
        camera(&main, 1, 3.0, 15.0, framed(DAY_S + 3.0)),
        camera(&main, 1, 25.0, 15.0, framed(DAY_S + 25.0)),
        camera(&scene(20.0, 45), 1, 0.0, 15.0, framed(DAY_S + 900.0)),
    ];
    let result = place(&clips);
    let alone = &result.placements[3];
    assert_eq!(alone.verdict, Verdict::Unplaced);
    says(&result, 3, "it belongs to no take");
    assert!((alone.alternatives[0].start_s - 900.0).abs() < FRAME, "{:?}", alone.alternatives);
}

#[test]
fn labels_are_read_from_facts_and_channels() {
    let timecode = Timecode::parse("09:14:02:05", FrameRate::FPS_25).expect("a label");
    let found = LtcFound {
        frames: 100,
        share: 0.9,
        first: timecode,
        first_s: 1.5,
        steady: 1.0,
        measured_fps: 25.0,
        jumps: 0,
        standing: 0,
        backwards: false,
        date: None,
    };
    let channel = |audio_timecode| ChannelState {
        peak_dbfs: -12.0,
        rms_dbfs: -15.0,
        clipped: 0,
        no_numbers: 0,
        floor_dbfs: -60.0,
        carries: Carries::default(),
        late_s: None,
        audio_timecode,
    };
    let picture = PictureFacts {
        rate: FrameRate::FPS_25,
        constant_rate: true,
        width: 640,
        height: 360,
        codec: "h264".into(),
        start_s: 0.0,
        duration_s: 10.0,
        frames: Some(250),
        still: false,
        colour: metaxis_core::clip::ColourFacts::default(),
    };
    let facts = ClipFacts {
        picture: Some(picture),
        timecode: Some(timecode),
        created: Some("2026-05-14T09:14:03Z".into()),
        ..ClipFacts::default()
    };
    let at =
        |labels: &[Label], kind| labels.iter().find(|label| label.kind == kind).map(|label| label.time_s);
    let all = labels(&facts, &[channel(None), channel(Some(found))]);
    assert_eq!(at(&all, EvidenceKind::FileTimecode), Some(33_242.2));
    assert_eq!(
        at(&all, EvidenceKind::AudioTimecode),
        Some(33_242.2 - 1.5),
        "counted back to the clip's zero"
    );
    assert_eq!(at(&all, EvidenceKind::DeviceClock), Some(33_243.0));
    let jumping = LtcFound { steady: 0.4, jumps: 3, ..found };
    let standing = LtcFound { steady: 0.02, standing: 90, ..found };
    for broken in
        [jumping, standing, LtcFound { backwards: true, ..found }, LtcFound { measured_fps: 24.0, ..found }]
    {
        let left = labels(&facts, &[channel(Some(broken))]);
        assert_eq!(at(&left, EvidenceKind::AudioTimecode), None, "no label of the clip: {broken:?}");
    }
    let once = LtcFound { steady: 0.8, jumps: 1, ..found };
    assert!(at(&labels(&facts, &[channel(Some(once))]), EvidenceKind::AudioTimecode).is_some());
    assert!(labels(&ClipFacts::default(), &[]).is_empty());
}

/// A night shoot: labels begin again at midnight, the axis does not.
#[test]
fn a_day_that_runs_over_midnight_is_placed_by_its_labels() {
    const DAY: f64 = 86_400.0;
    let scene = scene(130.0, 61);
    let began_s = DAY - 60.0;
    let own = |kind, s: f64| label(kind, (began_s + s) % DAY);
    let mut recorder = clip(0, heard(&scene, 0.0, 128.0, 0.0, 1.0, 0.001, 1));
    recorder.labels = vec![own(EvidenceKind::FileTimecode, 0.0)];
    let audio = EvidenceKind::AudioTimecode;
    let clips = [
        recorder,
        camera(&scene, 1, 10.0, 20.0, own(audio, 10.0)),
        camera(&scene, 1, 45.0, 30.0, own(audio, 45.0)),
        camera(&scene, 1, 90.0, 20.0, own(audio, 90.0)),
        silent(1, 8.0, own(audio, 30.0)),
        silent(1, 8.0, own(audio, 79.96)),
    ];
    let result = place(&clips);
    for (clip, at_s) in [(4, 30.0), (5, 79.96)] {
        assert_eq!(result.placements[clip].verdict, Verdict::Solid, "{:?}", result.placements[clip].reasons);
        assert!((start(&result, clip) - at_s).abs() < 0.5e-3, "{} for {at_s}", start(&result, clip));
    }
    assert_eq!(clock_notes(&result.clocks, &result.distances), vec![], "nothing is off");
    // Eleven frames late before midnight and after it are eleven frames late.
    let late = clips.into_iter().map(|mut own| {
        if own.device == 1 {
            own.labels[0].time_s = (own.labels[0].time_s + 11.0 * FRAME) % DAY;
        }
        own
    });
    let result = place(&late.collect::<Vec<_>>());
    let notes = clock_notes(&result.clocks, &result.distances);
    assert_eq!(notes.iter().filter_map(|note| note.take_off).collect::<Vec<_>>(), [11], "{notes:?}");
    assert!((start(&result, 5) - 79.96).abs() < 0.5e-3, "{}", start(&result, 5));
}

/// Labels are of the picture: a camera far away is heard late, but its timecode is not.
#[test]
fn a_given_distance_counts_for_timecode_too() {
    let scene = scene(130.0, 62);
    let late_s = 30.0 / SOUND_M_PER_S;
    let audio = |s: f64| label(EvidenceKind::AudioTimecode, DAY_S + s);
    let far = |start_s: f64, metres: f64| {
        let heard_s = start_s - metres / SOUND_M_PER_S;
        let mut own = clip(1, heard(&scene, heard_s, 20.0, 0.0, 1.0, 0.001, 1 + start_s as u64));
        own.labels = vec![audio(start_s)];
        own
    };
    // Three clips from 30 m away, one from beside the sound, one without sound.
    let clips = |given: [GivenDistance; 5]| {
        let mut all = vec![
            recorder(&scene, 128.0),
            far(5.0, 30.0),
            far(28.0, 30.0),
            far(75.0, 30.0),
            far(51.0, 0.0),
            silent(1, 8.0, audio(100.0)),
        ];
        for (own, distance) in all[1..].iter_mut().zip(given) {
            own.distance = distance;
        }
        all
    };
    use GivenDistance::{Clip, Device, None as Nothing};
    // Unknown, the offset is that of the most clips: the silent one lies as early as they do.
    let unknown = place(&clips([Nothing; 5]));
    assert!((start(&unknown, 5) - (100.0 - late_s)).abs() < 1e-3, "{}", start(&unknown, 5));
    says(&unknown, 4, "its sound: sound was used");
    // Given, all lie where their pictures were, and nothing disagrees.
    let known = place(&clips([Device(30.0), Device(30.0), Device(30.0), Clip(0.0), Device(30.0)]));
    for (clip, at_s) in [(1, 5.0), (2, 28.0), (3, 75.0), (4, 51.0), (5, 100.0)] {
        assert!((start(&known, clip) - at_s).abs() < 1e-3, "{} for {at_s}", start(&known, clip));
        let own = known.placements[clip].evidence.iter().find(|e| e.kind == EvidenceKind::AudioTimecode);
        let own = own.expect("its timecode");
        assert!(own.used && (own.start_s - at_s).abs() < 1e-3, "{own:?}");
    }
    for clip in 1..=4 {
        says(&known, clip, "Its audio timecode says the same.");
    }
    assert_eq!(clock_notes(&known.clocks, &known.distances), vec![]);
}
