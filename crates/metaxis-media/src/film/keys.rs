//! Where a stretch of coded pictures can be cut out without coding them again.

use crate::{MediaError, Stop, Tool};
use metaxis_core::clip::PictureFacts;
use std::{collections::HashSet, path::Path};

/// Most bytes of a list of packets: that of twelve hours of 60 a second is shorter.
const MOST: u64 = 256 << 20;
/// So much behind a stretch is looked at, seconds: no picture comes later than it is shown by more.
const BEHIND_S: f64 = 2.0;
/// So many stretches are asked for at a time: an argument has a longest length.
const AT_ONCE: usize = 1000;

/// A coded picture, in the order of the file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Packet {
    /// The frame's number in its clip.
    frame: i64,
    /// Whether it needs no other.
    key: bool,
}

/// The coded pictures of a file around the stretches that are asked for, in the order of the file.
pub(super) struct Packets {
    all: Vec<Packet>,
    /// The least number from each on.
    least_from: Vec<i64>,
}

impl Packets {
    /// Those around each of `stretches`, which are a first frame and a count of frames.
    ///
    /// # Errors
    /// [`MediaError`] naming the file.
    pub fn around(
        path: &Path,
        facts: &PictureFacts,
        stretches: &[(i64, i64)],
        stop: &Stop,
    ) -> Result<Self, MediaError> {
        let rate = facts.rate.as_f64();
        let moment = |frame: i64| facts.start_s + frame as f64 / rate;
        let mut sorted = stretches.to_vec();
        sorted.sort_unstable();
        let intervals: Vec<String> = sorted
            .iter()
            .map(|(first, frames)| {
                format!("{:.6}%{:.6}", moment(*first).max(0.0), moment(first + frames) + BEHIND_S)
            })
            .collect();
        let (mut all, mut seen) = (vec![], HashSet::new());
        for intervals in intervals.chunks(AT_ONCE) {
            let said = Tool::ffprobe(path)
                .args(["-select_streams", "V:0", "-read_intervals", &intervals.join(",")])
                .args(["-show_entries", "packet=pts_time,flags", "-of", "csv=print_section=0"])
                .file(path)
                .output(MOST, stop)?;
            let said = String::from_utf8_lossy(&said);
            let packet = |line: &str| {
                let (time, flags) = line.split_once(',')?;
                let at_s: f64 = time.parse().ok()?;
                Some(Packet {
                    frame: ((at_s - facts.start_s) * rate).round() as i64,
                    key: flags.starts_with('K'),
                })
            };
            // A stretch is gone to by a key before it, which may lie in the one before.
            all.extend(said.lines().filter_map(packet).filter(|own| seen.insert(own.frame)));
        }
        Ok(Self::of(all))
    }

    fn of(all: Vec<Packet>) -> Self {
        let mut least_from: Vec<i64> = all.iter().map(|own| own.frame).collect();
        for at in (1..least_from.len()).rev() {
            least_from[at - 1] = least_from[at - 1].min(least_from[at]);
        }
        Self { all, least_from }
    }

    /// What can be cut out of a stretch: which is the first, and how many. It is the longest of pictures, one behind the other in the
    /// file, that are frames of `first..first + frames` one behind the other, begins with one that needs no other, and is needed by
    /// none before it.
    pub fn cut_out(&self, (first, frames): (i64, i64)) -> Option<(i64, i64)> {
        let Self { all, least_from } = self;
        let starts = |at: &usize| {
            let own = all[*at];
            own.key && own.frame >= first && least_from[*at] == own.frame
        };
        let begin = (0..all.len()).find(starts)?;
        let from = all[begin].frame;
        let mut best = None;
        let mut most = from;
        for (count, packet) in (1_i64..).zip(&all[begin..]) {
            most = most.max(packet.frame);
            if most >= first + frames {
                break;
            }
            let after = least_from.get(begin + usize::try_from(count).unwrap_or(0)).copied();
            // All up to the latest are there, and none of them comes yet.
            if most - from + 1 == count && after.is_none_or(|own| own > most) {
                best = Some((from, count));
            }
        }
        best
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Pictures in the order of a file: a key every `group`, each second one needing the one behind it.
    fn file(groups: i64, group: i64, open: bool) -> Packets {
        let mut all = vec![];
        for key in (0..groups).map(|own| own * group) {
            all.push(Packet { frame: key, key: true });
            if open && key > 0 {
                all.push(Packet { frame: key - 1, key: false });
            }
            let last = if open { key + group - 2 } else { key + group - 1 };
            let mut at = key + 1;
            while at < last {
                all.extend([at + 1, at].map(|frame| Packet { frame, key: false }));
                at += 2;
            }
            if at == last {
                all.push(Packet { frame: last, key: false });
            }
        }
        Packets::of(all)
    }

    #[test]
    fn a_stretch_begins_with_a_key_and_leaves_no_picture_out() {
        let closed = file(4, 12, false);
        assert_eq!(closed.cut_out((0, 48)), Some((0, 48)));
        assert_eq!(closed.cut_out((1, 40)), Some((12, 29)));
        assert_eq!(closed.cut_out((12, 24)), Some((12, 24)));
        // The eighth picture of a group comes after the ninth.
        assert_eq!(closed.cut_out((12, 8)), Some((12, 7)));
        assert_eq!(closed.cut_out((13, 11)), None, "there is no key");
        // Where pictures before a key need it, nothing can begin with it.
        let open = file(4, 12, true);
        assert_eq!(open.cut_out((0, 47)).map(|own| own.0), Some(0));
        assert_eq!(open.cut_out((1, 40)), None);
        assert_eq!(Packets::of(vec![]).cut_out((0, 10)), None);
    }

    #[test]
    fn what_was_not_looked_at_between_two_stretches_is_in_neither() {
        let mut parts = file(8, 12, false);
        parts.all.retain(|own| !(30..60).contains(&own.frame));
        let parts = Packets::of(parts.all);
        assert_eq!(parts.cut_out((12, 12)), Some((12, 12)));
        assert_eq!(parts.cut_out((12, 60)), Some((12, 18)), "frames 30 to 60 are not there");
        assert_eq!(parts.cut_out((60, 24)), Some((60, 24)));
        assert_eq!(parts.cut_out((31, 20)), None);
    }

    #[test]
    fn any_stretch_is_frames_one_behind_the_other() {
        for (group, open) in [(1, false), (2, false), (7, false), (12, false), (12, true), (25, true)] {
            let packets = file(5, group, open);
            for first in 0..5 * group {
                for frames in 1..=5 * group - first {
                    let Some((from, count)) = packets.cut_out((first, frames)) else { continue };
                    assert!(from >= first && from + count <= first + frames);
                    let begin = packets.all.iter().position(|own| own.frame == from).expect("a frame");
                    let own = &packets.all[begin..begin + count as usize];
                    assert!(own[0].key, "{first} {frames}");
                    let mut numbers: Vec<i64> = own.iter().map(|own| own.frame).collect();
                    numbers.sort_unstable();
                    assert_eq!(numbers, (from..from + count).collect::<Vec<_>>(), "{group} {first} {frames}");
                }
            }
        }
    }
}
