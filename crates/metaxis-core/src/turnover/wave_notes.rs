//! What a broadcast WAV says of itself: its `bext` chunk (EBU Tech 3285) and its iXML.

use crate::time::{FrameRate, SampleRate};
use quick_xml::{Writer, events::BytesText};
use std::io;

/// One file of several that belong together: a file a channel.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileSet {
    /// The same for all of them.
    pub family: String,
    /// What they are called together.
    pub name: String,
    /// Which of them this is, from 1.
    pub index: usize,
    /// How many there are.
    pub total: usize,
}

/// What is written beside the samples.
#[derive(Debug, Clone, PartialEq)]
pub struct WaveNotes {
    /// The production.
    pub project: String,
    /// Scene.
    pub scene: Option<String>,
    /// Take.
    pub take: Option<String>,
    /// Reel.
    pub tape: Option<String>,
    /// A preferred take.
    pub circled: bool,
    /// Notes.
    pub notes: Option<String>,
    /// The file that it belongs to: the picture's.
    pub belongs_to: String,
    /// When that was made, as its file says (RFC 3339 or a part of it).
    pub created: Option<String>,
    /// How its timecode counts, and whether in drop-frame.
    pub timecode: Option<(FrameRate, bool)>,
    /// Samples a second.
    pub rate: SampleRate,
    /// Bits a sample.
    pub bits: u32,
    /// Samples since midnight at the first sample.
    pub time_reference: u64,
    /// The tracks' names.
    pub tracks: Vec<String>,
    /// Tells this content from any other.
    pub uid: String,
    /// The set that it is one of.
    pub set: Option<FileSet>,
    /// What was done, a sentence a source.
    pub history: Vec<String>,
}

/// Who writes.
const ORIGINATOR: &str = "Metaxis";

impl WaveNotes {
    /// The content of the `bext` chunk, version 1, with its coding history as EBU R 98 has it.
    pub fn bext(&self) -> Vec<u8> {
        let (date, time) = self.date_and_time();
        let mut out = vec![];
        let mut text = |value: &str, length: usize| {
            let mut bytes = ascii(value);
            bytes.resize(length, 0);
            out.extend(bytes);
        };
        text(&format!("Sound for {}: {}", self.belongs_to, self.tracks.join(", ")), 256);
        text(ORIGINATOR, 32);
        text(&self.uid, 32);
        text(&date, 10);
        text(&time, 8);
        out.extend(self.time_reference.to_le_bytes());
        out.extend(1_u16.to_le_bytes());
        out.extend([0; 64 + 190]); // no UMID, reserved
        let mode = match self.tracks.len() {
            1 => "mono",
            2 => "stereo",
            _ => "multi",
        };
        for line in &self.history {
            let plain = line.replace(['\r', '\n', ','], ";");
            out.extend(ascii(&format!(
                "A=PCM,F={},W={},M={mode},T={ORIGINATOR}: {plain}\r\n",
                self.rate.0, self.bits
            )));
        }
        out
    }

    /// The iXML document.
    pub fn ixml(&self) -> Vec<u8> {
        let mut writer = Writer::new(b"<?xml version=\"1.0\" encoding=\"UTF-8\"?>".to_vec());
        // Nothing is written but to memory.
        let _ = writer.create_element("BWFXML").write_inner_content(|xml| self.elements(xml));
        writer.into_inner()
    }

    fn elements(&self, xml: &mut Writer<Vec<u8>>) -> io::Result<()> {
        put(xml, "IXML_VERSION", "2.0")?;
        put(xml, "PROJECT", &self.project)?;
        for (name, value) in
            [("SCENE", &self.scene), ("TAKE", &self.take), ("TAPE", &self.tape), ("NOTE", &self.notes)]
        {
            if let Some(value) = value {
                put(xml, name, value)?;
            }
        }
        put(xml, "CIRCLED", if self.circled { "TRUE" } else { "FALSE" })?;
        put(xml, "FILE_UID", &self.uid)?;
        xml.create_element("SPEED").write_inner_content(|xml| self.speed(xml))?;
        xml.create_element("HISTORY")
            .write_inner_content(|xml| put(xml, "PARENT_FILENAME", &self.belongs_to))?;
        if let Some(set) = &self.set {
            xml.create_element("FILE_SET").write_inner_content(|xml| {
                put(xml, "TOTAL_FILES", &set.total.to_string())?;
                put(xml, "FAMILY_UID", &set.family)?;
                put(xml, "FAMILY_NAME", &set.name)?;
                put(xml, "FILE_SET_INDEX", &set.index.to_string())
            })?;
        }
        xml.create_element("TRACK_LIST").write_inner_content(|xml| {
            put(xml, "TRACK_COUNT", &self.tracks.len().to_string())?;
            for (number, name) in (1..).zip(&self.tracks) {
                // Of a set, each file has one track, which is one channel of the whole.
                let channel = self.set.as_ref().map_or(number, |set| set.index);
                xml.create_element("TRACK").write_inner_content(|xml| {
                    put(xml, "CHANNEL_INDEX", &channel.to_string())?;
                    put(xml, "INTERLEAVE_INDEX", &number.to_string())?;
                    put(xml, "NAME", name)
                })?;
            }
            Ok(())
        })?;
        put(xml, "USER", &self.history.join("\n"))
    }

    fn speed(&self, xml: &mut Writer<Vec<u8>>) -> io::Result<()> {
        if let Some((rate, drop)) = self.timecode {
            let fraction = format!("{}/{}", rate.num(), rate.den());
            put(xml, "MASTER_SPEED", &fraction)?;
            put(xml, "CURRENT_SPEED", &fraction)?;
            put(xml, "TIMECODE_RATE", &fraction)?;
            put(xml, "TIMECODE_FLAG", if drop { "DF" } else { "NDF" })?;
        }
        let rate = self.rate.0.to_string();
        put(xml, "FILE_SAMPLE_RATE", &rate)?;
        put(xml, "AUDIO_BIT_DEPTH", &self.bits.to_string())?;
        put(xml, "DIGITIZER_SAMPLE_RATE", &rate)?;
        put(xml, "TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_HI", &(self.time_reference >> 32).to_string())?;
        put(xml, "TIMESTAMP_SAMPLES_SINCE_MIDNIGHT_LO", &(self.time_reference & 0xffff_ffff).to_string())?;
        put(xml, "TIMESTAMP_SAMPLE_RATE", &rate)
    }

    /// The day and the time of it, of ten and eight characters; empty where nothing says them.
    fn date_and_time(&self) -> (String, String) {
        let created = self.created.as_deref().unwrap_or_default();
        let (date, time) = created.split_once(['T', ' ']).unwrap_or((created, ""));
        let whole = |text: &str, length: usize| text.get(..length).unwrap_or_default().to_owned();
        (whole(date, 10), whole(time, 8))
    }
}

fn put(xml: &mut Writer<Vec<u8>>, name: &str, value: &str) -> io::Result<()> {
    // XML has no way to say these.
    let plain: String = value.chars().filter(|c| !c.is_control() || *c == '\n').collect();
    xml.create_element(name).write_text_content(BytesText::new(&plain)).map(|_| ())
}

/// What ASCII has of a text.
fn ascii(text: &str) -> Vec<u8> {
    text.chars().map(|c| u8::try_from(c).ok().filter(u8::is_ascii).unwrap_or(b'_')).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn notes() -> WaveNotes {
        WaveNotes {
            project: "The Tarn Hollow Tenor".into(),
            scene: Some("2".into()),
            take: Some("3".into()),
            tape: None,
            circled: true,
            notes: Some("wind <at> the end & after".into()),
            belongs_to: "A001.mov".into(),
            created: Some("2026-05-14T09:13:20.5Z".into()),
            timecode: Some((FrameRate::FPS_25, false)),
            rate: SampleRate(48_000),
            bits: 24,
            time_reference: 5_000_000_000,
            tracks: vec!["Mix".into(), "Boöm".into(), "TC".into()],
            uid: "0123".into(),
            set: None,
            history: vec!["S-001.wav, resampled at +38.8 ppm".into()],
        }
    }

    #[test]
    fn the_chunk_has_its_fields_where_the_standard_has_them() {
        let bext = notes().bext();
        let text = |from: usize, to: usize| {
            String::from_utf8_lossy(&bext[from..to]).trim_end_matches('\0').to_owned()
        };
        assert_eq!(text(0, 256), "Sound for A001.mov: Mix, Bo_m, TC");
        assert_eq!((text(256, 288), text(288, 320)), ("Metaxis".into(), "0123".into()));
        assert_eq!((text(320, 330), text(330, 338)), ("2026-05-14".into(), "09:13:20".into()));
        assert_eq!(bext[338..346], 5_000_000_000_u64.to_le_bytes());
        assert_eq!(bext[346..348], [1, 0]);
        assert_eq!(
            text(602, bext.len()),
            "A=PCM,F=48000,W=24,M=multi,T=Metaxis: S-001.wav; resampled at +38.8 ppm\r\n"
        );
        let bare = WaveNotes { created: None, ..notes() }.bext();
        assert_eq!(bare[320..338], [0; 18]);
    }

    #[test]
    fn what_is_written_is_text_whatever_it_says() {
        let ixml = String::from_utf8(WaveNotes { scene: Some("\u{1}4\0".into()), ..notes() }.ixml())
            .unwrap_or_default();
        assert!(
            ixml.contains("<SCENE>4</SCENE>") && ixml.contains("wind &lt;at&gt; the end &amp; after"),
            "{ixml}"
        );
        assert!(ixml.contains("<TIMECODE_RATE>25/1</TIMECODE_RATE>") && ixml.contains("_HI>1</"), "{ixml}");
    }
}
