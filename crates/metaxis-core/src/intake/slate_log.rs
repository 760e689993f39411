//! A slate log as CSV: whatever its encoding, separator and headers.

use encoding_rs::{Encoding, UTF_8, UTF_16BE, UTF_16LE, WINDOWS_1252};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use ts_rs::TS;

/// What a column of the log means.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum LogColumn {
    /// Scene.
    Scene,
    /// Take.
    Take,
    /// Camera letter or name.
    Camera,
    /// Picture file, or several.
    Picture,
    /// Sound file, or several.
    Sound,
    /// Circled (preferred).
    Circled,
    /// Notes.
    Notes,
    /// Not used.
    Ignore,
}

/// One take in the log.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct SlateRow {
    /// Line of the file, from 1.
    pub line: u32,
    /// Scene.
    pub scene: String,
    /// Take.
    pub take: String,
    /// Camera.
    pub camera: String,
    /// Picture files named.
    pub pictures: Vec<String>,
    /// Sound files named.
    pub sounds: Vec<String>,
    /// Circled.
    pub circled: bool,
    /// Notes.
    pub notes: String,
}

/// A log that was read.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct SlateLog {
    /// Its takes.
    pub rows: Vec<SlateRow>,
}

/// What is shown before a log is taken.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct LogPreview {
    /// Encoding, as guessed.
    pub encoding: String,
    /// Separator, as guessed or chosen.
    pub separator: char,
    /// Headers.
    pub headers: Vec<String>,
    /// What each column is taken for.
    pub columns: Vec<LogColumn>,
    /// The first lines.
    pub lines: Vec<Vec<String>>,
    /// The log, read with these columns.
    pub log: SlateLog,
}

/// Why a file is no slate log.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum LogError {
    /// Nothing in it.
    #[error("the file has no lines; export the slate log as CSV again")]
    Empty,
    /// More than any day has.
    #[error("the file is too large for a slate log ({0} bytes); choose the CSV file of one day")]
    TooLarge(usize),
    /// Not text.
    #[error("the file is no text; export the slate log as CSV, not as a spreadsheet document")]
    NotText,
    /// No column names a take or a file.
    #[error("no column was recognised as scene, take or file name; choose them by hand")]
    NoColumns,
}

const MAX_BYTES: usize = 8 << 20;
const MAX_COLUMNS: usize = 64;
const MAX_ROWS: usize = 20_000;
const MAX_FIELD: usize = 2000;
const PREVIEW_LINES: usize = 12;

/// Reads a log. `columns` overrides what the headers are taken for, `separator` what separates the fields.
///
/// # Errors
/// A [`LogError`] in words.
pub fn read_log(
    bytes: &[u8],
    columns: Option<&[LogColumn]>,
    separator: Option<char>,
) -> Result<LogPreview, LogError> {
    if bytes.len() > MAX_BYTES {
        return Err(LogError::TooLarge(bytes.len()));
    }
    let (text, encoding) = decode(bytes);
    if text.chars().take(4000).any(|c| c == '\0' || c == char::REPLACEMENT_CHARACTER) {
        return Err(LogError::NotText);
    }
    let separator = separator.filter(char::is_ascii).unwrap_or_else(|| guess_separator(&text));
    let mut lines = csv::ReaderBuilder::new()
        .delimiter(separator as u8)
        .has_headers(false)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes())
        .into_records()
        .take(MAX_ROWS)
        .filter_map(Result::ok)
        .map(|record| {
            let line = record.position().map_or(0, csv::Position::line) as u32;
            let cut = |field: &str| field.chars().take(MAX_FIELD).collect::<String>();
            (line, record.iter().take(MAX_COLUMNS).map(cut).collect::<Vec<_>>())
        })
        .filter(|(_, fields)| fields.iter().any(|field| !field.is_empty()))
        .collect::<Vec<_>>();
    if lines.is_empty() {
        return Err(LogError::Empty);
    }
    // Some logs begin with a title: the headers are the first line that names two columns.
    let head = lines.iter().take(8).position(|(_, fields)| known(fields) >= 2).unwrap_or(0);
    let headers = lines.drain(..=head).next_back().map(|(_, fields)| fields).unwrap_or_default();
    let mut columns: Vec<LogColumn> = columns.map_or_else(|| guess_columns(&headers), <[LogColumn]>::to_vec);
    columns.resize(headers.len().min(MAX_COLUMNS), LogColumn::Ignore);
    if columns
        .iter()
        .all(|column| matches!(column, LogColumn::Ignore | LogColumn::Notes | LogColumn::Circled))
    {
        columns.fill(LogColumn::Ignore);
    }
    let rows = lines
        .iter()
        .map(|(line, fields)| row(*line, fields, &columns))
        .filter(SlateRow::says_something)
        .collect();
    Ok(LogPreview {
        encoding: encoding.name().to_owned(),
        separator,
        headers,
        columns,
        lines: lines.into_iter().take(PREVIEW_LINES).map(|(_, fields)| fields).collect(),
        log: SlateLog { rows },
    })
}

fn decode(bytes: &[u8]) -> (String, &'static Encoding) {
    let encoding = if let Some((encoding, _)) = Encoding::for_bom(bytes) {
        encoding
    } else if std::str::from_utf8(bytes).is_ok() && !bytes.contains(&0) {
        UTF_8
    } else {
        // UTF-16 without a mark: every other byte of plain text is zero.
        let zeros = |odd: usize| bytes.iter().skip(odd).step_by(2).filter(|byte| **byte == 0).count();
        let many = bytes.len() / 4;
        if zeros(1) > many {
            UTF_16LE
        } else if zeros(0) > many {
            UTF_16BE
        } else {
            WINDOWS_1252
        }
    };
    let (text, used, _) = encoding.decode(bytes);
    (text.into_owned(), used)
}

/// The separator that splits the first lines into most columns, as evenly as possible.
fn guess_separator(text: &str) -> char {
    let lines: Vec<&str> = text.lines().filter(|line| !line.trim().is_empty()).take(10).collect();
    let count = |line: &str, separator: char| {
        let mut quoted = false;
        line.chars()
            .filter(|c| {
                quoted ^= *c == '"';
                *c == separator && !quoted
            })
            .count()
    };
    let score = |separator: char| {
        let mut counts: Vec<usize> = lines.iter().map(|line| count(line, separator)).collect();
        counts.sort_unstable();
        counts.get(counts.len() / 2).copied().unwrap_or(0)
    };
    [';', '\t', ',', '|'].into_iter().rev().max_by_key(|separator| score(*separator)).unwrap_or(',')
}

/// Words of headers, lower case and without signs, and what they mean.
const WORDS: [(LogColumn, &[&str]); 7] = [
    (LogColumn::Scene, &["scene", "sc", "slate", "szene", "scène", "escena"]),
    (LogColumn::Take, &["take", "tk", "prise", "toma"]),
    (
        LogColumn::Picture,
        &[
            "picturefile",
            "videofile",
            "picture",
            "video",
            "clip",
            "clipname",
            "camerafile",
            "picfile",
            "filename",
            "file",
            "picturefiles",
            "videofiles",
            "cliporfile",
        ],
    ),
    (
        LogColumn::Sound,
        &[
            "soundfile",
            "audiofile",
            "sound",
            "audio",
            "wav",
            "wavfile",
            "soundfiles",
            "audiofiles",
            "soundroll",
            "recorderfile",
        ],
    ),
    (LogColumn::Camera, &["camera", "cam", "cameras", "kamera", "unit"]),
    (LogColumn::Circled, &["circled", "circle", "good", "ok", "print", "preferred", "best"]),
    (LogColumn::Notes, &["notes", "note", "comment", "comments", "remark", "remarks", "description"]),
];

fn meaning(header: &str) -> LogColumn {
    let word: String = header.to_lowercase().chars().filter(|c| c.is_alphanumeric()).collect();
    let known = |words: &[&str]| words.contains(&word.as_str());
    WORDS.iter().find(|(_, words)| known(words)).map_or(LogColumn::Ignore, |(column, _)| *column)
}

fn known(headers: &[String]) -> usize {
    guess_columns(headers).iter().filter(|column| **column != LogColumn::Ignore).count()
}

/// One column of each meaning; of several that would do, the first.
fn guess_columns(headers: &[String]) -> Vec<LogColumn> {
    let mut taken = vec![];
    headers
        .iter()
        .map(|header| {
            let column = meaning(header);
            if taken.contains(&column) {
                return LogColumn::Ignore;
            }
            taken.push(column);
            column
        })
        .collect()
}

fn row(line: u32, fields: &[String], columns: &[LogColumn]) -> SlateRow {
    let field = |wanted: LogColumn| {
        let at = columns.iter().position(|column| *column == wanted);
        at.and_then(|at| fields.get(at)).map(String::as_str).unwrap_or_default()
    };
    let files = |wanted| {
        let names =
            field(wanted).split([',', ';', '+', '\n', '|']).map(str::trim).filter(|name| !name.is_empty());
        names.map(str::to_owned).take(64).collect()
    };
    let circled = field(LogColumn::Circled).to_lowercase();
    SlateRow {
        line,
        scene: field(LogColumn::Scene).to_owned(),
        take: field(LogColumn::Take).to_owned(),
        camera: field(LogColumn::Camera).to_owned(),
        pictures: files(LogColumn::Picture),
        sounds: files(LogColumn::Sound),
        circled: !matches!(circled.as_str(), "" | "0" | "no" | "n" | "false" | "-"),
        notes: field(LogColumn::Notes).to_owned(),
    }
}

impl SlateRow {
    fn says_something(&self) -> bool {
        !(self.scene.is_empty() && self.take.is_empty() && self.pictures.is_empty() && self.sounds.is_empty())
    }
}
