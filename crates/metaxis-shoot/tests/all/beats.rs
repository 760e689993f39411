//! Beats that are found in simulated music, held against those that were played.

use metaxis_core::{
    clip::DeviceId,
    group::{Angle, AngleId, AnglePart, Group},
    line::music_cut,
    signal::{BandReader, BassReader, Beats, LISTEN_RATE},
    sync::Stretch,
    time::{FrameRate, Tick, Timecode},
};
use metaxis_shoot::field::Sound;

fn beats_of(sound: &[f32]) -> Option<Beats> {
    let (mut bands, mut bass) = (BandReader::new(), BassReader::default());
    bands.push(sound);
    bass.push(sound);
    Beats::find(&bands.finish(), &bass.finish())
}

/// A stroke: a tone that dies away, and the noise of what strikes.
fn stroke(sound: &mut [f32], at_s: f64, level: f32, hz: f32, decay_s: f32, noise: &[f32]) {
    let rate = LISTEN_RATE as f32;
    let from = (at_s * f64::from(LISTEN_RATE)).round() as usize;
    for (i, out) in sound.iter_mut().skip(from).take((decay_s * 6.0 * rate) as usize).enumerate() {
        let at = i as f32 / rate;
        let tone = (std::f32::consts::TAU * hz * at).sin() * (-at / decay_s).exp();
        let struck = noise[i % noise.len()] * (-at / 0.012).exp();
        *out += level * (0.7 * tone + 0.6 * struck);
    }
}

/// A band in four: kick, snare, hats on the halves, a soft tune of its own time and the air of the room; its tempo wanders by a hundredth.
/// The sound, and when its beats are.
fn played(beat_s: f64, tune: u64, seconds: f64) -> (Vec<f32>, Vec<f64>) {
    let noise: Vec<f32> = Sound::Crowd(tune).make(1.0, LISTEN_RATE).iter().map(|own| own * 2.0).collect();
    let air = Sound::Hum { tone: tune, air: tune }.make(seconds, LISTEN_RATE);
    let melody = Sound::Music { tune, performance: tune }.make(seconds, LISTEN_RATE);
    let mut sound: Vec<f32> = air.iter().zip(melody).map(|(air, own)| 0.03 * air + 0.12 * own).collect();
    let (mut at_s, mut beats) = (0.4, vec![]);
    while at_s < seconds - 1.0 {
        let place = beats.len() % 4;
        let (level, hz, decay_s) =
            [(0.8, 65.0, 0.09), (0.45, 190.0, 0.06), (0.5, 65.0, 0.08), (0.45, 190.0, 0.06)][place];
        stroke(&mut sound, at_s, level, hz, decay_s, &noise);
        let length_s = beat_s * (1.0 + 0.01 * (at_s / 7.0).sin());
        for half in [0.0, 0.5] {
            stroke(&mut sound, at_s + half * length_s, 0.1, 3000.0, 0.02, &noise);
        }
        beats.push(at_s);
        at_s += length_s;
    }
    (sound, beats)
}

#[test]
fn beats_are_where_they_were_played_at_any_tempo() {
    let (mut all, mut right, mut bars, mut first) = (0, 0, 0, 0);
    for (number, beat_s) in [0.375, 0.42, 0.46, 0.5, 0.545, 0.6, 0.7].into_iter().enumerate() {
        let (sound, truth) = played(beat_s, number as u64, 60.0);
        let beats = beats_of(&sound).expect("beats");
        let near = |at_s: f64| truth.iter().position(|own| (own - at_s).abs() < 0.04);
        // Twice as fast is a matter of taste, too: then every other one is halfway.
        let is_double = beats.at_s.len() * 2 > truth.len() * 3;
        let is_half = |at_s: f64| {
            is_double && truth.windows(2).any(|own| ((own[0] + own[1]) / 2.0 - at_s).abs() < 0.04)
        };
        for at_s in &beats.at_s {
            all += 1;
            right += usize::from(near(*at_s).is_some() || is_half(*at_s));
        }
        let missed =
            truth.iter().filter(|own| !beats.at_s.iter().any(|at_s| (*own - at_s).abs() < 0.04)).count();
        assert!(missed * 20 < truth.len(), "{beat_s} s: {missed} of {} beats are missed", truth.len());
        assert_eq!(beats.in_a_bar, 4, "{beat_s} s");
        for at_s in beats.every(1, true) {
            bars += 1;
            first += usize::from(near(at_s).is_some_and(|own| own % 4 == 0));
        }
    }
    println!("{right} of {all} beats within 40 ms, {first} of {bars} bars on the first beat");
    assert!(right * 100 >= all * 95, "{right} of {all} beats");
    assert!(first * 100 >= bars * 80, "{first} of {bars} bars");
}

#[test]
fn what_keeps_no_time_has_no_beats() {
    let talk = |seed| Sound::Speech { voices: 2, words: seed };
    for sound in (3..7).flat_map(|seed| [Sound::Crowd(seed), talk(seed)]) {
        let found = beats_of(&sound.make(40.0, LISTEN_RATE));
        assert!(found.is_none(), "{sound:?}: {} beats", found.map_or(0, |own| own.at_s.len()));
    }
    assert_eq!(beats_of(&[]), None);
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
