//! Slated pictures whose sound is missing, and pictures that go on after their sound ended.

use super::{HealthKind, HealthNote, Weight, health_device::listed};
use crate::clip::ClipId;

/// A picture that has its place.
#[derive(Debug, Clone, Copy)]
pub struct SeenTake<'a> {
    /// The clip.
    pub id: ClipId,
    /// Its file name.
    pub name: &'a str,
    /// Whether its scene and take are known.
    pub slated: bool,
    /// Its island.
    pub component: u32,
    /// Where it begins and ends on the axis, seconds.
    pub extent_s: (f64, f64),
}

/// A recorder's file that has its place.
#[derive(Debug, Clone, Copy)]
pub struct HeardTake {
    /// Its island.
    pub component: u32,
    /// Where it begins and ends on the axis, seconds.
    pub extent_s: (f64, f64),
}

/// A picture may go on for so long after its sound: a hand that stops the recorder first.
const AFTER_S: f64 = 0.5;
/// Names that are said before the rest is counted.
const NAMED: usize = 4;

/// Notes on pictures that recorders did not run with to the end; none where no recorder has a place.
pub fn sound_notes(pictures: &[SeenTake], sounds: &[HeardTake]) -> Vec<HealthNote> {
    if sounds.is_empty() {
        return vec![];
    }
    let (mut without, mut ending) = (vec![], vec![]);
    for picture in pictures {
        let (from_s, to_s) = picture.extent_s;
        let with = sounds.iter().filter(|sound| {
            sound.component == picture.component && sound.extent_s.0 < to_s && sound.extent_s.1 > from_s
        });
        match with.map(|sound| sound.extent_s.1).reduce(f64::max) {
            None if picture.slated => without.push((picture, 0.0)),
            Some(end_s) if to_s - end_s > AFTER_S => ending.push((picture, to_s - end_s)),
            _ => {}
        }
    }
    let mut notes = vec![];
    if !without.is_empty() {
        let text = [
            format!("no recorder ran with {}, though slated", named(&without, |picture, _| picture.name.to_owned())),
            "There is no sound for it but the camera's own: its sound file may be missing from the copy.".into(),
            "Look for the file on the recorder's card and take it in; where there was none, note it for the editor.".into(),
        ];
        notes.push(note(HealthKind::SoundMissing, Weight::Hurts, &without, text));
    }
    if !ending.is_empty() {
        let text = [
            format!(
                "sound ends before its picture: {}",
                named(&ending, |picture, late_s| format!("{} by {late_s:.1} s", picture.name))
            ),
            "From there on only the camera's own sound is there; what is written is silent.".into(),
            "Nothing, where the take was over. Else look whether another file of the recorder is missing."
                .into(),
        ];
        notes.push(note(HealthKind::SoundEnds, Weight::Know, &ending, text));
    }
    notes
}

/// The pictures by what is said of each; where there are many, the first and how many more.
fn named(all: &[(&SeenTake, f64)], say: impl Fn(&SeenTake, f64) -> String) -> String {
    let mut names: Vec<String> =
        all.iter().take(NAMED).map(|(picture, late_s)| say(picture, *late_s)).collect();
    if all.len() > NAMED {
        names.push(format!("{} more", all.len() - NAMED));
    }
    listed(&names)
}

fn note(kind: HealthKind, weight: Weight, about: &[(&SeenTake, f64)], text: [String; 3]) -> HealthNote {
    let clips: Vec<ClipId> = about.iter().map(|(picture, _)| picture.id).collect();
    let key: Vec<String> = clips.iter().map(|clip| clip.0.to_string()).collect();
    HealthNote::new(kind, weight, &key.join("+"), &clips, text)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn picture(id: i64, name: &str, slated: bool, from_s: f64, to_s: f64) -> SeenTake<'_> {
        SeenTake { id: ClipId(id), name, slated, component: 0, extent_s: (from_s, to_s) }
    }

    #[test]
    fn what_is_missing_and_what_ends_is_told_once_for_all() {
        let sound = |from_s: f64, to_s: f64| HeardTake { component: 0, extent_s: (from_s, to_s) };
        let pictures = [
            picture(1, "A001", true, 0.0, 10.0),
            picture(2, "A002", true, 100.0, 110.0),
            picture(3, "A003", false, 200.0, 210.0),
            picture(4, "A004", true, 300.0, 312.4),
        ];
        // Two files one after the other are one sound as far as this goes.
        let sounds = [sound(-1.0, 5.0), sound(5.0, 9.8), sound(299.0, 309.0)];
        let notes = sound_notes(&pictures, &sounds);
        assert_eq!(notes.len(), 2);
        assert_eq!((notes[0].kind, &notes[0].clips[..]), (HealthKind::SoundMissing, &[ClipId(2)][..]));
        assert_eq!(notes[0].what, "no recorder ran with A002, though slated");
        assert_eq!(notes[1].what, "sound ends before its picture: A004 by 3.4 s");
        // Without a recorder nothing is missing; of another island it does not count.
        assert!(sound_notes(&pictures, &[]).is_empty());
        let elsewhere = [HeardTake { component: 1, extent_s: (0.0, 400.0) }];
        assert_eq!(sound_notes(&pictures, &elsewhere)[0].clips.len(), 3);
    }
}
