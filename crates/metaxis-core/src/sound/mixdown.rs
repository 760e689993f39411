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
    /// For each track, from which to which output sample its camera is shown; `None` of what is no camera's.
    shown: Vec<Option<Vec<(i64, i64)>>>,
    /// Samples in which it comes and goes.
    fade: i64,
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
            shown: tracks.iter().map(|track| shown(track.device)).collect(),
            fade: (FADE_S * rate).round().max(1.0) as i64,
        }
    }

    /// Fills one buffer an output with the mix of `tracks`, of which the first samples are output sample `from`.
    pub fn mix(&self, from: i64, tracks: &[Vec<f32>], out: &mut [Vec<f32>]) {
        let length = tracks.first().map_or(0, Vec::len);
        for ((out, factors), follows) in out.iter_mut().zip(&self.factors).zip(&self.follows) {
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
}
