//! The sync report as a page that prints well: one file, nothing beside it.

use super::printed::{by_device, length, printed, small_picture};
use maud::{Markup, html};
use metaxis_core::{
    group::Group,
    sync::Verdict,
    turnover::{LoggedClip, verdict_word},
};
use std::path::{Path, PathBuf};

/// What the report says of the whole day.
#[derive(Debug, Clone, Default)]
pub struct DayReport {
    /// The production, and its day.
    pub production: String,
    /// Shoot day.
    pub day: String,
    /// What the pass is called.
    pub pass: Option<String>,
    /// The device whose clock is the axis.
    pub reference: Option<String>,
    /// Who declared it checked.
    pub checked: Option<String>,
    /// What was asked of the whole day: whether all is well, and a sentence.
    pub answers: Vec<(bool, String)>,
    /// What will hurt later.
    pub remarks: Vec<Remark>,
    /// Its groups.
    pub groups: Vec<Group>,
    /// Where a small picture of each clip is, as JPEG, where there may be one.
    pub pictures: Vec<Option<PathBuf>>,
}

impl DayReport {
    /// The production and its day.
    pub fn title(&self) -> String {
        let own = [self.production.as_str(), self.day.as_str()].into_iter().filter(|own| !own.is_empty());
        own.collect::<Vec<_>>().join(" · ")
    }
}

/// Something that will hurt later.
#[derive(Debug, Clone, Default)]
pub struct Remark {
    /// Something has to be done, or is lost already; else it is good to know.
    pub weighs: bool,
    /// What was found.
    pub what: String,
    /// What it means.
    pub means: String,
    /// What to do.
    pub todo: String,
}

/// What only the report has.
const STYLE: &str = "
.head { font-size: 14px; margin: 3mm 0 4mm; }
ul { margin: 0; padding: 0; list-style: none; }
li { padding: 0.6mm 0 0.6mm 5mm; text-indent: -5mm; }
li b, .sign { display: inline-block; width: 5mm; text-indent: 0; font-weight: 650; }
article { display: grid; grid-template-columns: 34mm 1fr; gap: 0 4mm; padding: 2.2mm 0; border-top: 0.3mm solid #b9c4bf;
  break-inside: avoid; }
article img, article .none { width: 34mm; height: 19.1mm; }
article h3 { margin: 0; font-size: 11.5px; font-weight: 650; overflow-wrap: anywhere; }
table { width: 100%; border-collapse: collapse; }
th, td { text-align: left; vertical-align: top; padding: 0.8mm 3mm 0.8mm 0; border-top: 0.3mm solid #d4dcd8; }
th { font-weight: 650; }
";

/// The page.
pub fn page(report: &DayReport, clips: &[LoggedClip]) -> String {
    let content = html! {
        p.head { (headline(clips)) }
        (about(report))
        @if !report.answers.is_empty() {
            h2 { "The day as a whole" }
            ul { @for (well, text) in &report.answers { li { b { (sign(*well)) } (text) } } }
        }
        @if !report.remarks.is_empty() {
            h2 { "What will hurt later" }
            ul {
                @for own in &report.remarks {
                    li { b { @if own.weighs { "!" } @else { "·" } } (sentence(&own.what)) " " span.soft { (own.means) " " (own.todo) } }
                }
            }
        }
        (groups(&report.groups))
        @for (device, own) in by_device(clips) {
            h2 { (device) }
            @for (number, clip) in own {
                (entry(clip, report.pictures.get(number).and_then(Option::as_deref)))
            }
        }
    };
    printed("Sync report", &report.title(), STYLE, &content)
}

/// All of it in a sentence that needs no knowledge of the trade.
fn headline(clips: &[LoggedClip]) -> String {
    let verdicts: Vec<Verdict> =
        clips.iter().filter_map(|own| Some(own.placement.as_ref()?.verdict)).collect();
    let count = |wanted: Verdict| verdicts.iter().filter(|own| **own == wanted).count();
    let (open, none) = (count(Verdict::Check), count(Verdict::Unplaced));
    let sure = verdicts.len() - open - none;
    if verdicts.is_empty() {
        return "Nothing has been synced yet.".into();
    }
    if open + none == 0 {
        return format!("All {sure} clips are in place, beyond reasonable doubt.");
    }
    let mut rest = vec![];
    if open > 0 {
        rest.push(format!("{open} should be looked at"));
    }
    if none > 0 {
        rest.push(format!("{none} {} no place", if none == 1 { "has" } else { "have" }));
    }
    format!(
        "{sure} of {} clips are in place, beyond reasonable doubt; {}.",
        verdicts.len(),
        rest.join(" and ")
    )
}

fn about(report: &DayReport) -> Markup {
    let facts = [
        report.reference.as_ref().map(|own| format!("Positions count on the clock of {own}")),
        report.pass.as_ref().map(|own| format!("pass “{own}”")),
        report.checked.clone(),
    ];
    let facts: Vec<String> = facts.into_iter().flatten().collect();
    html! { @if !facts.is_empty() { p.soft { (facts.join(" · ")) } } }
}

/// With its full stop.
fn sentence(text: &str) -> String {
    let ends = text.is_empty() || text.ends_with(['.', '!', '?']);
    if ends { text.to_owned() } else { format!("{text}.") }
}

fn sign(well: bool) -> &'static str {
    if well { "✓" } else { "!" }
}

fn groups(groups: &[Group]) -> Markup {
    html! {
        @if !groups.is_empty() {
            h2 { "Groups" }
            table {
                tr { th { "Name" } th { "Starts" } th { "Length" } th { "Rate" } th { "Angles" } }
                @for own in groups {
                    tr.num {
                        td { (own.name) }
                        td { (own.start) }
                        td { (length(own.frames as f64 / own.rate().as_f64())) }
                        td { (own.rate()) @if own.start.drop { " drop-frame" } }
                        td { (own.angles.len()) }
                    }
                }
            }
        }
    }
}

fn entry(clip: &LoggedClip, picture: Option<&Path>) -> Markup {
    let placed = clip.placement.as_ref();
    let well = placed.is_some_and(|own| matches!(own.verdict, Verdict::Solid | Verdict::ByHand));
    let verdict = placed.map_or("takes no part", |own| verdict_word(own.verdict));
    html! {
        article {
            (small_picture(picture))
            div {
                h3 { (clip.path) }
                p.num {
                    span.sign { (sign(well)) } (verdict)
                    @if let Some(own) = placed.filter(|own| !own.stretches.is_empty()) {
                        ", " (format!("{:.1} %", 100.0 * own.confidence))
                    }
                    @if let Some(own) = &clip.starts { " · starts " (own) }
                    " · " (length(clip.facts.duration_s))
                    @if let (Some(scene), take) = (&clip.origin.scene, &clip.origin.take) {
                        " · scene " (scene) @if let Some(take) = take { " take " (take) }
                        @if clip.origin.circled { " (circled)" }
                    }
                }
                @if let (Some(ppm), Some(frames)) = (clip.rate_ppm(), clip.end_error_frames()) {
                    p.num.soft {
                        "Its clock runs " (signed(ppm, 1)) " ppm against the reference: left alone its end would be "
                        (signed(frames, 2)) " frames off."
                    }
                }
                @if let Some(own) = placed { p { (own.reasons.join(" ")) } }
                @if let Some(own) = &clip.origin.notes { p.soft { "Note: " (own) } }
                @if let Some(own) = &clip.looked { p { "Looked at: " (own) "." } }
                @for own in &clip.health { p { b { "! " } (own) } }
            }
        }
    }
}

fn signed(value: f64, digits: usize) -> String {
    format!("{value:+.digits$}").replace('-', "−")
}
