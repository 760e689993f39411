//! How many angles run when.

use super::Group;
use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// Frames in which as many angles run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Covered {
    /// First frame.
    #[ts(type = "number")]
    pub from: i64,
    /// First frame after it.
    #[ts(type = "number")]
    pub to: i64,
    /// How many angles run, of those that are switched to.
    pub angles: usize,
}

impl Group {
    /// From its first frame to its last: how many angles run, of those that are switched to. Neighbours differ.
    pub fn coverage(&self) -> Vec<Covered> {
        let parts = || self.seen().flat_map(|angle| &angle.parts);
        let mut edges: Vec<i64> = parts().flat_map(|part| [part.from_frame, part.to_frame]).collect();
        edges.extend([0, self.frames]);
        edges.sort_unstable();
        edges.dedup();
        // What begins and ends at each edge: parts of one angle never lie over each other.
        let mut steps = vec![0_i64; edges.len()];
        for part in parts() {
            for (at, step) in [(part.from_frame, 1), (part.to_frame, -1)] {
                if let Ok(edge) = edges.binary_search(&at) {
                    steps[edge] += step;
                }
            }
        }
        let mut running = 0;
        let mut all: Vec<Covered> = vec![];
        for (edge, step) in edges.windows(2).zip(steps) {
            running += step;
            let angles = usize::try_from(running).unwrap_or(0);
            match all.last_mut() {
                Some(last) if last.angles == angles => last.to = edge[1],
                _ => all.push(Covered { from: edge[0], to: edge[1], angles }),
            }
        }
        all
    }

    /// The longest run of frames [from, to) that every angle covers; `None` where there is none.
    pub fn covered_by_all(&self) -> Option<(i64, i64)> {
        let all = self.seen().count();
        let whole = self.coverage().into_iter().filter(|own| own.angles == all && all > 0);
        whole.map(|own| (own.from, own.to)).max_by_key(|(from, to)| (to - from, -from))
    }
}
