//! What all handlers and jobs share.

use crate::{
    config::ServeConfig, error::ApiError, guard::Door, owner::Owner, sound::Listening, uploads::Uploads,
};
use metaxis_core::clip::ClipId;
use metaxis_media::{Cache, OneAtATime, Stop};
use metaxis_store::{
    AssemblyId, DayView, GroupId, JobId, JobKind, JobName, JobState, JobSummary, ShownPass, Store, StoreError,
};
use serde::Serialize;
use std::{
    collections::{HashMap, HashSet},
    sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError},
    time::{Duration, Instant},
};
use tokio::sync::{OwnedSemaphorePermit, Semaphore, broadcast};
use tokio_util::sync::{CancellationToken, WaitForCancellationFutureOwned};
use ts_rs::TS;

/// A first place that a running pass found for a clip.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, TS)]
pub struct ArrivingClip {
    /// The clip.
    pub clip: ClipId,
    /// Start on the axis of its shoot day, seconds.
    pub start_s: f64,
    /// The time of day at which it begins, seconds, where the axis's clip has a clock.
    pub at_s: Option<f64>,
    /// Whether little can change about it.
    pub sure: bool,
}

/// What the page is told as it happens.
#[derive(Debug, Clone, PartialEq, Serialize, TS)]
#[serde(tag = "event", rename_all = "snake_case")]
pub enum Event {
    /// The day changed: its files, what is chosen of them, passes.
    Day,
    /// These clips are other than they were: listened to, or with light copies.
    Clips {
        /// Which.
        clips: Vec<ClipId>,
    },
    /// Which pass is shown changed, or its name, or its groups.
    Pass,
    /// What is chosen about sound changed, or which files were made of it.
    Sound,
    /// Films were ordered, begun, ended or put otherwise.
    Films,
    /// A film that is being made is further.
    Filming {
        /// It.
        film: JobId,
        /// Frames that are made.
        #[ts(type = "number")]
        done: i64,
        /// Frames a second.
        pace: Option<f64>,
    },
    /// A group's line changed.
    Line {
        /// The group.
        group: GroupId,
        /// Its version now.
        #[ts(type = "number")]
        version: i64,
    },
    /// An assembly changed, or is new.
    Assembly {
        /// It.
        assembly: AssemblyId,
        /// Its version now.
        #[ts(type = "number")]
        version: i64,
    },
    /// Something to say to whoever looks.
    Said {
        /// The sentence.
        text: String,
    },
    /// A running pass found first places: they may move yet.
    Arriving {
        /// Since the last time.
        clips: Vec<ArrivingClip>,
    },
    /// How far the jobs are.
    Jobs {
        /// By kind.
        jobs: Vec<JobSummary>,
    },
}

/// The server's shared state.
pub struct App {
    /// Settings.
    pub config: ServeConfig,
    /// The production.
    pub store: Store,
    /// Derived files.
    pub cache: Cache,
    /// What is sent from the page.
    pub uploads: Uploads,
    events: broadcast::Sender<Event>,
    running: Mutex<HashMap<JobId, (JobName, Stop)>>,
    /// Counts the rings, so that no worker misses one.
    bell: (Mutex<u64>, Condvar),
    closing: CancellationToken,
    /// Places for looks at pictures while somebody waits: each is a decoder at work.
    looks: Arc<Semaphore>,
    /// Light copies that are being made, by their content.
    pub(crate) making: OneAtATime,
    /// Sound that is listened to before it is written.
    pub(crate) listening: Listening,
    /// How jobs ended that could not be written yet.
    unsettled: Mutex<Vec<Settled>>,
    /// Films that are being made: since when, from which frame on, and up to which.
    filming: Mutex<HashMap<JobId, (Instant, i64, i64)>>,
    /// What opens the server to other machines, where it is open to them.
    pub(crate) door: Option<Door>,
    _owner: Owner,
    /// When light copies were last made again because somebody asked for them.
    made_again: Mutex<HashMap<ClipId, Instant>>,
}

/// How a job ended.
#[derive(Debug, Clone)]
pub(crate) struct Settled {
    /// The job.
    pub job: JobId,
    /// Its state from now on.
    pub state: JobState,
    /// Why it failed, where it did.
    pub message: Option<String>,
}

/// Looks at pictures at a time.
const LOOKS: usize = 2;

/// How often what could not be written is tried again.
const TRY_AGAIN: Duration = Duration::from_secs(2);

/// How long light copies that were made again are not made a third time.
const MAKE_AGAIN: Duration = Duration::from_secs(600);

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

impl App {
    /// Opens the data folder.
    ///
    /// # Errors
    /// Errors of the store and the cache, in words.
    pub fn open(config: ServeConfig) -> Result<Arc<Self>, ApiError> {
        let owner = Owner::take(&config.data).map_err(ApiError::Refused)?;
        let cache = Cache::open(&config.data.join("cache"))?;
        let store = Store::open(&config.data.join("production.sqlite"))?;
        let folder = config.data.join("uploads");
        let uploads = Uploads::open(folder.clone(), config.limits.upload_bytes)
            .map_err(|source| metaxis_media::MediaError::Cache { path: folder, source })?;
        store.requeue_running()?;
        if let Some((name, day)) = &config.production
            && store.production()?.day.is_empty()
        {
            store.name_production(&metaxis_store::Production { name: name.clone(), day: day.clone() })?;
        }
        let (events, _) = broadcast::channel(256);
        Ok(Arc::new(Self {
            door: config.token.as_deref().map(Door::new),
            config,
            store,
            cache,
            uploads,
            events,
            running: Mutex::default(),
            bell: (Mutex::new(0), Condvar::new()),
            closing: CancellationToken::new(),
            looks: Arc::new(Semaphore::new(LOOKS)),
            making: OneAtATime::default(),
            unsettled: Mutex::default(),
            filming: Mutex::default(),
            _owner: owner,
            listening: Listening::default(),
            made_again: Mutex::default(),
        }))
    }

    /// The day, with the files that are not where they were.
    ///
    /// # Errors
    /// Errors of the store.
    pub fn day(&self) -> Result<DayView, ApiError> {
        let mut day = self.store.day()?;
        let gone: HashSet<_> =
            self.store.paths()?.into_iter().filter(|(_, path)| !path.exists()).map(|(id, _)| id).collect();
        for clip in &mut day.clips {
            clip.missing = gone.contains(&clip.id);
        }
        Ok(day)
    }

    /// The pass that is shown.
    ///
    /// # Errors
    /// Errors of the store.
    pub fn shown(&self) -> Result<ShownPass, ApiError> {
        let mut shown = self.store.shown()?;
        // What is left along a clip after its fit is most of a large day's answer, and the page does not draw it.
        for placed in &mut shown.placements {
            placed.placement.residuals.clear();
        }
        Ok(shown)
    }

    /// Tells every open page.
    pub fn tell(&self, event: Event) {
        let _ = self.events.send(event); // no page open is no fault
    }

    /// Tells every open page how far the jobs are.
    pub fn tell_jobs(&self) {
        if let Ok(jobs) = self.store.job_summaries() {
            self.tell(Event::Jobs { jobs });
        }
    }

    /// What is told from now on.
    pub fn listen(&self) -> broadcast::Receiver<Event> {
        self.events.subscribe()
    }

    /// Queues a job and wakes a worker.
    ///
    /// # Errors
    /// Errors of the store.
    pub fn queue(&self, kind: &JobKind) -> Result<(), ApiError> {
        self.queue_of(kind, 1)
    }

    /// Queues a job of so many steps and wakes a worker.
    ///
    /// # Errors
    /// Errors of the store.
    pub fn queue_of(&self, kind: &JobKind, steps: u32) -> Result<(), ApiError> {
        self.store.queue_of(kind, steps)?;
        self.wake();
        Ok(())
    }

    /// Makes light copies again that had made room for others. Not what failed or was stopped, and not one clip over
    /// and over where the limit is smaller than what is looked at.
    ///
    /// # Errors
    /// Errors of the store.
    pub fn make_again(&self, clip: ClipId) -> Result<(), ApiError> {
        let last = lock(&self.made_again).get(&clip).copied();
        if last.is_none_or(|at| at.elapsed() > MAKE_AGAIN)
            && self.store.queue_again(&JobKind::Proxy { clip })?
        {
            lock(&self.made_again).insert(clip, Instant::now());
            self.store.want(&[clip])?;
            self.wake();
        }
        Ok(())
    }

    /// Wakes the workers.
    pub fn wake(&self) {
        self.ring();
        self.tell_jobs();
    }

    fn ring(&self) {
        *lock(&self.bell.0) += 1;
        self.bell.1.notify_all();
    }

    /// How often work was announced; to be read before looking for some.
    pub(crate) fn rings(&self) -> u64 {
        *lock(&self.bell.0)
    }

    /// Waits until work was announced more often than `heard`, or the end; where something `failed` that may go well later,
    /// not for long.
    pub(crate) fn wait(&self, heard: u64, failed: bool) {
        let mut rings = lock(&self.bell.0);
        while *rings == heard && !self.closing.is_cancelled() {
            if !failed && lock(&self.unsettled).is_empty() {
                rings = self.bell.1.wait(rings).unwrap_or_else(PoisonError::into_inner);
            } else {
                let waited = self.bell.1.wait_timeout(rings, TRY_AGAIN);
                drop(waited.unwrap_or_else(PoisonError::into_inner));
                return;
            }
        }
    }

    /// Registers a running job; the flag ends it.
    pub(crate) fn begin(&self, id: JobId, kind: JobName) -> Stop {
        let stop = Stop::default();
        lock(&self.running).insert(id, (kind, stop.clone()));
        if self.closing.is_cancelled() {
            stop.stop();
        }
        stop
    }

    /// The job no longer runs.
    pub(crate) fn ended(&self, id: JobId) {
        lock(&self.running).remove(&id);
        lock(&self.filming).remove(&id);
    }

    /// Notes how many frames of a film are made.
    pub(crate) fn film_runs(&self, id: JobId, done: i64) {
        let mut filming = lock(&self.filming);
        filming.entry(id).or_insert_with(|| (Instant::now(), done, done)).2 = done;
    }

    /// Frames a second that are made of a film just now.
    pub(crate) fn film_pace(&self, id: JobId) -> Option<f64> {
        let (since, from, to) = *lock(&self.filming).get(&id)?;
        let seconds = since.elapsed().as_secs_f64();
        (to > from && seconds > 0.5).then(|| (to - from) as f64 / seconds)
    }

    /// Stops a job that runs.
    pub(crate) fn stop_job(&self, id: JobId) {
        if let Some((_, stop)) = lock(&self.running).get(&id) {
            stop.stop();
        }
    }

    /// Writes how a job ended; where that fails, it is kept for later.
    pub(crate) fn settle(&self, own: Settled) {
        if let Err(e) = self.write_end(&own) {
            tracing::error!("how a job ended cannot be written yet: {e}");
            lock(&self.unsettled).push(own);
        }
    }

    fn write_end(&self, own: &Settled) -> Result<(), StoreError> {
        fail::fail_point!("settle", |_| Err(StoreError::Refused("the disk is full".into())));
        match own.state {
            JobState::Queued => self.store.put_back(own.job),
            state => self.store.end_job(own.job, state, own.message.as_deref()),
        }
    }

    /// Tries again to write how jobs ended.
    pub(crate) fn settle_what_is_left(&self) {
        let left = std::mem::take(&mut *lock(&self.unsettled));
        let any = !left.is_empty();
        // Said once already: a full disk is not filled with words about it.
        let still: Vec<Settled> = left.into_iter().filter(|own| self.write_end(own).is_err()).collect();
        lock(&self.unsettled).extend(still);
        if any && lock(&self.unsettled).is_empty() {
            self.wake();
        }
    }

    /// A place for a look at pictures; waits for one.
    ///
    /// # Errors
    /// [`ApiError::Closing`].
    pub(crate) async fn place_to_look(&self) -> Result<OwnedSemaphorePermit, ApiError> {
        self.looks.clone().acquire_owned().await.map_err(|_| ApiError::Closing)
    }

    /// Whether a job of one of these kinds runs.
    pub(crate) fn is_running(&self, kinds: &[JobName]) -> bool {
        lock(&self.running).values().any(|(own, _)| kinds.contains(own))
    }

    /// Stops the running jobs of a kind.
    pub fn stop_running(&self, kind: JobName) {
        for (own, stop) in lock(&self.running).values() {
            if *own == kind {
                stop.stop();
            }
        }
    }

    /// Ends everything; jobs that ran wait again at the next start.
    pub fn close(&self) {
        self.closing.cancel();
        for (_, stop) in lock(&self.running).values() {
            stop.stop();
        }
        self.ring();
    }

    /// Ends when the server does.
    pub(crate) fn closed(&self) -> WaitForCancellationFutureOwned {
        self.closing.clone().cancelled_owned()
    }

    /// Whether the server is ending.
    pub fn is_closing(&self) -> bool {
        self.closing.is_cancelled()
    }
}
