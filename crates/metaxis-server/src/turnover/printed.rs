//! Pages that print well: each one file, nothing beside it, no script.

use base64::{Engine, engine::general_purpose::STANDARD};
use maud::{DOCTYPE, Markup, PreEscaped, html};
use metaxis_core::turnover::LoggedClip;
use std::{fs, path::Path};

const STYLE: &str = "
:root { color-scheme: light; }
* { box-sizing: border-box; }
body { margin: 0 auto; padding: 14mm 12mm; max-width: 210mm; font: 10.5px/1.45 'Source Sans 3', system-ui, sans-serif;
  color: #16201d; background: #fff; }
h1 { margin: 0 0 1mm; font-size: 19px; font-weight: 650; }
h2 { margin: 7mm 0 2mm; font-size: 13px; font-weight: 650; break-after: avoid; }
p { margin: 0 0 1.5mm; }
.soft { color: #51605a; }
.num { font-variant-numeric: tabular-nums; }
img, .none { object-fit: cover; display: block; background: #e4eae7; }
@page { size: A4; margin: 12mm; }
@media print { body { padding: 0; max-width: none; } }
";

/// A page that is called so, of a production and a day, with what only it has.
pub(super) fn printed(called: &str, title: &str, style: &str, content: &Markup) -> String {
    html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta name="viewport" content="width=device-width";
                title { (called) @if !title.is_empty() { " – " (title) } }
                style { (PreEscaped(STYLE)) (PreEscaped(style)) }
            }
            body {
                h1 { (called) }
                @if !title.is_empty() { p { (title) } }
                (content)
            }
        }
    }
    .into_string()
}

/// A clip's picture, or where it would be.
pub(super) fn small_picture(path: Option<&Path>) -> Markup {
    html! {
        @match path.and_then(|own| fs::read(own).ok()) {
            Some(jpeg) => img alt="" src=(format!("data:image/jpeg;base64,{}", STANDARD.encode(jpeg)));,
            None => div.none {},
        }
    }
}

/// Clips with their numbers, by device.
pub(super) fn by_device(clips: &[LoggedClip]) -> Vec<(&str, Vec<(usize, &LoggedClip)>)> {
    let mut out: Vec<(&str, Vec<(usize, &LoggedClip)>)> = vec![];
    for (number, own) in clips.iter().enumerate() {
        match out.iter_mut().find(|(device, _)| *device == own.device) {
            Some((_, all)) => all.push((number, own)),
            None => out.push((&own.device, vec![(number, own)])),
        }
    }
    out
}

/// A length in words.
pub(super) fn length(seconds: f64) -> String {
    let whole = seconds.round() as i64;
    let (hours, minutes, seconds) = (whole / 3600, whole / 60 % 60, whole % 60);
    match (hours, minutes) {
        (0, 0) => format!("{seconds} s"),
        (0, _) => format!("{minutes} min {seconds} s"),
        _ => format!("{hours} h {minutes} min {seconds} s"),
    }
}
