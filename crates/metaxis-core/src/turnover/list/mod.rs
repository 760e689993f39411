//! The line as edit decision lists after SMPTE ST 258: pictures and the sound that is heard with them.
//!
//! A list holds 999 events and a day of labels; what is more goes into lists of its own, each complete. Labels of 50 and 59.94
//! frames a second count all of them (SMPTE ST 12-3), since a list has no sign for the second frame of a pair that readers know.

mod events;
mod reels;
mod text;

use super::{Source, Sources, assembled::AssembledPart};
use crate::{
    group::{Angle, AnglePart, Group},
    line::{Line, Marker},
    sound::Correction,
    time::Timecode,
};
use events::{Event, Of, black, events_of};
use reels::Reels;
use std::fmt::Write;
pub(super) use text::plain;
use text::{Legend, line as one_line};

/// As many as three digits count.
const MOST: usize = 999;
/// From so many on a list ends where nothing dissolves: what comes out of something stands behind it.
const FULL: usize = 990;

/// A line in a list: what is before it there, in frames.
struct Listed<'a> {
    group: &'a Group,
    events: Vec<Event>,
    markers: &'a [Marker],
    /// From and up to which of its frames it is there.
    range: (i64, i64),
    /// The record frame of its group's frame 0; may be before the list's first.
    later: i64,
}

/// The lists as texts, lines ended by CR LF: one, unless a list cannot hold it all. Sources without timecode count from their
/// first frame; where the angle did not run, the reel is `BL` (black).
pub fn cut_lists(group: &Group, line: &Line, sources: &Sources) -> Vec<String> {
    let range = (0, group.frames);
    let events = events_of(group, line, range, sources);
    let listed = Listed { group, events, markers: line.markers(), range, later: 0 };
    written(&group.name, group.start, vec![listed], sources)
}

/// The same of lines one behind another, of one rate; they begin at `start`.
pub fn assembly_lists(
    name: &str,
    start: Timecode,
    parts: &[AssembledPart],
    sources: &Sources,
) -> Vec<String> {
    let mut before = 0;
    let listed = parts.iter().map(|own| {
        let events = events_of(&own.group, &own.line, own.range, sources);
        let later = before - own.range.0;
        before += own.range.1 - own.range.0;
        Listed { group: &own.group, events, markers: own.line.markers(), range: own.range, later }
    });
    let listed = listed.collect();
    written(name, start, listed, sources)
}

/// As many sound channels as have names in a list.
const CHANNELS: [&str; 4] = ["A", "A2", "A3", "A4"];

/// Tracks of sound that lie under all of a group, each with its name: as many to a list as it has channels for.
pub(super) fn tracks_lists(
    group: &Group,
    tracks: &[(Angle, AnglePart, String)],
    sources: &Sources,
) -> Vec<String> {
    let mut reels = Reels::default();
    let mut all = vec![];
    for (some, first) in tracks.chunks(CHANNELS.len()).zip((1..).step_by(CHANNELS.len())) {
        let one = |((angle, part, name), channel): (&(Angle, AnglePart, String), &'static str)| Event {
            part: Some((angle.clone(), part.clone())),
            on: Some((channel, name.clone())),
            ..black(Of::Sound, (0, group.frames))
        };
        let events = some.iter().zip(CHANNELS).map(one).collect();
        let listed = Listed { group, events, markers: &[], range: (0, group.frames), later: 0 };
        let name = format!("{} SOUND {first}-{}", group.name, first + some.len() - 1);
        all.extend(written_with(&mut reels, &name, group.start, vec![listed], sources));
    }
    all
}

fn written(name: &str, start: Timecode, listed: Vec<Listed>, sources: &Sources) -> Vec<String> {
    written_with(&mut Reels::default(), name, start, listed, sources)
}

/// The same with the reels of lists that belong to it.
fn written_with(
    reels: &mut Reels,
    name: &str,
    start: Timecode,
    listed: Vec<Listed>,
    sources: &Sources,
) -> Vec<String> {
    let mut lists = Lists { start, sources, reels, whole: vec![], page: Page::new(start, 0) };
    for own in listed {
        lists.add(own);
    }
    lists.end_page();
    let count = lists.whole.len();
    let counting = if start.drop { "DROP FRAME" } else { "NON-DROP FRAME" };
    let head = |number: usize| {
        let name: String = text::plain(name).chars().take(60).collect();
        let which = if count > 1 { format!(" {} OF {count}", number + 1) } else { String::new() };
        format!("TITLE: {name}{which}\r\nFCM: {counting}\r\n\r\n")
    };
    lists.whole.iter().enumerate().map(|(number, text)| head(number) + text).collect()
}

/// What was written last of pictures, or of sounds.
type Before = Option<(String, Timecode)>;

/// A list that is being written.
struct Page {
    text: String,
    count: usize,
    /// Whether labels count drop-frame, as the list said last.
    drop: bool,
    /// How often midnight has passed.
    day: i64,
    before: [Before; 2],
    legend: Legend,
}

impl Page {
    fn new(start: Timecode, day: i64) -> Self {
        let drop = start.drop;
        Self { text: String::new(), count: 0, drop, day, before: [None, None], legend: Legend::default() }
    }
}

struct Lists<'a> {
    start: Timecode,
    sources: &'a Sources,
    /// The same in all lists.
    reels: &'a mut Reels,
    whole: Vec<String>,
    page: Page,
}

/// A clip that an event is of.
type Shown<'a> = (&'a AnglePart, &'a Source);

impl Lists<'_> {
    fn end_page(&mut self) {
        let next = Page::new(self.start, self.page.day);
        let page = std::mem::replace(&mut self.page, next);
        if !page.text.is_empty() || self.whole.is_empty() {
            self.whole.push(page.text + &page.legend.written());
        }
    }

    fn add(&mut self, listed: Listed) {
        let Listed { group, events, markers, range, later } = listed;
        // Nothing comes out of another group's line.
        self.page.before = [None, None];
        let mut marked = markers.iter().filter(|own| (range.0..range.1).contains(&own.at)).peekable();
        let mut left: Vec<Event> = events.into_iter().rev().collect();
        while let Some(event) = left.pop() {
            if let Some(at) = self.midnight(group, &event, later) {
                let [own, behind] = event.cut(at);
                let place = left.partition_point(|other| (other.from, other.of) > (behind.from, behind.of));
                left.insert(place, behind);
                left.push(own);
                continue;
            }
            self.event(group, &event, later);
            while let Some(own) = marked.next_if(|own| own.at < event.to && event.of == Of::Picture) {
                let label = self.start.plus(own.at + later);
                self.page.text += &one_line(&format!("* MARKER {label} {}", own.note));
            }
        }
    }

    /// The first frame within an event at which a label, of the list or of its source, begins a day anew: no reader takes an
    /// event that ends before it begins.
    fn midnight(&self, group: &Group, event: &Event, later: i64) -> Option<i64> {
        let within = |at: i64| (event.from < at && at < event.to).then_some(at);
        let until = |label: Timecode| label.day() - label.frames;
        let record = within(event.from + until(self.start.plus(event.from + later)));
        let source = self.shown(event).and_then(|(part, source)| {
            let (first, taken, speed) = self.source(group, event, (part, source));
            let passes = until(first);
            (passes < taken).then(|| event.from + (passes as f64 / speed.unwrap_or(1.0)).round() as i64)
        });
        record.into_iter().chain(source.and_then(within)).min()
    }

    fn shown<'b>(&'b self, event: &'b Event) -> Option<Shown<'b>> {
        let (_, part) = event.part.as_ref()?;
        Some((part, self.sources.clips.get(&part.clip)?))
    }

    /// The label of an event's first frame in its source, how many frames are taken of it, and how fast, where that can be said:
    /// a list says speeds to a tenth of a frame, so that clocks are no matter for it.
    fn source(&self, group: &Group, event: &Event, (part, source): Shown) -> (Timecode, i64, Option<f64>) {
        let rate = self.start.rate;
        let first = source.label(group.clip_frame(part, event.from), part.rate, self.start);
        let length = event.to - event.from;
        let speed = event.part.as_ref().and_then(|(angle, part)| self.sources.speed(angle, part));
        let speed = speed.filter(|speed| (speed - 1.0).abs() * rate.as_f64() >= 0.05);
        let taken = speed.map_or(length, |speed| ((length as f64 * speed).round() as i64).max(1));
        (first, taken, speed)
    }

    fn event(&mut self, group: &Group, event: &Event, later: i64) {
        let day = (self.start.frames + event.from + later).div_euclid(self.start.day());
        let is_full = self.page.count >= if event.dissolve > 0 { MOST } else { FULL };
        if is_full || day != self.page.day {
            self.end_page();
            self.page.day = day;
        }
        let shown = self.shown(event).map(|(part, source)| (part.clone(), source.clone()));
        let (first, taken, speed) = match &shown {
            Some((part, source)) => self.source(group, event, (part, source)),
            None => (Timecode::new(0, self.start.rate, self.start.drop), event.to - event.from, None),
        };
        let reel = match &shown {
            Some((part, source)) => self.reels.of(part.clip, source, &mut self.page.legend),
            None => "BL".to_owned(),
        };
        let said = shown.as_ref().map(|(part, source)| self.said_of(event, part, source));
        let page = &mut self.page;
        if first.drop != page.drop {
            page.drop = first.drop;
            page.text += if first.drop { "FCM: DROP FRAME\r\n" } else { "FCM: NON-DROP FRAME\r\n" };
        }
        page.count += 1;
        let number = page.count;
        let of_file = || channel(event.of, shown.as_ref().map(|(_, source)| source));
        let channel = event.on.as_ref().map_or_else(of_file, |(channel, _)| channel);
        let begins = self.start.plus(event.from + later);
        let ends = end_of(begins, event.to - event.from);
        let before = page.before[event.of as usize].take();
        // Letter, blanks, and the three digits of a dissolve's frames.
        let mut kind = "C        ".to_owned();
        if let (Some((reel, own)), true) = (&before, event.dissolve > 0) {
            // What it comes out of, of no length, as the form wants it.
            let _ = write!(
                page.text,
                "{number:03}  {reel:<8} {channel:<5} {kind}{own} {own} {begins} {begins}\r\n"
            );
            kind = format!("D    {:03} ", event.dissolve.min(999));
        }
        let last = end_of(first, taken);
        let _ =
            write!(page.text, "{number:03}  {reel:<8} {channel:<5} {kind}{first} {last} {begins} {ends}\r\n");
        page.before[event.of as usize] = Some((reel.clone(), first.plus(taken)));
        if before.is_none() && event.dissolve > 0 {
            page.text +=
                &one_line(&format!("* COMES OVER {} FRAMES OUT OF WHAT IS BEFORE THIS LIST", event.dissolve));
        }
        if let Some(speed) = speed {
            let frames = speed * self.start.rate.as_f64();
            let _ = write!(page.text, "M2   {reel:<8} {frames:05.1} {:>27}\r\n", first.to_string());
        }
        if let Some((_, source)) = &shown {
            page.text += &page.legend.comment("FROM CLIP NAME", &source.file_name);
            page.text += &page.legend.comment("SOURCE FILE", &source.file_name);
        }
        page.text += &said.unwrap_or_default();
    }

    /// What else is to be known of an event, as comments.
    fn said_of(&self, event: &Event, part: &AnglePart, source: &Source) -> String {
        let mut all: Vec<String> = vec![];
        if let Some((channel, name)) = &event.on {
            all.push(format!("TRACK {channel} IS {name}"));
        }
        if event.blended {
            all.push("FRAMES IN BETWEEN ARE BLENDED".into());
        }
        if event.for_clock {
            all.push("THE SAME CLIP, CUT WHERE ITS CLOCK IS A FRAME OFF".into());
        }
        let resampled = event.part.as_ref().is_some_and(|(angle, part)| {
            self.sources.correction(angle, part) == Correction::Resample && part.stretch.retimed().is_none()
        });
        if resampled && part.stretch.rate_ppm != 0.0 {
            all.push(format!(
                "ITS CLOCK RUNS {:+.1} PPM: NO SPEED IN A LIST IS THAT FINE",
                part.stretch.rate_ppm
            ));
        }
        if !source.has_label() {
            all.push("NO TIMECODE IN THE FILE: COUNTED FROM ITS FIRST FRAME".into());
        }
        let channels = source.facts.sound.as_ref().map_or(0, |own| own.channels);
        if event.of == Of::Sound && channels > 2 {
            all.push(format!("{channels} CHANNELS IN THE FILE"));
        }
        all.iter().map(|own| one_line(&format!("* {own}"))).collect()
    }
}

/// Which channels an event is of, as the form calls them.
fn channel(of: Of, source: Option<&Source>) -> &'static str {
    let channels = source.and_then(|own| own.facts.sound.as_ref()).map_or(0, |own| own.channels);
    match of {
        Of::Picture => "V",
        Of::Sound if channels < 2 => "A",
        Of::Sound => "AA",
    }
}

/// Where what begins at a label ends: at midnight it is the end of its day, not the beginning of the next.
fn end_of(begins: Timecode, frames: i64) -> String {
    let ends = begins.plus(frames);
    if ends.frames == 0 && begins.frames > 0 && frames > 0 {
        return if ends.drop { "24:00:00;00" } else { "24:00:00:00" }.into();
    }
    ends.to_string()
}
