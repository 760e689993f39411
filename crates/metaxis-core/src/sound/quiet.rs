//! The quietest moment of a passage: where a cut is heard least.

use super::Samples;

/// Levels are taken over so long, seconds; a cut needs some of them on either side to be quiet.
const HOP_S: f64 = 0.005;
const HOPS: usize = 9;

/// A passage of a sound in which a quiet moment is looked for.
pub(super) struct Quiet {
    from: i64,
    hop: usize,
    hops: usize,
}

impl Quiet {
    /// Between two positions, in samples of a sound at `rate` samples a second.
    pub fn between(from: f64, to: f64, rate: f64) -> Self {
        let hop = (HOP_S * rate).max(1.0) as usize;
        Self { from: from as i64, hop, hops: ((to - from).max(0.0) as usize / hop).max(1) }
    }

    /// The quietest moment on the channels that are `listened` to, as a share of the passage; of several, the last.
    ///
    /// # Errors
    /// Those of the source.
    pub fn find<S: Samples>(&self, listened: &[bool], source: &mut S) -> Result<f64, S::Error> {
        let ahead = HOPS / 2;
        let count = self.hops + 2 * ahead;
        let mut power = Vec::with_capacity(count);
        // A second at a time: however far a pause is, no more is in memory.
        let at_once = (1.0 / HOP_S) as usize;
        let mut buffers = vec![vec![0.0_f32; at_once * self.hop]; source.channels()];
        while power.len() < count {
            let from = self.from + (power.len() as i64 - ahead as i64) * self.hop as i64;
            source.read(from, &mut buffers)?;
            for hop in 0..at_once.min(count - power.len()) {
                let own = hop * self.hop..(hop + 1) * self.hop;
                let heard = buffers.iter().zip(listened).filter(|(_, listened)| **listened);
                power.push(
                    heard
                        .flat_map(|(samples, _)| &samples[own.clone()])
                        .map(|value| value * value)
                        .sum::<f32>(),
                );
            }
        }
        let around = power.windows(HOPS).map(|near| near.iter().sum::<f32>());
        let quietest = around
            .enumerate()
            .fold((0, f32::INFINITY), |best, (at, power)| if power <= best.1 { (at, power) } else { best });
        Ok((quietest.0 as f64 + 0.5) / self.hops as f64)
    }
}
