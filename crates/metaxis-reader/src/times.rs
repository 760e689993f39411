//! What the times of a stream's frames say of sound that is not there.

/// Less than this is how containers round their times, seconds.
const LEAST_S: f64 = 0.005;
/// Times that go back further than this begin anew, seconds.
const ANEW_S: f64 = 1.0;

/// Follows the times of a stream's frames, one after the other.
pub struct Times {
    rate: f64,
    /// Samples in a step of the times.
    tick: f64,
    /// Samples so far, those that are not there among them.
    so_far: f64,
    /// By how many samples the times are ahead of them where nothing is missing.
    ahead: Option<f64>,
}

/// What becomes of a frame.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Frame {
    /// It follows, once so many samples that are not there are made up for.
    After(u64),
    /// So many samples at its beginning were there before.
    Without(usize),
}

impl Times {
    /// Of a stream of so many samples a second, whose times come in steps of `tick_s` seconds.
    pub fn new(rate: u32, tick_s: f64) -> Self {
        let rate = f64::from(rate);
        Self { rate, tick: tick_s * rate, so_far: 0.0, ahead: None }
    }

    /// Takes a frame of `samples` samples that says it begins at `at_s`; one that does not say follows at once.
    pub fn take(&mut self, at_s: Option<f64>, samples: usize) -> Frame {
        let frame = at_s.map_or(Frame::After(0), |at_s| self.place(at_s * self.rate, samples));
        self.so_far += match frame {
            Frame::After(lost) => lost as f64 + samples as f64,
            Frame::Without(before) => samples.saturating_sub(before) as f64,
        };
        frame
    }

    fn place(&mut self, at: f64, samples: usize) -> Frame {
        let ahead = at - self.so_far;
        let off = ahead - *self.ahead.get_or_insert(ahead);
        if off >= LEAST_S * self.rate {
            // Frames are lost whole: coarse times say how many.
            let frames = (off / samples.max(1) as f64).round() * samples as f64;
            let lost = if (frames - off).abs() <= self.tick { frames } else { off };
            return Frame::After(lost.round() as u64);
        }
        if off <= -LEAST_S * self.rate && off > -ANEW_S * self.rate {
            return Frame::Without((-off.round()) as usize).min(samples);
        }
        self.ahead = Some(ahead);
        Frame::After(0)
    }
}

impl Frame {
    fn min(self, samples: usize) -> Self {
        match self {
            Self::Without(before) => Self::Without(before.min(samples)),
            after @ Self::After(_) => after,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What becomes of frames of 1024 samples at 48 kHz that begin at these moments, in samples.
    fn frames(at: &[f64]) -> Vec<Frame> {
        let mut times = Times::new(48_000, 0.001);
        at.iter().map(|at| times.take(Some(at / 48_000.0), 1024)).collect()
    }

    #[test]
    fn frames_that_follow_each_other_are_taken_as_they_are() {
        // From any beginning on, rounded to milliseconds, and with times that run a little fast.
        for begin in [-1024.0, 0.0, 1e9] {
            let exact: Vec<f64> = (0..5000).map(|i| begin + 1024.0 * f64::from(i)).collect();
            let rounded: Vec<f64> = exact.iter().map(|at| (at / 48.0).round() * 48.0).collect();
            let fast: Vec<f64> = exact.iter().map(|at| at * 1.001).collect();
            for times in [exact, rounded, fast] {
                assert!(frames(&times).iter().all(|frame| *frame == Frame::After(0)));
            }
        }
    }

    #[test]
    fn what_is_missing_is_made_up_for_once() {
        let found = frames(&[0.0, 1024.0, 4096.0, 5120.0]);
        assert_eq!(found, [Frame::After(0), Frame::After(0), Frame::After(2048), Frame::After(0)]);
        // Where times are rounded, by whole frames; where they are not, what they say.
        assert_eq!(frames(&[0.0, 1008.0, 4128.0])[2], Frame::After(2048));
        assert_eq!(frames(&[0.0, 1024.0, 3548.0])[2], Frame::After(1500));
    }

    #[test]
    fn what_was_there_before_is_left_out_and_times_may_begin_anew() {
        let back = frames(&[0.0, 1024.0, 512.0, 1536.0, 2560.0]);
        assert_eq!(back[2..], [Frame::Without(1024), Frame::Without(512), Frame::After(0)]);
        let anew = frames(&[1e6, 1e6 + 1024.0, 0.0, 1024.0]);
        assert!(anew.iter().all(|frame| *frame == Frame::After(0)));
    }

    #[test]
    fn a_frame_without_a_time_follows_at_once() {
        let mut times = Times::new(48_000, 0.001);
        assert_eq!(times.take(Some(0.0), 1024), Frame::After(0));
        assert_eq!(times.take(None, 1024), Frame::After(0));
        assert_eq!(times.take(Some(3072.0 / 48_000.0), 1024), Frame::After(1024));
    }
}
