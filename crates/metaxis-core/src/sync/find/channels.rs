//! Which channel heard it: a place is found by what all channels of a clip heard together, and measured on those that
//! fit each other best there.

use super::{link::Link, tools::Tools};
use crate::{
    signal::PATTERN_RATE,
    sync::{
        input::{DayClip, HeardSound},
        pair::Density,
    },
};

/// Another pair of channels is tried where its patterns agree so much more than those of the pair in use.
const BETTER: f32 = 1.02;

/// Measures a link on the channels of its two clips that fit each other best at its place, where that is surer.
pub(super) fn use_best_channels(clips: &[DayClip], link: &mut Link, tools: &mut Tools) {
    let (own, there) = (&clips[link.clip].sounds, &clips[link.against].sounds);
    if !link.alignment.fine || own.len() * there.len() < 2 {
        return;
    }
    let fit = |mine: usize, theirs: usize| agreement(&own[mine], &there[theirs], link);
    let pairs = (0..own.len()).flat_map(|mine| (0..there.len()).map(move |theirs| (mine, theirs)));
    let best = pairs
        .filter(|pair| *pair != link.sounds)
        .map(|pair| (fit(pair.0, pair.1), pair))
        .max_by(|a, b| a.0.total_cmp(&b.0));
    let Some((share, sounds)) = best else { return };
    // A single channel is preferred to a mix that fits as well: it hears from one place.
    let is_mix = own[link.sounds.0].channel.is_none() || there[link.sounds.1].channel.is_none();
    if share < if is_mix { 1.0 } else { BETTER } * fit(link.sounds.0, link.sounds.1) {
        return;
    }
    let mut rough = link.alignment.clone();
    let moved = |sounds: (usize, usize)| (own[sounds.0].late_s, there[sounds.1].late_s);
    let (from, to) = (moved(link.sounds), moved(sounds));
    rough.shift(from.0 - to.0, from.1 - to.1);
    let measured = tools.aligner.closely(&there[sounds.1], &own[sounds.0], &rough, Density::Full);
    if let Some(closer) = measured.filter(|closer| closer.height > link.alignment.height) {
        link.alignment = closer;
        link.sounds = sounds;
    }
}

/// How much two sounds' patterns agree at a link's place: mean product over frames and bands, sigma squared.
fn agreement(own: &HeardSound, there: &HeardSound, link: &Link) -> f32 {
    let part = link.alignment.part;
    let frame = |seconds: f64| (seconds.max(0.0) * f64::from(PATTERN_RATE)) as usize;
    let mine = own.pattern.part(frame(part.from_s), frame(part.to_s));
    let at_s = link.there_s(part.from_s.max(0.0));
    let lag = (at_s * f64::from(PATTERN_RATE)).round() as i64;
    let all = mine.agreement(there.pattern, lag);
    all.iter().sum::<f32>() / all.len().max(1) as f32
}

/// Links say where clips lie by their earliest channels: what was measured on a late one is moved by so much.
pub(super) fn in_clip_time(clips: &[DayClip], mut links: Vec<Link>) -> Vec<Link> {
    for link in &mut links {
        let own = &clips[link.clip].sounds[link.sounds.0];
        let there = &clips[link.against].sounds[link.sounds.1];
        link.alignment.shift(own.late_s, there.late_s);
    }
    links
}
