//! The contact sheet: a picture of every clip of a day, to be hung up.

use super::{
    printed::{by_device, length, printed, small_picture},
    report::DayReport,
};
use maud::{Markup, html};
use metaxis_core::turnover::LoggedClip;
use std::path::Path;

const STYLE: &str = "
section { display: grid; grid-template-columns: repeat(5, 1fr); gap: 4mm 3mm; }
figure { margin: 0; break-inside: avoid; }
figure img, figure .none { width: 100%; aspect-ratio: 16 / 9; object-fit: contain; background: #16201d; }
figcaption { padding-top: 0.8mm; font-size: 9px; line-height: 1.35; overflow-wrap: anywhere; }
figcaption b { display: block; font-size: 10px; font-weight: 650; }
";

/// The page: moving pictures and stills in their devices' order, each with its name, its timecode and its length, scene and take.
pub(super) fn page(report: &DayReport, clips: &[LoggedClip]) -> String {
    let seen = |own: &(usize, &LoggedClip)| own.1.facts.picture.is_some();
    let devices = by_device(clips).into_iter().filter_map(|(device, all)| {
        let all: Vec<_> = all.into_iter().filter(seen).collect();
        (!all.is_empty()).then_some((device, all))
    });
    let content = html! {
        @for (device, all) in devices {
            h2 { (device) " " span.soft { (clips_said(all.len())) } }
            section {
                @for (number, clip) in all {
                    (one(clip, report.pictures.get(number).and_then(Option::as_deref)))
                }
            }
        }
    };
    printed("Contact sheet", &report.title(), STYLE, &content)
}

fn clips_said(count: usize) -> String {
    format!("· {count} clip{}", if count == 1 { "" } else { "s" })
}

fn one(clip: &LoggedClip, picture: Option<&Path>) -> Markup {
    let name = clip.path.rsplit('/').next().unwrap_or_default();
    let slate = clip.origin.slate();
    let still = clip.facts.picture.as_ref().is_some_and(|own| own.still);
    html! {
        figure {
            (small_picture(picture))
            figcaption {
                b { (name) }
                @if !slate.is_empty() { (slate) @if clip.origin.circled { " (circled)" } br; }
                @if let Some(label) = &clip.facts.timecode { span.num { (label) } " · " }
                @if still { "a still" } @else { (length(clip.facts.duration_s)) }
            }
        }
    }
}
