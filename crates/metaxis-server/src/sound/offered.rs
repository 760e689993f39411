//! The tracks of a production, for choosing among them.

use super::{SoundDay, SoundFile};
use metaxis_core::sound::{TrackChoice, TrackKey};
use serde::Serialize;
use ts_rs::TS;

/// A track that runs under pictures.
#[derive(Debug, Serialize, TS)]
pub struct TrackOffered {
    key: TrackKey,
    /// What its files call it, else its device and channel.
    name: String,
    /// Its device's name.
    device: String,
    /// How many pictures it runs under.
    pictures: usize,
    /// Whether it is left out.
    off: bool,
}

impl TrackOffered {
    fn new(key: &TrackKey, device: &str, pictures: usize, off: bool) -> Self {
        let name = key.name.clone().unwrap_or_else(|| format!("{device} {}", key.channel + 1));
        Self { key: key.clone(), name, device: device.to_owned(), pictures, off }
    }
}

/// All tracks of `files`, those that are chosen to come first before the others. What is left out everywhere is there too, to be
/// taken in again.
pub fn offered(day: &SoundDay, files: &[&SoundFile], choice: &TrackChoice) -> Vec<TrackOffered> {
    let mut all: Vec<TrackOffered> = vec![];
    let of = |file: &&SoundFile| {
        let pictures = usize::from(file.clip().is_some());
        file.tracks().map(move |track| (track, pictures)).collect::<Vec<_>>()
    };
    for ((key, device, off), pictures) in files.iter().flat_map(of) {
        match all.iter_mut().find(|own| own.key == key) {
            Some(own) => own.pictures += pictures,
            None => all.push(TrackOffered::new(&key, &device, pictures, off)),
        }
    }
    for key in &choice.off {
        if all.iter().all(|own| own.key != *key) {
            let device = key.device.map_or("", |device| day.name(device));
            all.push(TrackOffered::new(key, device, 0, true));
        }
    }
    let place = |own: &TrackOffered| choice.order.iter().position(|key| *key == own.key);
    all.sort_by_key(|own| place(own).unwrap_or(choice.order.len()));
    all
}
