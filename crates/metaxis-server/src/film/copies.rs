//! What of a film is copied as it was recorded, and why not the rest.

use super::plan::FilmPlan;
use metaxis_core::{
    clip::ClipId,
    film::{Codec, Grade, Run},
};
use metaxis_media::{Coded, Copied, FilmWriter, MediaError, Stop};
use rayon::prelude::*;
use std::{collections::BTreeMap, path::PathBuf};

/// Shortest stretch that is copied, seconds: what is shorter is coded in the same time.
const LEAST_S: f64 = 1.0;

/// Has `writer` copy what can be copied, where that is wanted; what is to be said of the rest.
pub(super) fn copy_what_can_be(
    plan: &FilmPlan,
    writer: &mut FilmWriter,
    stop: &Stop,
) -> Result<Vec<String>, MediaError> {
    let (film, form) = (&plan.film, &plan.form);
    if form.grade != Grade::Recorded {
        return Ok(vec![]);
    }
    if let Some(why) = form.changes_all(film.size) {
        return Ok(vec![format!("nothing of it is copied as it was recorded: {why}")]);
    }
    let least = (LEAST_S * film.rate.as_f64()).ceil() as i64;
    let runs: Vec<Run> = film.runs().into_iter().filter(|own| own.frames() >= least).collect();
    let mut lengths: BTreeMap<ClipId, i64> = BTreeMap::new();
    for run in &runs {
        *lengths.entry(run.of.clip).or_default() += run.frames();
    }
    let asked: Vec<(ClipId, i64, &PathBuf)> = lengths
        .into_iter()
        .filter_map(|(clip, frames)| Some((clip, frames, &plan.files.get(&clip)?.0)))
        .collect();
    let coded = asked.par_iter().map(|(clip, frames, path)| Ok((*clip, (Coded::of(path, stop)?, *frames))));
    let clips: BTreeMap<ClipId, (Coded, i64)> = coded.collect::<Result<_, MediaError>>()?;
    writer.with_profile(most_common(&clips, form.codec));
    let coded = writer.coded()?;
    let why_apart = |(clip, (own, frames)): (&ClipId, &(Coded, i64))| {
        let why = own.why_apart(form.codec, film.rate, &coded)?;
        Some((*clip, (why, *frames)))
    };
    let apart: BTreeMap<ClipId, (String, i64)> = clips.iter().filter_map(why_apart).collect();
    let mut wanted: BTreeMap<ClipId, Vec<Copied>> = BTreeMap::new();
    let mut seen_through = 0;
    for run in runs.iter().filter(|own| !apart.contains_key(&own.of.clip)) {
        if plan.luts.contains_key(&run.of) {
            seen_through += run.frames();
            continue;
        }
        let (Some((path, _)), Some(facts)) = (plan.files.get(&run.of.clip), film.picture(run.of.clip)) else {
            continue;
        };
        wanted.entry(run.of.clip).or_default().push(Copied {
            from: run.from,
            frames: run.frames(),
            path: path.clone(),
            facts: facts.clone(),
            first: run.first,
        });
    }
    // What takes time is asking the files.
    let found = wanted.into_par_iter().map(|(_, own)| writer.can_be_copied(&own));
    let mut copied: Vec<Copied> = found.collect::<Result<Vec<_>, _>>()?.into_iter().flatten().collect();
    copied.retain(|own| own.frames >= least);
    copied.sort_by_key(|own| own.from);
    let said = said(plan, &copied, &apart, seen_through);
    writer.with_copied(copied);
    Ok(said)
}

/// The profile that most frames of what may be copied have.
fn most_common(clips: &BTreeMap<ClipId, (Coded, i64)>, codec: Codec) -> Option<&'static str> {
    let mut counts: BTreeMap<&'static str, i64> = BTreeMap::new();
    for (own, frames) in clips.values() {
        if let Some(profile) = own.profile(codec) {
            *counts.entry(profile).or_default() += frames;
        }
    }
    counts.into_iter().max_by_key(|(_, frames)| *frames).map(|(profile, _)| profile)
}

/// What share of a film's pictures is copied, where any is.
pub(super) fn share(copied: i64, all: i64) -> Option<String> {
    // All of it only where it is all of it.
    let share = (100 * copied / all.max(1)).max(1);
    let said = || format!("{share} % of its pictures are copied as they were recorded ({copied} of {all})");
    (copied > 0).then(said)
}

/// What becomes of what is not to be copied.
fn said(
    plan: &FilmPlan,
    copied: &[Copied],
    apart: &BTreeMap<ClipId, (String, i64)>,
    seen_through: i64,
) -> Vec<String> {
    let own: i64 = copied.iter().map(|own| own.frames).sum();
    let mut said = vec![];
    if own == 0 {
        said.push("nothing of it is copied as it was recorded".to_owned());
    }
    for (clip, (why, frames)) in apart {
        let name = plan.named.get(clip).map_or_else(|| format!("clip {}", clip.0), |own| own.name.clone());
        said.push(format!("{frames} of {name} are coded: {why}"));
    }
    if seen_through > 0 {
        said.push(format!("{seen_through} are coded: they are seen through a viewing LUT"));
    }
    let rest = plan.film.frames - own - apart.values().map(|(_, frames)| frames).sum::<i64>() - seen_through;
    if rest > 0 {
        said.push(format!(
            "{rest} are coded: black, faded, laid over, at another rate, or too near to a cut"
        ));
    }
    said
}
