//! Tracks mixed to the outputs of a grid, sample by sample.

use super::{Grid, Track};
use crate::clip::DeviceId;

/// A sound that comes or goes with a picture does so within this, seconds: short enough for a word, long enough not to click.
const FADE_S: f64 = 0.01;

/// Mixes tracks to outputs.
#[derive(Debug, Clone, PartialEq)]
pub struct Mixdown {
    /// Factors of the tracks, output by output.
    factors: Vec<Vec<f32>>,
    /// For each output, whether cameras' tracks go to it only while they are shown.
    follows: Vec<bool>,
    /// For each output, whether it is muted.
    muted: Vec<bool>,
    /// For each track, from which to which output sample its camera is shown; `None` of what is no camera's.
    shown: Vec<Option<Vec<(i64, i64)>>>,
    /// Samples in which it comes and goes.
    fade: i64,
    /// What is heard from when on, in order; nothing of it where the grid is heard throughout.
    turns: Vec<Turn>,
    /// The device of each track, where that counts.
    own: Vec<DeviceId>,
}

/// From an output sample on something else is heard.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Turn {
    /// The sample.
    pub at: i64,
    /// A device's own sound; what comes out of the grid where `None`.
    pub device: Option<DeviceId>,
    /// Samples in which it comes, and what was heard before goes.
    pub fade: i64,
}

impl Mixdown {
    /// Of `tracks` by a grid, at `rate` samples a second. `shown` says of a device from which to which output sample its picture is
    /// shown, in order; `None` of one that has no pictures.
    pub fn new(
        grid: &Grid,
        tracks: &[Track],
        rate: f64,
        shown: impl Fn(DeviceId) -> Option<Vec<(i64, i64)>>,
    ) -> Self {
        Self {
            factors: grid.factors(tracks),
            follows: grid.outputs.iter().map(|output| output.follows).collect(),
            muted: grid.outputs.iter().map(|output| output.muted).collect(),
            shown: tracks.iter().map(|track| shown(track.device)).collect(),
            fade: (FADE_S * rate).round().max(1.0) as i64,
            turns: vec![],
            own: vec![],
        }
    }

    /// The same where at times a device's own sound is heard instead of what comes out of the grid: all of its tracks together, on
    /// every output.
    #[must_use]
    pub fn with_turns(mut self, turns: Vec<Turn>, tracks: &[Track]) -> Self {
        self.own = tracks.iter().map(|track| track.device).collect();
        self.turns = turns;
        self
    }

    /// Fills one buffer an output with the mix of `tracks`, of which the first samples are output sample `from`.
    pub fn mix(&self, from: i64, tracks: &[Vec<f32>], out: &mut [Vec<f32>]) {
        let length = tracks.first().map_or(0, Vec::len);
        let outputs = self.factors.iter().zip(&self.follows).zip(&self.muted);
        for (out, ((factors, follows), muted)) in out.iter_mut().zip(outputs) {
            out.clear();
            out.resize(length, 0.0);
            for ((track, factor), shown) in tracks.iter().zip(factors).zip(&self.shown) {
                if *factor == 0.0 {
                    continue;
                }
                match shown.as_ref().filter(|_| *follows) {
                    None => out.iter_mut().zip(track).for_each(|(out, value)| *out += factor * value),
                    Some(shown) => self.add_shown(from, track, *factor, shown, out),
                }
            }
            // An output that is muted stays so.
            if !self.turns.is_empty() && !muted {
                self.take_turns(from, tracks, out);
            }
        }
    }

    /// Lets what is heard instead of the grid come and go.
    fn take_turns(&self, from: i64, tracks: &[Vec<f32>], out: &mut [f32]) {
        let to = from + out.len() as i64;
        let grid = out.to_vec();
        out.fill(0.0);
        for (number, turn) in self.turns.iter().enumerate() {
            let next = self.turns.get(number + 1);
            let ends = next.map_or(i64::MAX, |next| next.at.saturating_add(next.fade));
            let (first, last) = (turn.at.max(from), ends.min(to));
            if first >= last {
                continue;
            }
            let own: Vec<&Vec<f32>> = match turn.device {
                None => vec![&grid],
                Some(device) => {
                    let is_its = |number: &usize| self.own.get(*number) == Some(&device);
                    (0..tracks.len()).filter(is_its).map(|number| &tracks[number]).collect()
                }
            };
            let share = 1.0 / own.len().max(1) as f32;
            // Nothing comes at the very beginning: it is there.
            let risen = |at: i64, turn: &Turn, is_first: bool| {
                if is_first { 1.0 } else { ((at - turn.at) as f32 / turn.fade.max(1) as f32).clamp(0.0, 1.0) }
            };
            for at in first..last {
                let gone = next.map_or(0.0, |next| risen(at, next, false));
                let weight = share * risen(at, turn, number == 0) * (1.0 - gone);
                let place = (at - from) as usize;
                out[place] += own.iter().map(|track| track[place]).sum::<f32>() * weight;
            }
        }
    }

    fn add_shown(&self, from: i64, track: &[f32], factor: f32, shown: &[(i64, i64)], out: &mut [f32]) {
        let half = self.fade / 2;
        let to = from + track.len() as i64;
        for &(begin, end) in shown {
            let (first, last) = ((begin - half).max(from), (end + half).min(to));
            for at in first..last {
                // Half as loud at the cut: what goes and what comes are one together.
                let open = (at - begin + half).min(end + half - at) as f32 / self.fade as f32;
                let place = (at - from) as usize;
                out[place] += factor * open.clamp(0.0, 1.0) * track[place];
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sound::{Crosspoint, GridOutput, TrackKey};

    #[test]
    fn a_camera_is_heard_while_it_is_shown_and_a_recorder_always() {
        let track =
            |device: i64| Track { device: DeviceId(device), channel: 0, name: None, lane: 0, parts: vec![] };
        let tracks = [track(1), track(8), track(9)];
        let point = |source: &Track, level_db| Crosspoint {
            source: TrackKey::of(source),
            output: 0,
            level_db,
            inverted: false,
            on: true,
        };
        let output = GridOutput { name: "All".into(), ear: Default::default(), muted: false, follows: true };
        let grid = Grid {
            outputs: vec![output.clone(), GridOutput { follows: false, ..output }],
            points: tracks.iter().map(|own| point(own, 0.0)).collect(),
            muted: vec![],
        };
        // Device 8 is shown up to sample 5000, 9 from there on.
        let shown = |device: DeviceId| match device.0 {
            8 => Some(vec![(0, 5_000)]),
            9 => Some(vec![(5_000, 10_000)]),
            _ => None,
        };
        let mix = Mixdown::new(&grid, &tracks, 48_000.0, shown);
        let sounds = [vec![0.25; 10_000], vec![0.5; 10_000], vec![0.5; 10_000]];
        let mut whole = vec![vec![]; 2];
        mix.mix(0, &sounds, &mut whole);
        // Away from the ends, one camera at a time: the same loudness through the cut.
        assert!(whole[0][300..9_700].iter().all(|value| (value - 0.75).abs() < 1e-6));
        assert!(whole[1].iter().all(|value| *value == 0.0));
        // Piece by piece it is the same.
        let mut at = 0;
        for count in [1, 4_799, 300, 4_900] {
            let pieces: Vec<Vec<f32>> = sounds.iter().map(|own| own[at..at + count].to_vec()).collect();
            let mut piece = vec![vec![]; 2];
            mix.mix(at as i64, &pieces, &mut piece);
            assert_eq!(piece[0], whole[0][at..at + count]);
            at += count;
        }
    }

    #[test]
    fn a_devices_own_sound_is_heard_in_its_turn_and_dissolves() {
        let track = |device: i64, channel| Track {
            device: DeviceId(device),
            channel,
            name: None,
            lane: 0,
            parts: vec![],
        };
        let tracks = [track(1, 0), track(8, 0), track(8, 1)];
        let point = Crosspoint {
            source: TrackKey::of(&tracks[0]),
            output: 0,
            level_db: 0.0,
            inverted: false,
            on: true,
        };
        let output = GridOutput { name: "All".into(), ear: Default::default(), muted: false, follows: false };
        let grid = Grid { outputs: vec![output], points: vec![point], muted: vec![] };
        let turn = |at, device: Option<i64>, fade| Turn { at, device: device.map(DeviceId), fade };
        let turns = vec![turn(0, None, 0), turn(1000, Some(8), 100), turn(3000, None, 10)];
        let mix = Mixdown::new(&grid, &tracks, 48_000.0, |_| None).with_turns(turns, &tracks);
        let sounds = [vec![0.5; 4000], vec![0.1; 4000], vec![0.3; 4000]];
        let mut whole = vec![vec![]];
        mix.mix(0, &sounds, &mut whole);
        let at = |place: usize| whole[0][place];
        for (place, expected) in
            [(0, 0.5), (999, 0.5), (1050, 0.35), (1100, 0.2), (2999, 0.2), (3005, 0.35), (3999, 0.5)]
        {
            assert!((at(place) - expected).abs() < 1e-4, "{} at {place}", at(place));
        }
        // Piece by piece it is the same.
        let mut piece = vec![vec![]];
        let some: Vec<Vec<f32>> = sounds.iter().map(|own| own[1020..1080].to_vec()).collect();
        mix.mix(1020, &some, &mut piece);
        assert_eq!(piece[0], whole[0][1020..1080]);
    }
}
