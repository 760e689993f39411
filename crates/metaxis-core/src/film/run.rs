//! Stretches of a film in which nothing is changed of what a clip shows.

use super::{Film, Seen, Showing};
use crate::{clip::PictureFacts, time::Tick};

/// A stretch of a film that shows a clip's own frames, one after the other, all of each and nothing else.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Run {
    /// Its first frame in the film.
    pub from: i64,
    /// The frame behind its last.
    pub to: i64,
    /// The clip, and who shows it.
    pub of: Showing,
    /// The clip's frame that the first is.
    pub first: i64,
}

impl Run {
    /// How many frames.
    pub fn frames(&self) -> i64 {
        self.to - self.from
    }

    fn goes_on_with(&self, of: Showing, frame: i64) -> bool {
        (self.of, self.first + self.frames()) == (of, frame)
    }
}

impl Film {
    /// The stretches that are a clip's own frames one after the other, in order, of whatever size: where the film counts as the clip
    /// does, and no clock leaves a frame out or shows one twice.
    pub fn runs(&self) -> Vec<Run> {
        let mut runs: Vec<Run> = vec![];
        if self.fields(self.size).len() != 1 {
            return runs;
        }
        for at in 0..self.frames {
            let Some((of, frame)) = self.own_frame(at) else { continue };
            match runs.last_mut().filter(|own| own.to == at && own.goes_on_with(of, frame)) {
                Some(own) => own.to += 1,
                None => runs.push(Run { from: at, to: at + 1, of, first: frame }),
            }
        }
        runs
    }

    /// The clip's frame that a frame of the film is, where it is that and nothing else.
    fn own_frame(&self, at: i64) -> Option<(Showing, i64)> {
        let seen = self.seen(at);
        let [own @ Seen { clip, at_s, share, .. }] = seen.as_slice() else { return None };
        let picture = self.picture(*clip)?;
        let frame = Tick::from_seconds(*at_s).frame(picture.rate);
        (*share >= 1.0 && picture.rate == self.rate && has_frame(picture, frame))
            .then_some((own.showing(), frame))
    }
}

/// Whether frames of a clip are known by their numbers, and it has that one.
fn has_frame(picture: &PictureFacts, frame: i64) -> bool {
    let counted = || (picture.duration_s * picture.rate.as_f64()).round() as i64;
    let all = picture.frames.unwrap_or_else(counted);
    picture.constant_rate && !picture.still && (0..all).contains(&frame)
}
