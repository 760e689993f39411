//! What is heard along a line, as cuts: sound that is cut out where an angle's own is heard, and that sound.

use super::items::{at_rate, gap, transition};
use serde_json::Value;

/// From when to when something is heard, seconds from the head on; and over how long it comes out of what was before.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Heard {
    pub from_s: f64,
    pub to_s: f64,
    pub is_on: bool,
    pub dissolve_s: f64,
}

/// What is shorter is nothing, seconds.
const NOTHING_S: f64 = 1e-9;

/// The items of a sound track, those of stretches only in which it is on: gaps in between, and dissolves where they meet.
pub(super) fn cut_to(items: &[Value], heard: &[Heard]) -> Vec<Value> {
    let mut out = vec![];
    for (number, own) in heard.iter().enumerate() {
        // Nothing comes out of nothing.
        let is_turn = number > 0 && heard[number - 1].is_on != own.is_on;
        if own.dissolve_s > 0.0 && is_turn {
            let rate = items
                .first()
                .map_or(1.0, |item| item["source_range"]["duration"]["rate"].as_f64().unwrap_or(1.0));
            out.push(transition(own.dissolve_s * rate, rate));
        }
        out.extend(within(items, own));
    }
    out
}

fn within(items: &[Value], heard: &Heard) -> Vec<Value> {
    let (mut out, mut at_s) = (vec![], 0.0_f64);
    for item in items {
        let range = &item["source_range"];
        let number = |of: &Value, what: &str| of[what].as_f64().unwrap_or(0.0);
        let rate = number(&range["duration"], "rate").max(1e-9);
        let length_s = number(&range["duration"], "value") / rate;
        let (from_s, to_s) = (at_s.max(heard.from_s), (at_s + length_s).min(heard.to_s));
        if to_s - from_s > NOTHING_S {
            let frames = rounded((to_s - from_s) * rate);
            if heard.is_on && item["OTIO_SCHEMA"] != "Gap.1" {
                let mut own = item.clone();
                let first = &range["start_time"];
                let speed = item["effects"][0]["time_scalar"].as_f64().unwrap_or(1.0);
                let own_rate = number(first, "rate");
                let start = number(first, "value") + (from_s - at_s) * own_rate * speed;
                own["source_range"]["start_time"] = at_rate(rounded(start), own_rate);
                own["source_range"]["duration"] = at_rate(frames, rate);
                out.push(own);
            } else {
                out.push(gap(frames, rate));
            }
        }
        at_s += length_s;
    }
    out
}

/// Without what floats add.
fn rounded(value: f64) -> f64 {
    (value * 1e6).round() / 1e6
}
