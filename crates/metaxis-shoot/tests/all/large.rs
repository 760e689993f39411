//! A simulated day at the size of a real one.

use metaxis_shoot::{ClipPlan, large_day};

#[test]
fn it_is_as_large_as_asked_and_no_device_records_twice_at_once() {
    let day = large_day(400, 1);
    assert!((380..=420).contains(&day.clips.len()), "{}", day.clips.len());
    assert_eq!(day.devices.len(), 6);
    let start = |clip: &ClipPlan| {
        let scene = day.scenes.iter().find(|scene| scene.name == clip.scene).expect("its scene");
        (scene.start_s + clip.from_s, scene.start_s + clip.to_s, scene.duration_s)
    };
    for device in &day.devices {
        let mut own: Vec<(f64, f64)> = vec![];
        for clip in day.clips.iter().filter(|clip| clip.device == device.folder) {
            let (from_s, to_s, scene_s) = start(clip);
            assert!(to_s - from_s > 2.0 && clip.to_s < scene_s, "{}", clip.file);
            own.push((from_s, to_s));
        }
        own.sort_by(|a, b| a.0.total_cmp(&b.0));
        assert!(own.windows(2).all(|pair| pair[0].1 < pair[1].0), "{}", device.folder);
    }
    let takes: Vec<_> = day.scenes.iter().filter(|scene| !scene.slates.is_empty()).collect();
    let (first, last) = (takes[0], takes[takes.len() - 1]);
    assert!((last.start_s - first.start_s) > 11.0 * 3600.0);
    assert_eq!(format!("{day:?}"), format!("{:?}", large_day(400, 1)));
}
