//! The samples of everything that is laid under a picture, track by track.

use super::{Laid, Render, Samples};

/// Makes the tracks of a [`Laid`].
pub struct Tracks {
    renders: Vec<Render>,
    extents: Vec<(i64, i64)>,
    /// For each source, its channels and the tracks that they go to.
    routes: Vec<Vec<(usize, usize)>>,
    /// The channels of the source that is being read.
    channels: Vec<Vec<f32>>,
}

impl Tracks {
    /// Of what is laid.
    pub fn new(laid: &Laid) -> Self {
        let of = |source: usize| {
            let tracks = laid.tracks.iter().enumerate();
            let own = move |(track, own): (usize, &super::Track)| {
                let parts = own.parts.iter().filter(|(part, _)| *part == source);
                parts.map(|(_, channel)| (*channel, track)).collect::<Vec<_>>()
            };
            tracks.flat_map(own).collect()
        };
        Self {
            renders: laid.sources.iter().map(|own| Render::new(own.legs.clone(), own.rates)).collect(),
            extents: laid.sources.iter().map(super::LaidSource::extent).collect(),
            routes: (0..laid.sources.len()).map(of).collect(),
            channels: vec![],
        }
    }

    /// Fills one buffer a track, all of one length, with what is heard from output sample `from` on. `sources` are the sounds in
    /// the order of the laid; only those that run there are read.
    ///
    /// # Errors
    /// Those of a source.
    pub fn read<S: Samples>(
        &mut self,
        sources: &mut [S],
        from: i64,
        out: &mut [Vec<f32>],
    ) -> Result<(), S::Error> {
        self.read_some(sources, from, out, |_| true)
    }

    /// The same of those tracks that `wanted` says; the others are silent, and what only they have is not read.
    ///
    /// # Errors
    /// Those of a source.
    pub fn read_some<S: Samples>(
        &mut self,
        sources: &mut [S],
        from: i64,
        out: &mut [Vec<f32>],
        wanted: impl Fn(usize) -> bool,
    ) -> Result<(), S::Error> {
        let length = out.first().map_or(0, Vec::len);
        let mut is_heard = vec![false; out.len()];
        for (number, source) in sources.iter_mut().enumerate() {
            let (begin, end) = self.extents[number];
            let is_wanted = self.routes[number].iter().any(|(_, track)| wanted(*track));
            if begin >= from + length as i64 || end <= from || !is_wanted {
                continue;
            }
            self.channels.resize(source.channels(), vec![]);
            self.channels.iter_mut().for_each(|channel| channel.resize(length, 0.0));
            self.renders[number].read(source, from, &mut self.channels)?;
            for &(channel, track) in self.routes[number].iter().filter(|(_, track)| wanted(*track)) {
                let Some(heard) = self.channels.get(channel) else { continue };
                if std::mem::replace(&mut is_heard[track], true) {
                    // Two parts of a track never sound at once: what is added is silence.
                    out[track].iter_mut().zip(heard).for_each(|(out, value)| *out += value);
                } else {
                    out[track].copy_from_slice(heard);
                }
            }
        }
        for (track, _) in out.iter_mut().zip(is_heard).filter(|(_, is_heard)| !is_heard) {
            track.fill(0.0);
        }
        Ok(())
    }
}

/// Several sounds one behind the other, as one.
pub struct Chain<S> {
    /// Each with the sample at which it begins.
    parts: Vec<(S, i64)>,
}

impl<S: Samples> Chain<S> {
    /// Of sounds of the same channels, each with the sample at which it begins, in order.
    pub fn new(parts: Vec<(S, i64)>) -> Self {
        Self { parts }
    }

    /// The sounds, each with the sample at which it begins.
    pub fn parts(&self) -> &[(S, i64)] {
        &self.parts
    }
}

impl<S: Samples> Samples for Chain<S> {
    type Error = S::Error;

    fn channels(&self) -> usize {
        self.parts.first().map_or(0, |(part, _)| part.channels())
    }

    fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), S::Error> {
        let to = from + out.first().map_or(0, Vec::len) as i64;
        let begins: Vec<i64> = self.parts.iter().map(|(_, at)| *at).collect();
        for (number, (part, at)) in self.parts.iter_mut().enumerate() {
            // The first also gives what is before it, and the last what is behind: silence.
            let begin = if number == 0 { from } else { from.max(*at) };
            let end = begins.get(number + 1).map_or(to, |next| to.min(*next));
            if begin >= end {
                continue;
            }
            if (begin, end) == (from, to) {
                return part.read(from - *at, out);
            }
            let mut piece = vec![vec![0.0; (end - begin) as usize]; out.len()];
            part.read(begin - *at, &mut piece)?;
            for (out, piece) in out.iter_mut().zip(&piece) {
                out[(begin - from) as usize..(end - from) as usize].copy_from_slice(piece);
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{
        clip::DeviceId,
        sound::{LaidSource, Leg, Rates, Track},
    };
    use std::convert::Infallible;

    /// So many samples that count up from a number, on two channels of which the second is the first below zero.
    struct Counting(f32, i64);

    impl Samples for Counting {
        type Error = Infallible;

        fn channels(&self) -> usize {
            2
        }

        fn read(&mut self, from: i64, out: &mut [Vec<f32>]) -> Result<(), Infallible> {
            for i in 0..out[0].len() {
                let at = from + i as i64;
                let value = if (0..self.1).contains(&at) { self.0 + at as f32 } else { 0.0 };
                (out[0][i], out[1][i]) = (value, -value);
            }
            Ok(())
        }
    }

    fn read<S: Samples<Error = Infallible>>(from: i64, count: usize, mut source: S) -> Vec<f32> {
        let mut out = vec![vec![0.0; count]; 2];
        source.read(from, &mut out).unwrap_or_else(|never| match never {});
        out.swap_remove(0)
    }

    #[test]
    fn a_chain_is_one_sound_wherever_it_is_read() {
        let chain =
            || Chain::new(vec![(Counting(100.0, 5), 0), (Counting(200.0, 3), 5), (Counting(300.0, 4), 8)]);
        let whole = read(-2, 16, chain());
        let expected = [
            0.0, 0.0, 100.0, 101.0, 102.0, 103.0, 104.0, 200.0, 201.0, 202.0, 300.0, 301.0, 302.0, 303.0,
            0.0, 0.0,
        ];
        assert_eq!(whole, expected);
        for from in 0..12 {
            for count in 1..(14 - from) {
                assert_eq!(read(from as i64, count, chain()), expected[from + 2..from + 2 + count]);
            }
        }
    }

    #[test]
    fn channels_go_to_their_tracks_one_source_after_the_other() {
        let rates = Rates { out: 48_000.0, own: 48_000.0 };
        let source = |from: i64, to: i64| LaidSource {
            files: vec![],
            legs: vec![Leg { from, to, at: 0.0, step: 1.0 }],
            rates,
        };
        let track = |channel: usize| Track {
            device: DeviceId(1),
            channel,
            name: None,
            lane: 0,
            parts: vec![(0, channel), (1, channel)],
        };
        let laid = Laid {
            sources: vec![source(0, 4), source(6, 9)],
            tracks: vec![track(1), track(0)],
            holes: vec![],
        };
        let mut out = vec![vec![9.0; 10]; 2];
        let mut sources = [Counting(100.0, 4), Counting(200.0, 3)];
        let Ok(()) = Tracks::new(&laid).read(&mut sources, 0, &mut out);
        assert_eq!(out[1], [100.0, 101.0, 102.0, 103.0, 0.0, 0.0, 200.0, 201.0, 202.0, 0.0]);
        assert!(out[0].iter().zip(&out[1]).all(|(one, other)| *one == -other));
    }
}
