//! Measures `metaxis sync` on a simulated shoot against its truth, and its time against plain decoding:
//! `metaxis-figures METAXIS MEDIA`.

use anyhow::{Context, Result, ensure};
use metaxis_bench::decode_all;
use metaxis_core::sync::{ClipReport, SyncReport, Verdict};
use metaxis_shoot::{Truth, TruthClip};
use std::{
    path::PathBuf,
    process::{Command, Stdio},
    time::Instant,
};

fn main() -> Result<()> {
    let mut args = std::env::args_os().skip(1).map(PathBuf::from);
    let (metaxis, media) =
        (args.next().context("the metaxis binary")?, args.next().context("the media folder")?);
    let truth: Truth = serde_json::from_slice(&std::fs::read(media.join("truth.json"))?)?;
    let begin = Instant::now();
    let output =
        Command::new(&metaxis).args(["sync", "--no-cache"]).arg(&media).stderr(Stdio::null()).output()?;
    let took = begin.elapsed().as_secs_f64();
    ensure!(output.status.success(), "metaxis sync failed");
    let report: SyncReport = serde_json::from_slice(&output.stdout)?;
    let decoding = decode_all(&media, report.clips.iter().map(|clip| clip.path.as_str()))?;

    let (mut starts, mut rates) = (vec![], vec![]);
    let (mut wrong, mut placed, mut due, mut by_labels) = (0, 0, 0, 0);
    for clip in &report.clips {
        let Some(known) = truth.clip(&clip.path) else { continue };
        if clip.device == truth.reference.split('/').next().unwrap_or_default() {
            continue;
        }
        due += usize::from(known.heard_in_reference);
        let errors = start_errors(clip, known);
        let near = !errors.is_empty() && errors.iter().all(|error| error.abs() < 20.0);
        // What is not heard may still lie right, by its timecode.
        if clip.status == Verdict::Solid && !near {
            wrong += 1;
        }
        by_labels += usize::from(near && !known.heard_in_reference);
        if near && known.heard_in_reference {
            placed += 1;
            starts.extend(errors.iter().map(|error| error.abs()));
            if clip.duration_s >= 120.0 {
                rates.push((clip.segments[0].rate_ppm - known.rate_ppm).abs());
            }
        }
    }
    let most = |values: &[f64]| values.iter().copied().fold(0.0, f64::max);
    starts.sort_by(f64::total_cmp);
    println!("clips placed where the truth says: {placed} of {due} that can be heard in the reference");
    println!("clips without a sound to match, placed to half a frame by their timecode: {by_labels}");
    println!("wrong position called solid: {wrong} (asked: 0)");
    println!(
        "start error: median {:.4} ms, largest {:.4} ms (asked: 0.5 ms)",
        starts[starts.len() / 2],
        most(&starts)
    );
    println!("rate error of runs of 2 min and more: largest {:.3} ppm (asked: 1 ppm)", most(&rates));
    println!(
        "whole sync, cold: {took:.2} s; plain ffmpeg decoding of the same sound, all cores: {decoding:.2} s; ratio {:.2}",
        took / decoding
    );
    Ok(())
}

/// Start errors of a clip's segments in milliseconds, each at a moment both reports and truth cover.
fn start_errors(clip: &ClipReport, known: &TruthClip) -> Vec<f64> {
    clip.segments
        .iter()
        .filter_map(|segment| {
            let middle = 0.5 * (segment.clip_start_s + segment.clip_end_s);
            let of_truth =
                known.segments.iter().find(|t| t.clip_start_s <= middle && middle <= t.clip_end_s + 1e-6)?;
            let at = segment.clip_start_s.max(of_truth.clip_start_s);
            let truth = of_truth.start_s + (at - of_truth.clip_start_s) / (1.0 + known.rate_ppm * 1e-6);
            Some((segment.axis_s(at) - truth) * 1e3)
        })
        .collect()
}
