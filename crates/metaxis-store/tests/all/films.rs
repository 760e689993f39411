//! The queue of films: one after the other, in the order that somebody wants, also after a restart.

use crate::common::Kept;
use metaxis_core::{clip::ClipId, film::FilmForm};
use metaxis_store::{FilmOf, FilmOrder, JobId, JobKind, JobState};

fn order(clip: i64) -> FilmOrder {
    FilmOrder {
        of: FilmOf::Clip { clip: ClipId(clip) },
        stem: format!("A/{clip}"),
        form: FilmForm::default(),
        folder: String::new(),
        replace: false,
    }
}

fn stems(kept: &Kept) -> Vec<(String, JobState)> {
    kept.store.films().expect("films").into_iter().map(|own| (own.order.stem, own.state)).collect()
}

fn ids(kept: &Kept) -> Vec<JobId> {
    kept.store.films().expect("films").into_iter().map(|own| own.id).collect()
}

fn next(kept: &Kept) -> Option<(JobId, String)> {
    let job = kept.store.next_job().expect("a store")?;
    match job.kind {
        JobKind::Film { order } => Some((job.id, order.stem)),
        other => panic!("{other:?}"),
    }
}

#[test]
fn films_are_made_one_after_the_other_and_those_that_are_wanted_first() {
    let kept = Kept::empty();
    kept.store.queue_films((1..=4).map(|clip| (order(clip), 250)).collect()).expect("queued");
    // Ordered again, it waits once.
    kept.store.queue_films(vec![(order(2), 250)]).expect("queued");
    assert_eq!(kept.store.films().expect("films").len(), 4);
    let (first, stem) = next(&kept).expect("a film");
    assert_eq!(stem, "A/1");
    assert_eq!(next(&kept), None, "two at once");
    // Of those that wait the last is wanted, then the third before it.
    let all = ids(&kept);
    kept.store.film_next(all[3]).expect("next");
    kept.store.film_next(all[2]).expect("next");
    let waiting: Vec<String> = stems(&kept).into_iter().map(|(stem, _)| stem).collect();
    assert_eq!(waiting, ["A/1", "A/3", "A/4", "A/2"]);
    assert!(kept.store.film_next(first).is_err(), "it is being made");
    assert!(kept.store.forget_film(first).is_err(), "it is being made");
    // What else there is to do is not held up by films, and goes before them.
    kept.store.queue(&JobKind::Listen { clip: ClipId(1) }).expect("queued");
    let job = kept.store.next_job().expect("a store").expect("a job");
    assert_eq!(job.kind, JobKind::Listen { clip: ClipId(1) });

    // After a restart the same one goes on.
    let kept = kept.again();
    kept.store.requeue_running().expect("requeued");
    kept.store.stop_kind(metaxis_store::JobName::Listen).expect("stopped");
    kept.store.end_job(first, JobState::Done, Some("12 MB")).expect("ended");
    assert_eq!(next(&kept).expect("a film").1, "A/3");
}

#[test]
fn a_film_rests_goes_on_and_goes_out_of_the_queue() {
    let kept = Kept::empty();
    kept.store.queue_films((1..=3).map(|clip| (order(clip), 250)).collect()).expect("queued");
    let all = ids(&kept);
    kept.store.stop_film(all[0]).expect("stopped");
    let (second, stem) = next(&kept).expect("a film");
    assert_eq!(stem, "A/2");
    kept.store.end_job(second, JobState::Failed, Some("the disk is full")).expect("ended");
    kept.store.film_again(all[0]).expect("again");
    assert_eq!(next(&kept).expect("a film").1, "A/1");
    kept.store.end_job(all[0], JobState::Done, Some("12 MB")).expect("ended");
    let told = kept.store.films().expect("films");
    assert_eq!(told[0].state, JobState::Queued);
    let of = |id: JobId| told.iter().find(|own| own.id == id).and_then(|own| own.message.clone());
    assert_eq!((of(all[0]).as_deref(), of(second).as_deref()), (Some("12 MB"), Some("the disk is full")));
    kept.store.forget_films_done().expect("gone");
    kept.store.forget_film(second).expect("gone");
    assert_eq!(stems(&kept), [("A/3".into(), JobState::Queued)]);
    assert!(kept.store.film_again(all[2]).is_err(), "it waits already");
    assert!(kept.store.forget_film(second).is_err(), "it is gone");
}
