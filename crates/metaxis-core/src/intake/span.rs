//! Files that are one recording: a camera that splits by size, a recorder that starts a new file every so often.

use crate::{clip::ClipFacts, time::Timecode};

/// A clip as far as spans are concerned.
#[derive(Debug, Clone, Copy)]
pub struct SpanClip<'a> {
    /// Device.
    pub device: i64,
    /// Path below the folder that was taken in.
    pub relative: &'a str,
    /// Size in bytes.
    pub bytes: u64,
    /// What the file says.
    pub facts: &'a ClipFacts,
}

/// Most frames that may be missing between two files of a span by their timecode.
const MOST_FRAMES: i64 = 12;
/// Most seconds by their creation times, which are rounded to seconds at both ends.
const MOST_SECONDS: f64 = 2.6;
/// How much larger than the first a later file may be.
const SIZE_SLACK: f64 = 1.04;

/// A name as what comes before its last number, the number, and how many digits it has. The extension does not count.
pub fn numbered_name(relative: &str) -> Option<(&str, u64, usize)> {
    let (folder, file) = relative.rsplit_once('/').map_or(("", relative), |(folder, file)| (folder, file));
    let stem = file.rsplit_once('.').map_or(file, |(stem, _)| stem);
    let end = stem.rfind(|c: char| c.is_ascii_digit())? + 1;
    let begin = stem[..end].rfind(|c: char| !c.is_ascii_digit()).map_or(0, |at| at + 1);
    // What follows the number must be the same too, so it counts as part of the name before it.
    let number = stem[begin..end].parse().ok()?;
    let head = folder.len() + usize::from(!folder.is_empty()) + begin;
    (stem.len() == end).then_some((&relative[..head], number, end - begin))
}

/// Chains of clips, by their places in `clips`, in the order of recording; only chains of two or more.
///
/// Two files follow each other where their names count up by one, their format is the same, the first ends where the
/// second begins (by timecode, else by the device's clock), and no later file is larger than the first: what splits a
/// recording splits it when it is full.
pub fn find_spans(clips: &[SpanClip]) -> Vec<Vec<usize>> {
    let mut order: Vec<usize> =
        (0..clips.len()).filter(|&i| numbered_name(clips[i].relative).is_some()).collect();
    order.sort_by_key(|&i| (clips[i].device, numbered_name(clips[i].relative)));
    let mut chains: Vec<Vec<usize>> = vec![];
    for i in order {
        let follows = chains.last().and_then(|chain| Some((chain.first()?, chain.last()?))).is_some_and(
            |(&first, &last)| {
                follows(&clips[last], &clips[i])
                    && clips[i].bytes as f64 <= clips[first].bytes as f64 * SIZE_SLACK
                    // All but the last are full.
                    && (first == last || clips[last].bytes as f64 >= clips[first].bytes as f64 / SIZE_SLACK)
            },
        );
        match chains.last_mut() {
            Some(chain) if follows => chain.push(i),
            _ => chains.push(vec![i]),
        }
    }
    chains.retain(|chain| chain.len() > 1);
    chains
}

fn follows(a: &SpanClip, b: &SpanClip) -> bool {
    let (Some((name_a, number_a, _)), Some((name_b, number_b, _))) =
        (numbered_name(a.relative), numbered_name(b.relative))
    else {
        return false;
    };
    a.device == b.device
        && name_a == name_b
        && number_b == number_a + 1
        && same_format(a.facts, b.facts)
        && meet(a.facts, b.facts)
}

fn same_format(a: &ClipFacts, b: &ClipFacts) -> bool {
    let picture = |facts: &ClipFacts| facts.picture.as_ref().map(|p| (p.width, p.height, p.codec.clone()));
    let sound = |facts: &ClipFacts| facts.sound.as_ref().map(|s| (s.rate, s.channels, s.codec.clone()));
    picture(a) == picture(b) && sound(a) == sound(b)
}

/// Whether the second begins where the first ends. Timecode decides where it runs on from clip to clip; the sample
/// count of a recorder is exact; a device's clock is coarse.
fn meet(a: &ClipFacts, b: &ClipFacts) -> bool {
    if let (Some(from), Some(to), Some(sound)) = (a.time_reference, b.time_reference, &a.sound) {
        let gap = to as f64 - from as f64 - a.duration_s * f64::from(sound.rate.0);
        return gap.abs() < 0.5 * f64::from(sound.rate.0);
    }
    if let Some(missing) = label_gap(a, b) {
        // Labels that begin anew with every clip say nothing.
        if a.timecode != b.timecode {
            return (-1..=MOST_FRAMES).contains(&missing);
        }
    }
    match (a.own_clock_s(), b.own_clock_s()) {
        (Some(from), Some(to)) => (to - from - a.duration_s).abs() < MOST_SECONDS,
        _ => false,
    }
}

/// Frames between the end of one clip and the start of the next by their labels.
fn label_gap(a: &ClipFacts, b: &ClipFacts) -> Option<i64> {
    let (from, to): (Timecode, Timecode) = (a.timecode?, b.timecode?);
    let picture = a.picture.as_ref()?;
    let frames =
        picture.frames.unwrap_or_else(|| (picture.duration_s * picture.rate.as_f64()).round() as i64);
    (from.rate == to.rate).then(|| to.frames - from.frames - frames)
}

/// What is missing between two files of a span.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SpanGap {
    /// Missing time in seconds; below zero where they overlap.
    pub seconds: f64,
    /// The same in frames of the picture, where there is one.
    pub frames: Option<f64>,
}

/// The gaps of a span from where its files lie on the axis: for each, (start, end) in seconds where it was placed.
pub fn span_gaps(placed: &[Option<(f64, f64)>], facts: &ClipFacts) -> Vec<Option<SpanGap>> {
    placed
        .windows(2)
        .map(|pair| {
            let seconds = pair[1]?.0 - pair[0]?.1;
            let frames = facts.picture.as_ref().map(|picture| seconds * picture.rate.as_f64());
            Some(SpanGap { seconds, frames })
        })
        .collect()
}
