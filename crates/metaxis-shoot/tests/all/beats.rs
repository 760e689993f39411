//! Beats that are found in simulated music, held against those that were played.

use metaxis_core::{
    clip::DeviceId,
    group::{Angle, AngleId, AnglePart, Group},
    line::music_cut,
    signal::{BandReader, Bands, Beats, LISTEN_RATE},
    sync::Stretch,
    time::{FrameRate, Tick, Timecode},
};
use metaxis_shoot::field::Sound;

fn bands(sound: &[f32]) -> Bands {
    let mut reader = BandReader::new();
    reader.push(sound);
    reader.finish()
}

/// Music of beats of `beat_s`, stressed every other one: made at half a second a beat, and played faster or slower.
fn played(beat_s: f64, tune: u64, seconds: f64) -> Vec<f32> {
    let rate = (f64::from(LISTEN_RATE) * beat_s / 0.5).round() as u32;
    let sound = Sound::Loops { bar_ms: 2000, tune, lead: true }.make(seconds * 0.5 / beat_s, rate);
    // As a recorder far off hears it: with the air of its room.
    let air = Sound::Hum { tone: tune, air: tune }.make(seconds + 1.0, LISTEN_RATE);
    sound.iter().zip(air).map(|(own, air)| own + 0.03 * air).collect()
}

#[test]
fn beats_are_where_they_were_played_at_any_tempo() {
    let (mut all, mut right, mut stressed, mut bars) = (0, 0, 0, 0);
    for (number, beat_s) in [0.375, 0.42, 0.5, 0.5, 0.545, 0.6, 0.66].into_iter().enumerate() {
        let beats = Beats::find(&bands(&played(beat_s, number as u64, 60.0))).expect("beats");
        // How far the nearest beat that was played is off; a bar begins on one that is stressed.
        let off = |at_s: f64, of_s: f64| (at_s / of_s - (at_s / of_s).round()).abs() * of_s;
        for at_s in &beats.at_s {
            all += 1;
            right += usize::from(off(*at_s, beat_s) < 0.04);
        }
        let expected = 60.0 / beat_s;
        let count = beats.at_s.len() as f64;
        assert!((count / expected - 1.0).abs() < 0.06, "{beat_s} s: {count} beats of {expected}");
        for at_s in beats.every(1, true) {
            bars += 1;
            stressed += usize::from(off(at_s, 2.0 * beat_s) < 0.04);
        }
        assert_eq!(beats.in_a_bar, 4, "{beat_s} s");
    }
    println!("{right} of {all} beats within 40 ms, {stressed} of {bars} bars on a stressed beat");
    assert!(right * 100 >= all * 95, "{right} of {all} beats");
    assert!(stressed * 100 >= bars * 90, "{stressed} of {bars} bars");
}

#[test]
fn what_keeps_no_time_has_no_beats() {
    for sound in [Sound::Hum { tone: 3, air: 3 }, Sound::Crowd(5), Sound::Speech { voices: 2, words: 9 }] {
        let found = Beats::find(&bands(&sound.make(40.0, LISTEN_RATE)));
        assert!(found.is_none(), "{sound:?}: {} beats", found.map_or(0, |own| own.at_s.len()));
    }
    assert_eq!(Beats::find(&Bands::default()), None);
}

#[test]
fn a_music_cut_shows_angles_in_turn_that_run_to_the_next_cut() {
    let part = |from_frame, to_frame| AnglePart {
        clip: metaxis_core::clip::ClipId(1),
        from_frame,
        to_frame,
        stretch: Stretch::whole(20.0, 0.0),
        picture_delay_s: 0.0,
        rate: FrameRate::FPS_25,
        still: false,
    };
    let angle = |device, parts| Angle::of(DeviceId(device), parts);
    let group = Group {
        name: "3 / 1".into(),
        start: Timecode::new(0, FrameRate::FPS_25, false),
        axis_zero: Tick(0),
        component: 0,
        frames: 500,
        width: 1920,
        height: 1080,
        angles: vec![
            angle(1, vec![part(0, 500)]),
            angle(2, vec![part(0, 250), part(250, 500)]),
            angle(3, vec![part(90, 260)]),
        ],
        sound: None,
        window: None,
        removed: vec![],
        seams: vec![],
        grid: None,
    };
    let shots = music_cut(&group, &[100, 200, 300, 400, 400, 900]);
    let shown: Vec<(i64, AngleId)> = shots.iter().map(|own| (own.at, own.angle)).collect();
    let [one, two, three] = [1, 2, 3].map(AngleId);
    // The third runs from 90 to 260: at 200 it is its turn, and it would end before the next cut.
    assert_eq!(shown, [(0, one), (100, two), (200, one), (300, two), (400, one)]);
    assert_eq!(music_cut(&group, &[100, 150, 200])[2].angle, three);
}
