//! Light copies keep the codes that were recorded, whatever a file says that they mean.

use metaxis_core::{clip::ColourFacts, lut::Neutral};
use metaxis_media::{Cache, Fingerprint, Stop, colours_at, make_proxy, probe};
use std::{path::Path, process::Command};

/// Bars of many colours, coded as `tags` say, with the matrix `matrix`.
fn bars(path: &Path, matrix: &str, tags: &[&str]) {
    let filter = format!("scale=out_color_matrix={matrix}:out_range=tv,format=yuv420p10le");
    let made = Command::new("ffmpeg")
        .args([
            "-v",
            "error",
            "-f",
            "lavfi",
            "-i",
            "rgbtestsrc=size=640x360:rate=25:duration=0.4",
            "-vf",
            &filter,
        ])
        .args(["-c:v", "ffv1"])
        .args(tags)
        .arg(path)
        .status();
    assert!(made.expect("ffmpeg").success());
}

#[test]
fn high_dynamic_range_keeps_its_codes() {
    let folder = tempfile::tempdir().expect("a folder");
    let cache = Cache::open(&folder.path().join("cache")).expect("a cache");
    let seen = |name: &str, matrix: &str, tags: &[&str]| {
        let path = folder.path().join(name);
        bars(&path, matrix, tags);
        let facts = probe(&path, &Stop::default()).expect("facts");
        let colour = facts.picture.expect("a picture").colour;
        let cached = cache.clip(&Fingerprint::of(&path).expect("a fingerprint"));
        make_proxy(&path, &colour, &cached, &Stop::default()).expect("a light copy");
        // What is shown of it says nothing that whoever shows it would act on.
        let copy =
            probe(&cached.proxy(), &Stop::default()).expect("facts").picture.expect("a picture").colour;
        (colour, copy, colours_at(&cached, 0.1, &Stop::default()).expect("pixels"))
    };
    let hlg = ["-color_trc", "arib-std-b67", "-color_primaries", "bt2020", "-colorspace", "bt2020nc"];
    let (colour, copy, wide) = seen("hlg.mkv", "bt2020", &hlg);
    assert_eq!(
        Neutral::of(colour.transfer.as_deref(), colour.primaries.as_deref()),
        Some(Neutral::HybridLog)
    );
    assert_eq!((copy.transfer.as_deref(), copy.primaries.as_deref()), (Some("bt709"), Some("bt709")));
    let plain = ["-color_trc", "bt709", "-color_primaries", "bt709", "-colorspace", "bt709"];
    let (colour, _, narrow) = seen("plain.mkv", "bt709", &plain);
    assert_eq!(
        colour,
        ColourFacts {
            transfer: Some("bt709".into()),
            primaries: Some("bt709".into()),
            matrix: Some("bt709".into()),
        }
    );
    // The same red, green and blue went in: the same come out.
    assert_eq!(wide.len(), narrow.len());
    let off = |(a, b): (&[u8; 3], &[u8; 3])| a.iter().zip(b).map(|(a, b)| a.abs_diff(*b)).max().unwrap_or(0);
    let mut all: Vec<u8> = wide.iter().zip(&narrow).map(off).collect();
    all.sort_unstable();
    // Edges of bars differ by how they are coded.
    assert!(all[all.len() * 9 / 10] <= 6, "{:?}", &all[all.len() * 8 / 10..]);
    assert!(narrow.iter().any(|own| own[0] > 200 && own[1] < 60), "there are colours in it");
}
