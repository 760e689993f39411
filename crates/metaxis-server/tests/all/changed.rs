//! Files that are not what they were: a pass believes what is there now, and says so.

use crate::common::{Api, clip, config, placement, small};
use metaxis_media::{Cache, Fingerprint, MediaError, Stop, is_heard};
use metaxis_server::hear;
use std::{fs, path::Path};

fn copied(from: &Path, to: &Path) {
    for device in fs::read_dir(from).expect("read").flatten().filter(|entry| entry.path().is_dir()) {
        let folder = to.join(device.file_name());
        fs::create_dir_all(&folder).expect("made");
        for file in fs::read_dir(device.path()).expect("read").flatten() {
            fs::copy(file.path(), folder.join(file.file_name())).expect("copied");
        }
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_recorders_file_replaced_by_another_is_heard_anew_and_told() {
    let (data, media) = (tempfile::tempdir().expect("a folder"), tempfile::tempdir().expect("a folder"));
    copied(&small(), media.path());
    let api = Api::start(config(data.path(), &[media.path()])).await;
    api.take_in(media.path()).await;
    let day = api.sync().await;
    let names: Vec<String> = day["clips"]
        .as_array()
        .expect("clips")
        .iter()
        .filter_map(|clip| clip["file_name"].as_str().map(str::to_owned))
        .collect();
    let solid = |day: &serde_json::Value| -> Vec<String> {
        names.iter().filter(|name| placement(day, name)["verdict"] == "solid").cloned().collect()
    };
    let before = solid(&day);
    let first = clip(&day, "S-001.wav");
    // As long as it was, and silent: what was heard of the first one is in the cache all the same.
    let path = media.path().join(first["relative"].as_str().expect("a path"));
    let mut bytes = fs::read(&path).expect("read");
    let data_from = bytes.windows(4).position(|four| four == b"data").expect("samples") + 8;
    bytes[data_from..].fill(0);
    fs::write(&path, &bytes).expect("written");
    let after = api.sync().await;
    let lost: Vec<&String> = before.iter().filter(|name| !solid(&after).contains(name)).collect();
    assert!(!lost.is_empty(), "clips that hung on it cannot be solid any more: {before:?}");
    let told =
        after["health"].as_array().expect("notes").iter().find(|note| note["note"]["kind"] == "changed");
    let what = told.and_then(|note| note["note"]["what"].as_str()).unwrap_or_default();
    assert!(what.contains("S-001.wav"), "{}", after["notes"]);
    // And taken in again, it is what it is now.
    let again = api.take_in(media.path()).await;
    assert!(again["health"].as_array().expect("notes").iter().all(|note| note["note"]["kind"] != "changed"));
    // A file that is away is no other file: what was heard of it stands.
    fs::remove_file(media.path().join(clip(&again, "S-002.wav")["relative"].as_str().expect("a path")))
        .expect("gone");
    let away = api.sync().await;
    assert_eq!(solid(&away), solid(&after));
    api.server.stop().await;
}

/// Half a file, listened to while it is being copied, is not kept as the whole.
#[test]
fn a_file_that_changed_under_the_ear_is_not_believed() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("growing.wav");
    let mut bytes =
        b"RIFF\0\0\0\0WAVEfmt \x10\0\0\0\x01\0\x01\0\x80\xbb\0\0\0\x77\x01\0\x02\0\x10\0data".to_vec();
    bytes.extend(192_000_u32.to_le_bytes());
    bytes.extend((0..96_000_u32).flat_map(|i| ((i * 211 % 9000) as i16).to_le_bytes()));
    let whole = Fingerprint::of_bytes(&bytes);
    std::fs::write(&path, &bytes[..100_000]).expect("written");
    let stop = Stop::default();
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let facts = metaxis_media::facts(&path, &cache.clip(&whole), &stop).expect("facts");
    let heard = hear(&path, &whole, &facts, &cache, &stop, &|_| {});
    assert!(matches!(heard, Err(MediaError::Changed { .. })), "{heard:?}");
    assert!(!is_heard(&cache.clip(&whole)));
    let now = Fingerprint::of(&path).expect("read");
    assert!(hear(&path, &now, &facts, &cache, &stop, &|_| {}).is_ok_and(|heard| heard.is_some()));
}
