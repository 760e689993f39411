//! What is asked of the engine, and what was measured, side by side.

use crate::Tally;

/// Kinds in which the signal is at least −6 dB and the overlap at least 10 s.
const USUAL: [&str; 14] = [
    "clean",
    "noisy",
    "hard ears",
    "islands",
    "takes apart",
    "any channel",
    "breaks",
    "an hour",
    "playback",
    "timecode",
    "loops",
    "loops for hours",
    "looped track",
    "bends",
];
/// Kinds for which deep effort is due.
const DEEP: [&str; 2] = ["very noisy", "short overlap"];
/// Confidences that say 0.9.
const NEAR_NINE: std::ops::Range<f64> = 0.85..0.95;

/// The rows, of the kinds that were run.
pub fn table(tallies: &[(&str, Tally)]) -> Vec<String> {
    let mut all = Tally::default();
    for (_, tally) in tallies {
        all.merge(tally.clone());
    }
    let of = |names: &[&str]| -> (usize, usize) {
        let chosen = tallies.iter().filter(|(name, _)| names.contains(name));
        chosen.fold((0, 0), |sum, (_, tally)| (sum.0 + tally.right, sum.1 + tally.due))
    };
    let mut starts: Vec<f64> = all.start_s.iter().map(|s| s * 1e3).collect();
    let (times, sizes): (Vec<f64>, Vec<f64>) = all.found_breaks.iter().copied().unzip();
    let rate = |least_s: f64| -> Vec<f64> {
        all.rate_ppm.iter().filter(|(length, _)| *length >= least_s).map(|(_, error)| *error).collect()
    };
    let near: Vec<bool> =
        all.calibration.iter().filter(|(p, _)| NEAR_NINE.contains(p)).map(|(_, right)| *right).collect();
    let sure = near.iter().filter(|right| **right).count();
    let row = |what: &str, asked: &str, measured: String| format!("{what:52} {asked:>18}   {measured}");
    vec![
        row("", "asked", "measured".into()),
        row(
            "wrong position called solid",
            "0",
            format!("{} of {}", all.wrong_solid, all.wrong_solid + all.right_solid),
        ),
        row("right position, at least -6 dB and 10 s", ">= 99.9 %", share(of(&USUAL))),
        row("right position, -12 dB or 3 to 10 s, deep effort", ">= 97 %", share(of(&DEEP))),
        row("start error, median", "<= 0.005 ms", format!("{:.4} ms", at(&mut starts, 0.5))),
        row("start error, 99 %", "<= 0.5 ms", format!("{:.3} ms of {}", at(&mut starts, 0.99), starts.len())),
        row(
            "rate error, 10 minutes and more, largest",
            "<= 0.02 ppm",
            format!("{:.4} ppm", largest(&rate(600.0))),
        ),
        row("rate error, an hour, largest", "<= 0.01 ppm", format!("{:.4} ppm", largest(&rate(3_590.0)))),
        row("breaks found within a second", "all", share((all.found_breaks.len(), all.breaks))),
        row("of these, time off by, largest", "<= 0.5 s", format!("{:.2} s", largest(&times))),
        row("of these, size off by, largest", "<= 0.5 ms", format!("{:.4} ms", 1e3 * largest(&sizes))),
        row("breaks where there are none", "0", all.false_breaks.to_string()),
        row("solid clips with such", "0", all.invented_solid.to_string()),
        row(
            "largest error along clips of 10 min and more: 99 %",
            "<= 0.3 ms",
            format!("{:.3} ms of {}", 1e3 * at(&mut all.along_s.clone(), 0.99), all.along_s.len()),
        ),
        row("no sound: at the frame its timecode says", "all", share(all.silent)),
        row("islands on the day, within three sigmas", "99.7 %", share(all.laid)),
        row("of these, off by, largest", "-", format!("{:.1} s", largest(&all.laid_s))),
        row("timecode late all day: frames named", "all", share(all.named)),
        row("Brier score", "<= 0.01", format!("{:.4} over {}", all.brier(), all.calibration.len())),
        row("right of those called 0.85 to 0.95", "85 to 97 %", share((sure, near.len()))),
    ]
}

fn share((some, all): (usize, usize)) -> String {
    format!("{some} of {all} ({:.1} %)", 100.0 * some as f64 / all.max(1) as f64)
}

fn at(values: &mut [f64], share: f64) -> f64 {
    values.sort_by(f64::total_cmp);
    let index = ((values.len() as f64 * share) as usize).min(values.len().saturating_sub(1));
    values.get(index).copied().unwrap_or(f64::NAN)
}

fn largest(values: &[f64]) -> f64 {
    values.iter().copied().reduce(f64::max).unwrap_or(f64::NAN)
}
