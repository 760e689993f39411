//! The sound of a film, as it is in it: to the last bit, or in its place where it is coded.

use super::{join::channels_of, spec::SoundTrack, writer::FilmWriter};
use crate::{
    MediaError, Tool,
    picture_out::{HASHED, hashes_of},
    tracks::{picked, tracks_graph},
};
use std::{io::Read, path::Path};

/// Sound that is coded is looked for so far around its place, in seconds, and so much of it.
const AROUND_S: f64 = 0.01;
const LISTENED_S: f64 = 1.0;
/// Samples a second of a film's sound.
const RATE: f64 = 48_000.0;

impl FilmWriter {
    /// Whether the samples of a film are those of the WAV, to the last bit.
    pub(super) fn is_the_same_sound(
        &self,
        film: &Path,
        wave: &Path,
        tracks: &[SoundTrack],
    ) -> Result<bool, MediaError> {
        let hashed = |tool: Tool| {
            tool.args(["-c:a", "pcm_s24le"])
                .args(HASHED)
                .output(1 << 16, &self.stop)
                .map(|own| hashes_of(&own))
        };
        let of_film = hashed(Tool::ffmpeg(film).args(["-i"]).file(film).args(["-map", "0:a?"]))?;
        let graph = tracks_graph(0, &channels_of(tracks));
        let mapped = (0..tracks.len()).flat_map(|number| ["-map".to_owned(), format!("[t{number}]")]);
        let of_wave =
            Tool::ffmpeg(wave).args(["-i"]).file(wave).args(["-filter_complex", &graph]).args(mapped);
        Ok(of_film == hashed(of_wave)?)
    }

    /// Whether coded sound lies where it lay, to a sample, at the head and at the tail of each track.
    pub(super) fn is_in_its_place(
        &self,
        film: &Path,
        wave: &Path,
        tracks: &[SoundTrack],
    ) -> Result<bool, MediaError> {
        let length_s = self.spec.frames as f64 / self.spec.rate.as_f64();
        let tail_s = (length_s - LISTENED_S - 2.0 * AROUND_S).max(0.0);
        for (number, track) in tracks.iter().enumerate() {
            let first = track.channels.start;
            for from in [0, (tail_s * RATE) as usize] {
                let of_wave = self.samples(wave, 0, first, from)?;
                let of_film = self.samples(film, number, 0, from)?;
                if !is_at_its_place(&of_wave, &of_film) {
                    return Ok(false);
                }
            }
        }
        Ok(true)
    }

    /// What is listened to of a channel of a sound track, from sample `from` on.
    fn samples(
        &self,
        path: &Path,
        track: usize,
        channel: usize,
        from: usize,
    ) -> Result<Vec<f32>, MediaError> {
        let pick = picked(&(channel..channel + 1));
        let to = from + ((LISTENED_S + 2.0 * AROUND_S) * RATE) as usize;
        let mut bytes = vec![];
        // Counted from the first on: where one is that is gone to, a coder may not know to a sample.
        Tool::ffmpeg(path)
            .args(["-i"])
            .file(path)
            .args(["-map", &format!("0:a:{track}")])
            .args(["-af", &format!("{pick},atrim=start_sample={from}:end_sample={to}")])
            .args(["-c:a", "pcm_f32le", "-f", "f32le", "pipe:1"])
            .stream(&self.stop, |out| out.read_to_end(&mut bytes).map(|_| ()))?;
        Ok(bytes.chunks_exact(4).map(|own| f32::from_le_bytes([own[0], own[1], own[2], own[3]])).collect())
    }
}

/// Whether what is heard in `made` is nowhere nearer in `coded` than at the same place. Both begin and end [`AROUND_S`] before and after
/// what is compared.
fn is_at_its_place(made: &[f32], coded: &[f32]) -> bool {
    let around = (AROUND_S * RATE) as usize;
    let own = made.get(around..made.len().saturating_sub(around)).unwrap_or_default();
    let energy = |own: &[f32]| own.iter().map(|own| f64::from(*own) * f64::from(*own)).sum::<f64>();
    // Silence is everywhere alike.
    if energy(own) <= 1e-6 * own.len() as f64 {
        return true;
    }
    let likeness = |shift: usize| {
        let other = coded.get(shift..(shift + own.len()).min(coded.len())).unwrap_or_default();
        let sum: f64 = own.iter().zip(other).map(|(a, b)| f64::from(*a) * f64::from(*b)).sum();
        sum / (energy(other).sqrt() * energy(own).sqrt()).max(1e-12)
    };
    let best = (0..=2 * around).max_by(|a, b| likeness(*a).total_cmp(&likeness(*b)));
    best.is_some_and(|own| own.abs_diff(around) <= 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sound_that_is_late_or_early_is_heard_to_be() {
        let noise = |n: usize| ((n as f64 * 12.9898).sin() * 43_758.547).fract() as f32 - 0.5;
        let heard = |from: usize| (from..from + 20_000).map(noise).collect::<Vec<_>>();
        assert!(is_at_its_place(&heard(100), &heard(100)));
        for off in [60, 98, 102, 140] {
            assert!(!is_at_its_place(&heard(100), &heard(off)), "{off}");
        }
        assert!(is_at_its_place(&[0.0; 20_000], &heard(100)), "silence has no place");
        assert!(!is_at_its_place(&heard(100), &[0.0; 20_000]), "silence is not what was made");
        // What is shorter than what is left around it is not listened to.
        assert!(is_at_its_place(&[0.5; 900], &[]));
    }
}
