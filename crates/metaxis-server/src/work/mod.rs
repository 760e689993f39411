//! Jobs: what takes long, on threads of their own, with progress, stop and pick-up after a restart.

mod arranging;
mod aside;
mod chosen;
mod film;
mod findings;
mod first_cut;
mod formatting;
mod grouping;
mod hand;
mod intake;
mod judged;
mod luts;
mod music_cut;
mod outcome;
mod pass;
mod placing;
mod quiet;
mod read_line;
mod relink;
mod seen;
mod sound;

pub use arranging::{
    Beside, GroupNamed, MovedClip, NameGroups, NudgeClip, RelayClips, TakeClip, beside_group, moved_clips,
    name_groups, nudge, relay, take_in,
};
pub use aside::{Piece, set_aside};
pub use chosen::read_label;
pub use film::{OrderFilms, film_folder, order_films};
pub use first_cut::{FirstCutView, MakeFirstCut, first_cut_of, make_first_cut};
pub use formatting::{FormatGroup, StartsAt, format_group};
pub use grouping::{Like, Proposed, ProposedGroup, Running, accept_groups, merge_groups, proposed_groups};
pub use hand::{ByHand, lay_by_hand};
pub use intake::queue_missing;
pub use luts::{AngleBalance, LutView, balances, bring, known, lut, luts, samples};
pub use music_cut::{MakeMusicCut, make_music_cut};
pub use pass::check_plan;
pub use quiet::{LookForQuiet, QuietView, quiet};
pub use read_line::{LARGEST, LineRead, read_line_back};
pub use seen::{claps_for, look_at};
pub use sound::{sound_day, sound_folder, with_lines};

use crate::{App, Event, app::Settled, error::ApiError, heard_day};
use metaxis_core::clip::{ClipFacts, ClipId};
use metaxis_media::{
    Fingerprint, MediaError, Stop, frame_timing, make_playback_sound, make_proxy, make_small, make_thumbnail,
    said,
};
use metaxis_store::{Job, JobId, JobKind, JobName, JobState};
use std::{
    panic::{AssertUnwindSafe, catch_unwind},
    sync::{Arc, Mutex, PoisonError},
    thread::JoinHandle,
    time::{Duration, Instant},
};

/// How often a running job says how far it is.
const TELL_EVERY: Duration = Duration::from_millis(400);

/// Says when it is time to tell again how far something is.
pub(crate) struct Pace(Mutex<Instant>);

impl Default for Pace {
    fn default() -> Self {
        Self(Mutex::new(Instant::now()))
    }
}

impl Pace {
    /// True once every [`TELL_EVERY`].
    pub(crate) fn is_due(&self) -> bool {
        let mut last = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let due = last.elapsed() > TELL_EVERY;
        if due {
            *last = Instant::now();
        }
        due
    }
}

/// Starts as many workers as there are cores.
pub fn start(app: &Arc<App>) -> Vec<JoinHandle<()>> {
    let count = std::thread::available_parallelism().map_or(2, usize::from).clamp(2, 8);
    (0..count)
        .map(|_| {
            let app = app.clone();
            std::thread::spawn(move || work(&app))
        })
        .collect()
}

fn work(app: &App) {
    let mut last_fault = String::new();
    while !app.is_closing() {
        let heard = app.rings();
        // The disk may have been full when a job ended: until that is written, the job would count as running.
        app.settle_what_is_left();
        match app.store.next_job() {
            Ok(Some(job)) => run(app, &job),
            Ok(None) => app.wait(heard, false),
            Err(e) => {
                // Said once: while the disk is full, this is tried every few seconds.
                let fault = e.to_string();
                if fault != last_fault {
                    tracing::error!("{fault}");
                    last_fault = fault;
                }
                app.wait(heard, true);
            }
        }
    }
}

fn run(app: &App, job: &Job) {
    let stop = app.begin(job.id, JobName::from(&job.kind));
    app.tell_jobs();
    // A job that panics fails, and costs its worker nothing: what it held is dropped, and the store undoes what it began.
    let result = catch_unwind(AssertUnwindSafe(|| {
        fail::fail_point!(<&str>::from(JobName::from(&job.kind)));
        match &job.kind {
            JobKind::Intake { folder } => intake::take_in(app, job.id, folder, &stop)?,
            JobKind::Relink { folder } => relink::relink(app, job.id, folder, &stop)?,
            JobKind::Listen { clip } => listen(app, job.id, *clip, &stop)?,
            JobKind::Proxy { clip } => proxy(app, *clip, &stop)?,
            JobKind::Sound { order } => sound::sound(app, job.id, order, &stop)?,
            JobKind::Pass { reference, plan } => pass::pass(app, job.id, *reference, plan, &stop)?,
            JobKind::Film { order } => return film::film(app, job.id, order, &stop).map(Some),
        }
        Ok(None)
    }))
    .unwrap_or_else(|panic| Err(ApiError::Panicked(said(panic.as_ref()))));
    app.ended(job.id);
    // What ends with the server waits again at the next start.
    let (state, message) = match &result {
        Ok(said) => (JobState::Done, said.clone()),
        Err(_) if app.is_closing() => (JobState::Queued, None),
        Err(ApiError::Media(MediaError::Stopped)) => (JobState::Stopped, None),
        Err(e) => (JobState::Failed, Some(e.to_string())),
    };
    app.settle(Settled { job: job.id, state, message });
    if matches!(job.kind, JobKind::Pass { .. } | JobKind::Film { .. }) {
        // What waited for it goes on.
        app.wake();
    }
    app.tell_jobs();
    app.tell(match job.kind {
        JobKind::Listen { clip } | JobKind::Proxy { clip } => Event::Clips { clips: vec![clip] },
        JobKind::Sound { .. } => Event::Sound,
        JobKind::Film { .. } => Event::Films,
        JobKind::Intake { .. } | JobKind::Relink { .. } | JobKind::Pass { .. } => Event::Day,
    });
}

/// Longest wait for jobs to end that were told to.
const ENDING: Duration = Duration::from_secs(10);

/// Removes everything derived and queues its making. What is being made just then begins anew; it has not failed.
///
/// # Errors
/// [`ApiError::Refused`] while a pass runs, which reads what would be removed.
pub fn clear_cache(app: &App) -> Result<(), ApiError> {
    if app.is_running(&[JobName::Pass]) {
        return Err(ApiError::Refused(
            "a pass is running: stop it, or clear the cache when it has ended".into(),
        ));
    }
    let makers = [JobName::Listen, JobName::Proxy];
    // None of those that wait begins meanwhile.
    for kind in makers {
        app.store.stop_kind(kind)?;
    }
    let begin = Instant::now();
    while app.is_running(&makers) && begin.elapsed() < ENDING {
        makers.into_iter().for_each(|kind| app.stop_running(kind));
        std::thread::sleep(Duration::from_millis(20));
    }
    app.store.forget_proxies(None)?;
    app.cache.clear()?;
    for kind in makers {
        app.store.resume_kind(kind)?;
    }
    queue_missing(app)
}

fn fingerprint(text: &str) -> Result<Fingerprint, ApiError> {
    Fingerprint::parse(text).ok_or_else(|| ApiError::NotFound("the clip was not read yet".into()))
}

/// Steps of listening to a clip: its seconds.
pub fn seconds(facts: &ClipFacts) -> u32 {
    facts.duration_s.ceil().max(1.0) as u32
}

fn listen(app: &App, job: JobId, id: ClipId, stop: &Stop) -> Result<(), ApiError> {
    let clip = app.store.clip(id)?;
    let seconds = seconds(&clip.facts) as usize;
    let rate = clip.facts.sound.as_ref().map_or(1, |sound| u64::from(sound.rate.0));
    let told = Pace::default();
    let progress = |samples: u64| {
        if told.is_due() {
            let done = usize::try_from(samples / rate).unwrap_or(seconds).min(seconds);
            if app.store.job_progress(job, done, seconds).is_ok() {
                app.tell_jobs();
            }
        }
    };
    let fingerprint = fingerprint(&clip.fingerprint)?;
    if let Some(heard) = heard_day::hear(&clip.path, &fingerprint, &clip.facts, &app.cache, stop, &progress)?
    {
        app.store.keep_heard(id, &heard)?;
    }
    Ok(())
}

fn proxy(app: &App, id: ClipId, stop: &Stop) -> Result<(), ApiError> {
    let clip = app.store.clip(id)?;
    let fingerprint = fingerprint(&clip.fingerprint)?;
    // Copies of a file share its light copies: made once, not over each other.
    let _turn = app.making.enter(&clip.fingerprint);
    let cached = app.cache.clip(&fingerprint);
    if let Some(picture) = &clip.facts.picture {
        make_thumbnail(&clip.path, &clip.facts, &cached, stop)?;
        if !picture.still {
            make_proxy(&clip.path, &picture.colour, &cached, stop)?;
            make_small(&cached, stop)?;
            app.store.keep_timing(id, &frame_timing(&cached, stop)?)?;
        }
    }
    if let Some(heard) = heard_day::hear(&clip.path, &fingerprint, &clip.facts, &app.cache, stop, &|_| {})?
        && let Some(sound) = &clip.facts.sound
    {
        make_playback_sound(&clip.path, sound, &heard.used, &cached, stop)?;
        app.store.keep_heard(id, &heard)?;
    }
    // A file that was being copied meanwhile is seen, and heard, half.
    fingerprint.still_of(&clip.path)?;
    app.store.keep_proxy(id)?;
    // Light copies that nobody used for the longest make room for new ones.
    let gone = app.cache.shrink(app.config.limits.cache_bytes);
    Ok(app.store.forget_proxies(Some(&gone))?)
}
