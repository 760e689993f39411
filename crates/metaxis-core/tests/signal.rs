//! Channels and levels.

use metaxis_core::signal::{
    ChannelMeter, ChannelState, LEVEL_RATE, LISTEN_RATE, LevelReader, level_strip, listening_channels,
};

fn state_of(samples: impl Iterator<Item = f32>) -> ChannelState {
    let mut meter = ChannelMeter::new(48_000);
    samples.for_each(|sample| meter.push(sample));
    meter.state()
}

fn sine(hz: f32, level: f32) -> impl Iterator<Item = f32> {
    (0..96_000).map(move |i| level * (std::f32::consts::TAU * hz * i as f32 / 48_000.0).sin())
}

#[test]
fn levels_are_said_in_decibels() {
    let state = state_of(sine(440.0, 0.5));
    assert!((state.peak_dbfs + 6.02).abs() < 0.05 && (state.rms_dbfs + 9.03).abs() < 0.05, "{state:?}");
    assert!(!state.dead && !state.audio_timecode);
    assert!(state_of(std::iter::repeat_n(0.0, 1000)).dead);
}

#[test]
fn a_steady_tone_is_no_timecode() {
    for hz in [400.0, 1000.0, 2000.0, 2400.0] {
        assert!(!state_of(sine(hz, 0.3)).audio_timecode, "{hz}");
    }
}

#[test]
fn timecode_and_dead_channels_are_never_listened_to() {
    let plain = ChannelState { peak_dbfs: -6.0, rms_dbfs: -20.0, audio_timecode: false, dead: false };
    let timecode = ChannelState { audio_timecode: true, ..plain };
    let dead = ChannelState { dead: true, ..plain };
    assert_eq!(listening_channels(&[plain, plain, plain, plain, plain]), [0, 1]);
    assert_eq!(listening_channels(&[timecode, plain]), [1]);
    assert_eq!(listening_channels(&[dead, plain, plain]), [1, 2]);
    assert!(listening_channels(&[timecode, dead]).is_empty());
}

#[test]
fn a_strip_shows_the_loudest_of_each_part() {
    let mut reader = LevelReader::default();
    let second = LISTEN_RATE as usize;
    let mut sound = vec![0.0_f32; 2 * second];
    sound[second + 10] = -1.0;
    reader.push(&sound);
    let levels = reader.finish();
    assert_eq!(levels.len(), 4 * LEVEL_RATE as usize);
    assert_eq!(level_strip(&levels, 0.0, 2.0, 4), [0, 0, 127, 0]);
    assert_eq!(level_strip(&levels, 5.0, 6.0, 2), [0, 0], "outside is silent");
    assert!(level_strip(&[], 0.0, 1.0, 3).iter().all(|level| *level == 0));
}
