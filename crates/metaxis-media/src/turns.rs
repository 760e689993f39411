//! One at a time at what is derived from the same content: copies of a file share it.

use std::{
    collections::HashSet,
    sync::{Condvar, Mutex, PoisonError},
};

/// What is being worked at.
#[derive(Default)]
pub struct OneAtATime {
    busy: Mutex<HashSet<String>>,
    left: Condvar,
}

impl OneAtATime {
    /// Waits until nobody works at `key`; it is taken until the answer is dropped.
    pub fn enter(&self, key: &str) -> Turn<'_> {
        let busy = self.busy.lock().unwrap_or_else(PoisonError::into_inner);
        let mut busy =
            self.left.wait_while(busy, |busy| busy.contains(key)).unwrap_or_else(PoisonError::into_inner);
        busy.insert(key.to_owned());
        Turn { all: self, key: key.to_owned() }
    }
}

/// Somebody's turn.
pub struct Turn<'a> {
    all: &'a OneAtATime,
    key: String,
}

impl Drop for Turn<'_> {
    fn drop(&mut self) {
        self.all.busy.lock().unwrap_or_else(PoisonError::into_inner).remove(&self.key);
        self.all.left.notify_all();
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::{
        sync::atomic::{AtomicUsize, Ordering},
        thread,
    };

    #[test]
    fn one_works_at_a_thing_and_others_at_other_things() {
        let all = OneAtATime::default();
        let (inside, most, done) = (AtomicUsize::new(0), AtomicUsize::new(0), AtomicUsize::new(0));
        let held = all.enter("other");
        thread::scope(|scope| {
            for _ in 0..8 {
                scope.spawn(|| {
                    for _ in 0..50 {
                        let turn = all.enter("same");
                        most.fetch_max(inside.fetch_add(1, Ordering::SeqCst) + 1, Ordering::SeqCst);
                        thread::yield_now();
                        inside.fetch_sub(1, Ordering::SeqCst);
                        done.fetch_add(1, Ordering::SeqCst);
                        drop(turn);
                    }
                });
            }
        });
        drop(held);
        assert_eq!((most.load(Ordering::SeqCst), done.load(Ordering::SeqCst)), (1, 400));
        drop(all.enter("other"));
    }
}
