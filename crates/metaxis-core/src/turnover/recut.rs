//! Pictures whose clock is not the group's, cut anew by whole frames before they are half a frame off.

use crate::group::{AnglePart, Group};

/// A piece of an angle: a part and its frames of the group.
pub(super) type Piece<'a> = (&'a AnglePart, i64, i64);

/// A picture that is as near to a frame's edge as this does not change its frame for it.
const SLACK: f64 = 0.05;

/// The pieces of one that runs on through `parts`, each showing at every frame the one that is on screen then, or one that is
/// no further than [`SLACK`] from its turn.
pub(super) fn recut<'a>(
    group: &Group,
    parts: &'a [AnglePart],
    (first, begin, end): Piece<'a>,
) -> Vec<Piece<'a>> {
    let ratio = first.rate.as_f64() / group.rate().as_f64();
    let mut out = vec![];
    let mut own = (first, begin, group.clip_frame(first, begin));
    let through = parts.iter().filter(|part| part.clip == first.clip);
    for part in through {
        let (from, to) = (part.from_frame.max(begin), part.to_frame.min(end));
        let mut from = from;
        loop {
            let (_, since, frame) = own;
            // How far into the frame that the piece shows it is: beyond 0 to 1 it shows another.
            let into = |at: i64| group.clip_position(part, at) - frame as f64 - (at - since) as f64 * ratio;
            let is_on = |at: i64| (-SLACK..1.0 + SLACK).contains(&into(at));
            if from >= to || is_on(to - 1) && is_on(from) {
                break;
            }
            let cut = first_where(from.max(since), to, |at| !is_on(at));
            if cut >= to {
                break;
            }
            // At its very beginning there is nothing to be cut: it is what it is.
            if cut > since {
                out.push((own.0, since, cut));
                own = (part, cut, group.clip_frame(part, cut));
            }
            from = cut + 1;
        }
    }
    out.push((own.0, own.1, end));
    out
}

/// The first of a range for which something holds that holds for all behind it too; its end where it never does.
fn first_where(from: i64, to: i64, holds: impl Fn(i64) -> bool) -> i64 {
    let (mut low, mut high) = (from, to);
    while low < high {
        let middle = low + (high - low) / 2;
        if holds(middle) { high = middle } else { low = middle + 1 }
    }
    low
}
