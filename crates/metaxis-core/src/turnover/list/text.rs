//! The lines of a list: ASCII, eighty letters at most, and what did not fit at its end.

use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};

/// The longest line that every reader takes.
const WIDTH: usize = 80;

/// As it is on the file, in letters that a list has: others as in an address (RFC 3986).
const FOREIGN: &AsciiSet = &CONTROLS.add(b'%');

/// A text in letters that a list has, others as `_`: no more than one line, and no control over what follows.
pub(in crate::turnover) fn plain(text: &str) -> String {
    let letter = |own: char| match own {
        own if own.is_control() => ' ',
        own if own.is_ascii() => own,
        _ => '_',
    };
    text.chars().map(letter).collect()
}

/// A line, cut where it is too long.
pub(super) fn line(text: &str) -> String {
    let own: String = plain(text).chars().take(WIDTH).collect();
    format!("{}\r\n", own.trim_end())
}

/// What could not be said where it belongs.
#[derive(Debug, Default)]
pub(super) struct Legend {
    all: Vec<(String, String)>,
}

impl Legend {
    /// A comment of a name; where the name cannot be said in whole, it stands in the legend.
    pub fn comment(&mut self, label: &str, name: &str) -> String {
        let whole = line(&format!("* {label}: {name}"));
        let said = plain(name);
        if said != name || label.len() + 4 + name.len() > WIDTH {
            let short: String = said.chars().take(24).collect();
            self.say(format!("FILE {}", short.trim_end()), name);
        }
        whole
    }

    /// What something stands for; said once.
    pub fn say(&mut self, what: String, full: &str) {
        let own = (what, full.to_owned());
        if !self.all.contains(&own) {
            self.all.push(own);
        }
    }

    /// All of it as comments, longer ones over several lines.
    pub fn written(&self) -> String {
        self.all.iter().map(|(what, full)| entry(what, full)).collect()
    }
}

fn entry(what: &str, full: &str) -> String {
    let text = format!("* {what} IS {}", utf8_percent_encode(full, FOREIGN));
    let letters: Vec<char> = text.chars().collect();
    let (head, rest) = letters.split_at(letters.len().min(WIDTH));
    let more = rest.chunks(WIDTH - 4).map(|own| format!("*  +{}\r\n", own.iter().collect::<String>()));
    format!("{}\r\n{}", head.iter().collect::<String>(), more.collect::<String>())
}
