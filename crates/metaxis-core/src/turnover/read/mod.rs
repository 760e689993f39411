//! Documents read back: a line that was changed elsewhere, as an edit of the group's.

mod found;
mod line;
mod list;
mod otio;

use super::Sources;
use crate::{
    group::Group,
    line::{Line, LineEdit, MOST_LETTERS, MarkerColour},
};
use thiserror::Error;

/// A line that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadBack {
    /// What makes it of the group's own: switches, what lies over them, and markers where it has any. What is heard stays.
    pub edit: LineEdit,
    /// How many shots of the document are in it.
    pub shots: usize,
    /// How many of its markers are.
    pub markers: usize,
    /// What of the document is not in it, or otherwise, in sentences.
    pub remarks: Vec<String>,
}

/// Why a document cannot be read as a line.
#[derive(Debug, Error, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum ReadError {
    /// It is none of those that are read.
    #[error("this is neither an OpenTimelineIO document nor an edit decision list: {0}")]
    Unknown(String),
    /// There are no shots in it.
    #[error("there is no shot of a picture track in it")]
    Empty,
    /// Nothing in it is of this group.
    #[error("none of its {0} shots is of a file of this day; the first is of “{1}”")]
    Foreign(usize, String),
    /// It is longer than can be, or has more in it.
    #[error("it cannot be: {0}")]
    Impossible(String),
}

/// Reads a document as a line of `group`, whose line is `own`: the pictures of an OpenTimelineIO timeline, or of an edit decision
/// list. Files are found by fingerprint, name or reel, wherever they lie; nothing is fetched.
///
/// A shot that shows an angle at its moment, to a frame of the group, is a switch to it. Any other of a file of the day lies over
/// the line, and so does what is on a higher track. What the document counts from is found by what it shows.
///
/// # Errors
/// [`ReadError`].
pub fn read_line(bytes: &[u8], group: &Group, own: &Line, sources: &Sources) -> Result<ReadBack, ReadError> {
    let text = std::str::from_utf8(bytes).map_err(|_| ReadError::Unknown("it is not text".into()))?;
    let text = text.trim_start_matches('\u{feff}');
    let told =
        if text.trim_start().starts_with('{') { otio::told(text)? } else { list::told(text, group.start)? };
    line::line_of(&told, group, own, sources)
}

/// What a document says, before it is known what its media are.
#[derive(Debug, Clone, Default)]
struct Told {
    /// When its first frame is, seconds of labels since midnight, where it says so.
    start_s: Option<f64>,
    shots: Vec<Shot>,
    marks: Vec<Mark>,
    /// What of it is not read.
    remarks: Vec<String>,
}

/// A marker of a document.
#[derive(Debug, Clone)]
struct Mark {
    /// When it is, seconds after the document's first frame.
    at_s: f64,
    note: String,
    /// Nothing where the document has no colours.
    colour: Option<MarkerColour>,
}

impl Mark {
    /// With a note of one line that is no longer than a note may be.
    fn new(at_s: f64, note: &str, colour: Option<MarkerColour>) -> Self {
        let plain = note.replace(char::is_control, " ");
        let note: Vec<&str> = plain.split_whitespace().collect();
        Self { at_s, note: note.join(" ").chars().take(MOST_LETTERS).collect(), colour }
    }
}

/// A shot of a document, or nothing for a while.
#[derive(Debug, Clone)]
struct Shot {
    /// From and up to when it is seen, seconds after the document's first frame.
    from_s: f64,
    to_s: f64,
    /// It lies over what is below.
    over: bool,
    /// What is seen; nothing where it is black.
    media: Option<Media>,
    /// How fast, 1 at its own pace.
    speed: f64,
    /// Over how long it comes out of what is before, seconds.
    dissolve_s: f64,
}

/// Which media, and from where on.
#[derive(Debug, Clone)]
struct Media {
    /// Its names, the best first: files, in whole or without what they end with.
    names: Vec<String>,
    fingerprint: Option<String>,
    reel: Option<String>,
    first: First,
}

/// The first frame that is taken of some media.
#[derive(Debug, Clone)]
enum First {
    /// So many seconds after its first.
    Passed(f64),
    /// So many seconds of its labels after midnight.
    Counted(f64),
    /// The label, as a list writes it, where labels count drop-frame or not.
    Label(String, bool),
}

/// How many of something there are, by what one and what several are called; nothing where there are none.
fn counted(count: usize, [one, several]: [&str; 2]) -> Option<String> {
    (count > 0).then(|| format!("{count} {}", if count == 1 { one } else { several }))
}

/// More shots than anybody cuts.
const MOST_SHOTS: usize = 200_000;
/// More markers than anybody finds again.
const MOST_MARKS: usize = 5_000;
/// Longer than any line, seconds.
const MOST_S: f64 = 1e6;
