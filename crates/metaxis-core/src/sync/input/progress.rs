//! How far a running day is: whom to tell, and whether to go on.

use std::{
    ops::ControlFlow,
    sync::atomic::{AtomicBool, AtomicUsize, Ordering},
};

/// How far a running day is, and what it just found.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Step {
    /// Clips done.
    pub done: usize,
    /// Clips in all.
    pub all: usize,
    /// A first place found for a clip: it may move yet.
    pub news: Option<Arrival>,
}

/// A first place found for a clip.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Arrival {
    /// The clip.
    pub clip: usize,
    /// Start on the axis, seconds.
    pub start_s: f64,
    /// Whether little can change about it.
    pub sure: bool,
}

/// Is told every step; says whether to go on or to stop.
pub type Flow<'a> = dyn Fn(Step) -> ControlFlow<()> + Sync + 'a;

/// The caller said stop.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Stopped;

/// Clips done and whether to stop, over all threads.
pub(crate) struct Progress<'a> {
    flow: &'a Flow<'a>,
    done: AtomicUsize,
    all: usize,
    stopped: AtomicBool,
}

impl<'a> Progress<'a> {
    pub fn new(flow: &'a Flow<'a>, all: usize) -> Self {
        Self { flow, done: AtomicUsize::new(0), all, stopped: AtomicBool::new(false) }
    }

    /// One clip more is done.
    pub fn step(&self, news: Option<Arrival>) {
        let done = self.done.fetch_add(1, Ordering::Relaxed) + 1;
        if (self.flow)(Step { done: done.min(self.all), all: self.all, news }).is_break() {
            self.stopped.store(true, Ordering::Relaxed);
        }
    }

    pub fn stopped(&self) -> bool {
        self.stopped.load(Ordering::Relaxed)
    }

    /// What a stage found, unless it was stopped on the way.
    pub fn unless_stopped<T>(&self, found: T) -> Result<T, Stopped> {
        if self.stopped() { Err(Stopped) } else { Ok(found) }
    }
}
