//! The sound that belongs to a picture: what a recorder would have recorded by the camera's own clock.

use crate::{
    render::{find_device, find_scene, load_speech, on_sample_grid, recordings, seed_of},
    scenario::{ClipPlan, DevicePlan, Scenario},
    sound::{record, sources},
};
use anyhow::{Context, Result};
use std::path::Path;

/// What the recorder that wrote the file `recorder` would have recorded over the whole of the file `camera`, had it begun with it
/// and run by its clock, without noise of its own and with nothing lost: one vector a channel, at `rate` samples a second.
///
/// # Errors
/// Paths that the scenario does not have, speech that cannot be read.
pub fn true_sound(
    scenario: &Scenario,
    speech: &Path,
    recorder: &str,
    camera: &str,
    rate: u32,
) -> Result<Vec<Vec<f32>>> {
    let takes = recordings(scenario)?;
    let take = |path: &str| {
        takes.iter().find(|take| take.path == path).with_context(|| format!("{path} is not in the scenario"))
    };
    let (heard, seen) = (take(recorder)?, take(camera)?);
    let lost: f64 = seen.clip.lost.iter().map(|loss| loss.length_s).sum();
    let length_s = seen.clip.to_s - seen.clip.from_s - lost;
    // The camera's clock and losses, with the recorder's microphones where they stood.
    let device = DevicePlan {
        clock_ppm: seen.device.clock_ppm,
        noise_dbfs: -200.0,
        sample_rate: rate,
        ..find_device(scenario, &heard.device.folder)?.clone()
    };
    let clip = ClipPlan { lost: seen.clip.lost.clone(), ..heard.clip.clone() };
    let scene = find_scene(scenario, &heard.clip.scene)?;
    let world = sources(scene, seed_of(scenario, &scene.name), &load_speech(scenario, speech)?);
    let start_s = on_sample_grid(seen.device, seen.scene.start_s + seen.clip.from_s);
    let samples = (length_s * f64::from(rate)).round() as usize;
    let seed = seed_of(scenario, recorder);
    Ok(record(&world, &device, &clip, scene.room_s, start_s, samples, &scenario.date, seed).channels)
}

/// How much later `own` has what `truth` has from sample `at` on over `window` samples, in samples, to a part of one; looked for
/// within `reach` of `expected`. `None` where nothing there is like it, or it lies at the edge.
pub fn later(own: &[f32], truth: &[f32], at: usize, window: usize, expected: f64, reach: i64) -> Option<f64> {
    let around = expected.round() as i64;
    let looked_for = truth.get(at..at + window)?;
    let score = |lag: i64| -> f64 {
        let from = usize::try_from(at as i64 + lag).unwrap_or(usize::MAX);
        let Some(there) = own.get(from..from.saturating_add(window)) else { return f64::NEG_INFINITY };
        let (mut both, mut power) = (0.0, 0.0);
        for (a, b) in there.iter().zip(looked_for) {
            both += f64::from(*a) * f64::from(*b);
            power += f64::from(*a).powi(2);
        }
        both / power.sqrt().max(1e-9)
    };
    let best = (around - reach..=around + reach).max_by(|a, b| score(*a).total_cmp(&score(*b)))?;
    let (before, peak, after) = (score(best - 1), score(best), score(best + 1));
    if (best - around).abs() >= reach || !(before + after).is_finite() || peak <= 0.0 {
        return None;
    }
    // The top of the parabola through the three.
    Some(best as f64 + 0.5 * (before - after) / (before - 2.0 * peak + after))
}
