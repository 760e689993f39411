//! What documents say of the files of folders that were synced.

use super::synced::Synced;
use crate::heard_day::Listened;
use metaxis_core::{
    clip::DeviceId,
    intake::{name_device, says_letter},
    sound::SoundHabit,
    turnover::{Origin, Source, Sources},
};

/// What documents refer to.
pub(super) fn sources(day: &Synced) -> Sources {
    let one = |(number, clip): (usize, &Listened)| {
        let (file, placement) = (&day.files[number], &day.day.result.placements[number]);
        let facts = &clip.facts;
        let origin = Origin {
            scene: facts.scene.clone(),
            take: facts.take.clone(),
            notes: facts.notes.clone(),
            circled: facts.circled,
            placed: (!placement.stretches.is_empty()).then_some((placement.verdict, placement.confidence)),
            fingerprint: Some(day.prints[number].to_string()),
            ..Origin::default()
        };
        let url = crate::file_url(&file.path);
        (clip.id, Source { file_name: file.file_name().to_owned(), url, facts: facts.clone(), origin })
    };
    Sources {
        clips: day.clips.iter().enumerate().map(one).collect(),
        devices: (0..).map(DeviceId).zip(named(&day.devices)).collect(),
        habit: SoundHabit::default(),
    }
}

/// Letters and names of devices as the page gives them: those first that say their letter themselves.
fn named(devices: &[String]) -> Vec<(String, String)> {
    let mut order: Vec<usize> = (0..devices.len()).collect();
    order.sort_by_key(|number| !says_letter(&devices[*number]));
    let mut all = vec![(String::new(), String::new()); devices.len()];
    let mut taken = vec![];
    for number in order {
        let own = name_device(&devices[number], &taken);
        taken.push(own.0.clone());
        all[number] = own;
    }
    all
}
