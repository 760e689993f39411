//! The slate log against the clips: which take each belongs to, and where log, file and recorder disagree.

use super::{SlateLog, SlateRow};
use crate::clip::ClipId;
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, HashMap};
use ts_rs::TS;

/// A clip as far as the log is concerned.
#[derive(Debug, Clone)]
pub struct LogClip {
    /// The clip.
    pub id: ClipId,
    /// File name.
    pub file_name: String,
    /// Letter of its device.
    pub letter: String,
    /// Scene and take as the file itself says (iXML).
    pub own: Option<(String, String)>,
}

/// A disagreement, in a sentence, with the clips it is about.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Clash {
    /// The clips.
    pub clips: Vec<ClipId>,
    /// What disagrees with what.
    pub message: String,
}

/// What the log says of the clips.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct LogMatch {
    /// For each clip that the log names: its row.
    pub takes: Vec<(ClipId, SlateRow)>,
    /// File names in the log that no clip has, with their line.
    pub missing: Vec<(u32, String)>,
    /// Disagreements.
    pub clashes: Vec<Clash>,
}

fn stem(name: &str) -> String {
    let file = name.rsplit(['/', '\\']).next().unwrap_or(name);
    file.rsplit_once('.').map_or(file, |(stem, _)| stem).to_lowercase()
}

/// Matches a log with clips. Names are compared without folder, extension and case; a name with its extension is
/// looked for in full first.
pub fn match_log(log: &SlateLog, clips: &[LogClip]) -> LogMatch {
    let mut found = LogMatch::default();
    let names = Names::new(clips);
    let mut rows_of: BTreeMap<ClipId, Vec<&SlateRow>> = BTreeMap::new();
    for row in &log.rows {
        for name in row.pictures.iter().chain(&row.sounds) {
            let named = names.meant(name, row);
            if named.is_empty() {
                found.missing.push((row.line, name.clone()));
            }
            for clip in named {
                let rows = rows_of.entry(clip.id).or_default();
                if !rows.iter().any(|known| known.line == row.line) {
                    rows.push(row);
                }
            }
        }
    }
    for clip in clips {
        let rows = rows_of.remove(&clip.id).unwrap_or_default();
        let Some(first) = rows.first() else { continue };
        if let Some(other) = rows.iter().find(|row| !same_take(row, first)) {
            found.clashes.push(Clash {
                clips: vec![clip.id],
                message: format!(
                    "{} is in the slate log twice: as {} in line {} and as {} in line {}",
                    clip.file_name,
                    said(first),
                    first.line,
                    said(other),
                    other.line
                ),
            });
        }
        for (who, (scene, take)) in
            [("its own iXML says", clip.own.clone()), ("its name says", take_of_name(&clip.file_name))]
                .into_iter()
                .filter_map(|(who, own)| Some((who, own?)))
        {
            let differs = |a: &str, b: &str| !a.is_empty() && !b.is_empty() && !same_number(a, b);
            if differs(&scene, &first.scene) || differs(&take, &first.take) {
                found.clashes.push(Clash {
                    clips: vec![clip.id],
                    message: format!(
                        "{}: the slate log says {} (line {}), {who} scene {scene}, take {take}",
                        clip.file_name,
                        said(first),
                        first.line
                    ),
                });
            }
        }
        found.takes.push((clip.id, (*first).clone()));
    }
    found
}

/// Clips by their names, so that a long log costs no more than its lines.
struct Names<'a> {
    full: HashMap<String, Vec<&'a LogClip>>,
    stems: HashMap<String, Vec<&'a LogClip>>,
}

impl<'a> Names<'a> {
    fn new(clips: &'a [LogClip]) -> Self {
        let mut names = Self { full: HashMap::new(), stems: HashMap::new() };
        for clip in clips {
            names.full.entry(clip.file_name.to_lowercase()).or_default().push(clip);
            names.stems.entry(stem(&clip.file_name)).or_default().push(clip);
        }
        names
    }

    /// The clips a name in a row means; of several devices, that of the row's camera.
    fn meant(&self, name: &str, row: &SlateRow) -> Vec<&'a LogClip> {
        let found = self.full.get(&name.to_lowercase()).or_else(|| self.stems.get(&stem(name)));
        let named = found.cloned().unwrap_or_default();
        let of_camera: Vec<&LogClip> =
            named.iter().copied().filter(|clip| clip.letter.eq_ignore_ascii_case(&row.camera)).collect();
        if named.len() > 1 && !of_camera.is_empty() { of_camera } else { named }
    }
}

fn same_take(a: &SlateRow, b: &SlateRow) -> bool {
    same_number(&a.scene, &b.scene) && same_number(&a.take, &b.take)
}

/// 01 and 1 are the same; so are 4A and 4a.
fn same_number(a: &str, b: &str) -> bool {
    let plain = |text: &str| text.trim().trim_start_matches('0').to_lowercase();
    plain(a) == plain(b)
}

fn said(row: &SlateRow) -> String {
    format!("scene {}, take {}", or_none(&row.scene), or_none(&row.take))
}

fn or_none(text: &str) -> &str {
    if text.is_empty() { "(none)" } else { text }
}

/// Scene and take from a file name that says both: `2-T03.wav`, `S04_T2.wav`, `Scene 4 Take 2.wav`.
pub fn take_of_name(file: &str) -> Option<(String, String)> {
    let stem = stem(file);
    let words: Vec<&str> = stem.split(['_', '-', ' ', '.']).filter(|word| !word.is_empty()).collect();
    let number = |text: &str| {
        let digits = text.trim_start_matches(|c: char| c.is_ascii_alphabetic());
        (!digits.is_empty() && digits.len() <= 3 && digits.starts_with(|c: char| c.is_ascii_digit()))
            .then(|| digits.to_owned())
    };
    let labelled = |labels: &[&str]| {
        words.iter().enumerate().find_map(|(i, word)| {
            let rest = labels.iter().find_map(|label| word.strip_prefix(label))?;
            if rest.is_empty() {
                number(words.get(i + 1)?)
            } else {
                rest.starts_with(|c: char| c.is_ascii_digit()).then(|| number(rest))?
            }
        })
    };
    let take = labelled(&["take", "tk", "t"])?;
    let scene = labelled(&["scene", "sc", "s"]).or_else(|| {
        let first = words.first()?;
        first.starts_with(|c: char| c.is_ascii_digit()).then(|| number(first))?
    })?;
    Some((scene, take))
}
