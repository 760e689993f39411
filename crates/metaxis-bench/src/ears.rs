//! What the engine is given of a take: its sounds, from one channel or several.

use crate::Take;
use metaxis_core::{
    signal::{
        BandReader, BlockStats, ChannelMeter, ChannelState, LISTEN_RATE, PEAK_BIN, Pattern, by_clearness,
        listening_mixes, living, relate,
    },
    sync::{HeardSound, SampleSource},
};

/// One sound of a take.
pub(crate) struct Ear {
    pattern: Pattern,
    samples: Vec<f32>,
    late_s: f64,
    channel: Option<usize>,
}

impl Ear {
    fn new(samples: Vec<f32>, late_s: f64, channel: Option<usize>) -> Self {
        let mut reader = BandReader::new();
        reader.push(&samples);
        Self { pattern: Pattern::new(&reader.finish()), samples, late_s, channel }
    }

    pub fn sound(&self) -> HeardSound<'_> {
        HeardSound {
            pattern: &self.pattern,
            samples: &self.samples,
            late_s: self.late_s,
            channel: self.channel,
        }
    }
}

fn state(samples: &[f32]) -> ChannelState {
    let mut meter = ChannelMeter::new(LISTEN_RATE);
    for block in samples.chunks(PEAK_BIN) {
        meter.push(block, &BlockStats::of(block));
    }
    meter.state()
}

/// The sounds that are made of a take's channels, by the rules that files are listened to by.
pub(crate) fn ears(take: &Take) -> Vec<Ear> {
    if take.silent {
        return vec![];
    }
    if take.channels.is_empty() {
        return vec![Ear::new(take.samples.clone(), 0.0, None)];
    }
    let states: Vec<ChannelState> = take.channels.iter().map(|samples| state(samples)).collect();
    let alive = living(&states);
    let read = |channel: usize, from: i64, out: &mut [f32]| take.channels[channel].read(from, out);
    let relations = relate(&alive, &by_clearness(&states, &alive), take.samples.len() as u64, &read);
    let sound = |mix: &metaxis_core::signal::Mix| {
        let mut sum = vec![0.0; take.samples.len()];
        let mut own = sum.clone();
        for part in &mix.parts {
            let late = (part.late_s * f64::from(LISTEN_RATE)).round() as i64;
            take.channels[part.channel].read(late, &mut own);
            for (sum, value) in sum.iter_mut().zip(&own) {
                *sum += part.gain * value;
            }
        }
        Ear::new(sum, mix.late_s, mix.only())
    };
    listening_mixes(&states, &alive, &relations).iter().map(sound).collect()
}
