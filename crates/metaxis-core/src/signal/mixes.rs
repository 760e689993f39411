//! Which sounds of a file are matched: every living channel, and what all of them heard together.

use super::{Carries, ChannelState, Relation, relate::INVERTED};
use serde::{Deserialize, Serialize};

/// A channel in a mix.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct MixPart {
    /// Number of the channel, from 0.
    pub channel: usize,
    /// Gain; negative where it is wired the other way round.
    pub gain: f32,
    /// It is read so much further on, seconds: that much later it hears.
    pub late_s: f64,
}

/// A sound that is matched: a channel or a mix of some.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Mix {
    /// What it is made of.
    pub parts: Vec<MixPart>,
    /// How much later it hears than the earliest channel of the file whose delay is steady, seconds.
    pub late_s: f64,
}

impl Mix {
    /// A channel as it is.
    pub fn of(channel: usize, late_s: f64) -> Self {
        Self { parts: vec![MixPart { channel, gain: 1.0, late_s: 0.0 }], late_s }
    }

    /// The channel, where it is one as it is.
    pub fn only(&self) -> Option<usize> {
        match self.parts[..] {
            [only] => Some(only.channel),
            _ => None,
        }
    }
}

/// From this correlation of their first differences on, two channels hear the same: far microphones share little more
/// than the direct sound, and it is just their mix in which that stands out of the echoes.
const ALIKE: f64 = 0.03;
/// A channel this much like another is its copy.
const COPY: f64 = 0.98;
/// Delays below this are those of one stereo microphone, seconds.
const STEREO_S: f64 = 0.3e-3;
/// Quiet channels come at no more than this over the loudest, dB.
const MOST_DB: f32 = 40.0;
/// The loudest channel of a mix peaks here.
const PEAK: f32 = 0.5;

/// The channels to match. Dead ones, timecode, hum, tones and steady noise take no part; where nothing else is there,
/// hum, tones and noise do.
pub fn living(states: &[ChannelState]) -> Vec<usize> {
    let of = |wanted: fn(Carries) -> bool| -> Vec<usize> {
        (0..states.len()).filter(|&i| wanted(states[i].carries)).collect()
    };
    let sound = of(|carries| carries == Carries::Sound);
    if sound.is_empty() {
        of(|carries| matches!(carries, Carries::Hum | Carries::Tone | Carries::Noise))
    } else {
        sound
    }
}

/// The living channels, those with most between their floor and their peak first: others are compared with these.
pub fn by_clearness(states: &[ChannelState], living: &[usize]) -> Vec<usize> {
    let range = |i: usize| states[i].peak_dbfs - states[i].floor_dbfs;
    let mut order = living.to_vec();
    order.sort_by(|&a, &b| range(b).total_cmp(&range(a)).then(a.cmp(&b)));
    order
}

/// Whether two channels are one sound: those of a stereo microphone, or both sides of a recorder's mix.
fn hear_the_same(relation: &Relation) -> bool {
    let together = relation.late_s.is_none_or(|late_s| late_s.abs() < STEREO_S);
    together && !(INVERTED..ALIKE).contains(&relation.alike)
}

/// The channels to play: the first two where they hear the same, since recorders put their mix there; else all of
/// `living`. `second` is how the second of them lies to the first.
pub fn played(living: &[usize], second: Option<&Relation>) -> Vec<usize> {
    let count = if second.is_some_and(hear_the_same) { 2 } else { living.len() };
    living[..count.min(living.len())].to_vec()
}

/// The sounds to match of the channels `living`, whose `relations` to one of them are known. Two that hear the same are
/// one sound, their mix. Else the first is all of them together, each at the level at which their floors are equal, so that what is
/// clear in one is not drowned by the others, and turned and moved to where they hear as one; each by itself follows.
pub fn listening_mixes(states: &[ChannelState], living: &[usize], relations: &[Relation]) -> Vec<Mix> {
    let earliest = relations.iter().filter_map(|own| own.late_s).fold(0.0, f64::min);
    let late_s = |own: &Relation| own.late_s.map_or(0.0, |late_s| late_s - earliest);
    let all: Vec<(usize, &Relation)> =
        living.iter().copied().zip(relations).filter(|(_, own)| own.is_base || own.alike < COPY).collect();
    if let [(a, one), (b, other)] = all[..] {
        let far = if one.is_base { other } else { one };
        if hear_the_same(far) {
            let sign = far.alike.signum() as f32;
            let part = |channel, gain| MixPart { channel, gain, late_s: 0.0 };
            return vec![Mix { parts: vec![part(a, 0.5), part(b, 0.5 * sign)], late_s: 0.0 }];
        }
    }
    let alone = |&(channel, own): &(usize, &Relation)| Mix::of(channel, late_s(own));
    if all.len() < 2 {
        return all.iter().map(alone).collect();
    }
    let loudest = all.iter().map(|(channel, _)| states[*channel].floor_dbfs).fold(f32::MIN, f32::max);
    let gain = |channel: usize| 10_f32.powf((loudest - states[channel].floor_dbfs).min(MOST_DB) / 20.0);
    let peak = |channel: usize| gain(channel) * 10_f32.powf(states[channel].peak_dbfs / 20.0);
    let scale = PEAK / all.iter().map(|(channel, _)| peak(*channel)).fold(1e-6, f32::max);
    let part = |&(channel, own): &(usize, &Relation)| MixPart {
        channel,
        gain: gain(channel) * scale * if own.inverted { -1.0 } else { 1.0 },
        late_s: late_s(own),
    };
    let together = Mix { parts: all.iter().map(part).collect(), late_s: 0.0 };
    [together].into_iter().chain(all.iter().map(alone)).collect()
}
