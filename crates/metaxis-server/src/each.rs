//! The same work for many files, on all cores.

use std::sync::atomic::{AtomicUsize, Ordering};

/// Told what is being done, how much of it is done, and of how much.
pub type Progress<'a> = dyn Fn(&str, usize, usize) + Sync + 'a;

/// Does `work` for every item, the `longest` first, so that all cores are busy to the end; results in the items' order.
pub fn each<T: Sync, R: Send>(
    items: &[T],
    what: &str,
    progress: &Progress,
    longest: impl Fn(&T) -> f64,
    work: impl Fn(&T) -> R + Sync,
) -> Vec<R> {
    let mut order: Vec<usize> = (0..items.len()).collect();
    order.sort_by(|&a, &b| longest(&items[b]).total_cmp(&longest(&items[a])));
    let (next, done) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let take = || {
        let mut own = vec![];
        while let Some(&i) = order.get(next.fetch_add(1, Ordering::Relaxed)) {
            own.push((i, work(&items[i])));
            progress(what, done.fetch_add(1, Ordering::Relaxed) + 1, items.len());
        }
        own
    };
    let mut all: Vec<(usize, R)> = rayon::broadcast(|_| take()).into_iter().flatten().collect();
    all.sort_by_key(|(i, _)| *i);
    all.into_iter().map(|(_, result)| result).collect()
}
