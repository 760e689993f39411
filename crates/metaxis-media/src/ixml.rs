//! iXML: the recorder's own notes inside a WAV file.

use metaxis_core::clip::SpeedLabels;
use quick_xml::{Reader, escape::resolve_xml_entity, events::Event};

/// What is read of it.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Ixml {
    /// SCENE.
    pub scene: Option<String>,
    /// TAKE.
    pub take: Option<String>,
    /// NOTE.
    pub notes: Option<String>,
    /// TAPE.
    pub tape: Option<String>,
    /// FILE_UID.
    pub uid: Option<String>,
    /// CIRCLED is TRUE.
    pub circled: bool,
    /// SPEED, and TIMECODE_RATE in it.
    pub speed: SpeedLabels,
    /// NAME of each TRACK, in order.
    pub tracks: Vec<String>,
}

/// Longest text kept of one element, and most track names.
const MAX_TEXT: usize = 2000;
const MAX_TRACKS: usize = 256;

/// Reads an iXML document; what is damaged ends the reading, what came before is kept.
pub fn parse_ixml(bytes: &[u8]) -> Ixml {
    let text = String::from_utf8_lossy(bytes);
    let mut reader = Reader::from_str(text.trim_matches(['\0', ' ', '\n', '\r', '\t']));
    let mut found = Ixml::default();
    let mut path: Vec<String> = vec![];
    let mut content = String::new();
    loop {
        match reader.read_event() {
            Ok(Event::Start(start)) => {
                path.push(start.name().as_ref().to_owned());
                content.clear();
                if path.len() > 32 {
                    return found;
                }
            }
            Ok(Event::Text(part)) if content.len() < MAX_TEXT => content.push_str(&part),
            Ok(Event::GeneralRef(entity)) if content.len() < MAX_TEXT => match entity.resolve_char_ref() {
                Ok(Some(c)) => content.push(c),
                _ => content.push_str(resolve_xml_entity(&entity).unwrap_or_default()),
            },
            Ok(Event::End(_)) => {
                found.take_up(&path, content.trim());
                content.clear();
                path.pop();
            }
            Ok(Event::Eof) | Err(_) => return found,
            Ok(_) => {}
        }
    }
}

impl Ixml {
    fn take_up(&mut self, path: &[String], text: &str) {
        if text.is_empty() {
            return;
        }
        let some = Some(text.to_owned());
        let names: Vec<&str> = path.iter().map(String::as_str).collect();
        match names[..] {
            [_, "SCENE"] => self.scene = some,
            [_, "TAKE"] => self.take = some,
            [_, "NOTE"] => self.notes = some,
            [_, "TAPE"] => self.tape = some,
            [_, "FILE_UID"] => self.uid = some,
            [_, "CIRCLED"] => self.circled = text.eq_ignore_ascii_case("true"),
            [_, "SPEED", "FILE_SAMPLE_RATE"] => self.speed.file_sample_rate = text.parse().ok(),
            [_, "SPEED", "DIGITIZER_SAMPLE_RATE"] => self.speed.digitizer_sample_rate = text.parse().ok(),
            [_, "SPEED", "TIMECODE_RATE"] => self.speed.timecode_rate = text.parse().ok(),
            [_, "SPEED", "TIMECODE_FLAG"] => self.speed.drop = text.eq_ignore_ascii_case("df"),
            [.., "TRACK", "NAME"] if self.tracks.len() < MAX_TRACKS => self.tracks.push(text.to_owned()),
            _ => {}
        }
    }
}
