//! Several shoot days: each is placed by itself, and all lie after each other on one axis. What was recorded on another day
//! heard nothing of this one, and its timecode, which begins anew each day, says nothing of it.

use super::{
    answer::{Evidence, Island, Placement},
    labels::{DeviceClock, ShownDistance},
    tell::DayResult,
};
use crate::time::DAY_S;
use std::{cmp::Ordering, collections::BTreeMap};

/// The clips of each shoot day, by their numbers, in the order of the days, from the name of each clip's day. Apart only where
/// every clip has its day: one without could have run on any of them.
///
/// ```
/// # use metaxis_core::sync::shoot_days;
/// assert_eq!(shoot_days(&[Some("Day 10"), Some("Day 9"), Some("Day 10")]), [vec![1], vec![0, 2]]);
/// assert_eq!(shoot_days(&[Some("Day 1"), None]), [vec![0, 1]]);
/// ```
pub fn shoot_days(names: &[Option<&str>]) -> Vec<Vec<usize>> {
    let mut days: BTreeMap<Name, Vec<usize>> = BTreeMap::new();
    for (clip, name) in names.iter().enumerate() {
        let Some(name) = name else { return vec![(0..names.len()).collect()] };
        days.entry(Name(name)).or_default().push(clip);
    }
    days.into_values().collect()
}

/// The name of a day; numbers in it count as numbers.
#[derive(PartialEq, Eq)]
struct Name<'a>(&'a str);

impl Name<'_> {
    /// Its parts: words, and numbers by their value.
    fn parts(&self) -> impl Iterator<Item = (Option<u128>, &str)> {
        let chunks = self.0.as_bytes().chunk_by(|a, b| a.is_ascii_digit() == b.is_ascii_digit());
        chunks.scan(0, |at, chunk| {
            let part = &self.0[*at..*at + chunk.len()];
            *at += chunk.len();
            Some((part.parse().ok(), part))
        })
    }
}

impl Ord for Name<'_> {
    fn cmp(&self, other: &Self) -> Ordering {
        // Equal but for zeros ahead: by the letters.
        let values = |name: &Self| {
            name.parts()
                .map(|(value, part)| value.map_or((1, 0, part.to_owned()), |value| (0, value, String::new())))
                .collect::<Vec<_>>()
        };
        values(self).cmp(&values(other)).then_with(|| self.0.cmp(other.0))
    }
}

impl PartialOrd for Name<'_> {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

/// A day that was placed.
#[derive(Debug)]
pub struct PlacedDay {
    /// Its clips, by their numbers among all.
    pub clips: Vec<usize>,
    /// How many days after the day of the axis it lies.
    pub after: i64,
    /// Time of day at its own axis's zero, seconds.
    pub zero_s: f64,
    /// What came of it; clips by their place in `clips`.
    pub result: DayResult,
}

/// Days on one axis: that of the first of them that is of the axis's day. `zero_s` is the time of day at the axis's zero,
/// seconds. Of `count` clips those that no day has are unplaced, and say what `why` says of them.
pub fn join_days(
    days: Vec<PlacedDay>,
    zero_s: f64,
    count: usize,
    why: impl Fn(usize) -> Placement,
) -> DayResult {
    let mut all = DayResult {
        reference: 0,
        placements: (0..count).map(why).collect(),
        rates: vec![],
        clocks: vec![],
        distances: vec![],
        islands: vec![],
    };
    let mut days = days;
    // The axis's own day keeps its numbers.
    days.sort_by_key(|day| (day.after != 0, day.after));
    all.reference = days.first().map_or(0, |day| day.clips[day.result.reference]);
    // Components begin at 0 where the axis's day is among them; else that number stays free for it.
    let mut base = u32::from(days.first().is_some_and(|day| day.after != 0));
    for PlacedDay { clips, after, zero_s: own_zero_s, result } in days {
        let by_s = if after == 0 { 0.0 } else { after as f64 * DAY_S + own_zero_s - zero_s };
        let highest = result.placements.iter().map(|own| own.component);
        let highest = highest.chain(result.islands.iter().map(|own| own.component)).max().unwrap_or(0);
        for (&clip, mut placement) in clips.iter().zip(result.placements) {
            placement.component += base;
            placement.shift(by_s);
            for Evidence { against, .. } in &mut placement.evidence {
                *against = against.map(|other| clips[other]);
            }
            all.placements[clip] = placement;
        }
        all.rates.extend(result.rates);
        all.clocks.extend(
            result.clocks.into_iter().map(|clock| DeviceClock { axis_s: clock.axis_s + by_s, ..clock }),
        );
        all.distances.extend(
            result
                .distances
                .into_iter()
                .map(|own| ShownDistance { clip: own.clip.map(|clip| clips[clip]), ..own }),
        );
        all.islands.extend(result.islands.into_iter().map(|own| Island {
            component: own.component + base,
            reference: clips[own.reference],
            zero_s: own.zero_s + by_s,
            ..own
        }));
        base += highest + 1;
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::{
        answer::Verdict,
        day::place_day,
        trial::{PLAN, Sound, labelled},
    };
    use proptest::prelude::*;
    use std::ops::ControlFlow;

    #[test]
    fn days_are_apart_in_the_order_of_their_names() {
        let names = |all: &[&'static str]| all.iter().map(|name| Some(*name)).collect::<Vec<_>>();
        assert_eq!(shoot_days(&names(&["2026-05-14", "2026-05-13", "2026-05-14"])), [vec![1], vec![0, 2]]);
        assert_eq!(shoot_days(&names(&["Day 2", "Day 10", "Day 1"])), [vec![2], vec![0], vec![1]]);
        assert_eq!(shoot_days(&names(&["day 2", "pick-ups", "day 02"])), [vec![2], vec![0], vec![1]]);
        assert_eq!(shoot_days(&[]), Vec::<Vec<usize>>::new());
    }

    proptest! {
        /// Every clip is of one day, whatever people call theirs.
        #[test]
        fn every_clip_is_of_one_day(names in prop::collection::vec("[0-9]{0,3}[a-zß ]{0,3}[0-9]{0,2}", 0..12)) {
            let named: Vec<Option<&str>> = names.iter().map(|name| Some(name.as_str())).collect();
            let days = shoot_days(&named);
            let mut all: Vec<usize> = days.concat();
            all.sort_unstable();
            prop_assert_eq!(all, (0..names.len()).collect::<Vec<_>>());
            for day in days {
                prop_assert!(day.iter().all(|&clip| names[clip] == names[day[0]]));
            }
        }
    }

    /// Two days with the same times of day: a recorder from 10:00 and a camera ten seconds later by its timecode.
    #[test]
    fn a_day_lies_a_day_after_the_one_before() {
        let sound = Sound::some();
        let at = |device: usize, time_s: f64| labelled(sound.clip(device, 60.0), 36_000.0 + time_s);
        let place = |clips: Vec<usize>, after: i64, begin_s: f64| {
            let own = [at(0, begin_s), at(1, begin_s + 10.0)];
            let result = place_day(&own, PLAN, &|_| ControlFlow::Continue(())).expect("an axis");
            PlacedDay { clips, after, zero_s: 36_000.0 + begin_s, result }
        };
        // The second day began two minutes earlier.
        let days = vec![place(vec![1, 3], 1, -120.0), place(vec![4, 0], 0, 0.0)];
        let all = join_days(days, 36_000.0, 5, |_| Placement::unplaced("not yet"));
        assert_eq!(all.reference, 4);
        let start_s = |clip: usize| all.placements[clip].stretches[0].start_s;
        let (day, tenth) = (DAY_S - 120.0, 0.1);
        for (clip, expected_s) in [(4, 0.0), (0, 10.0), (1, day), (3, day + 10.0)] {
            assert!((start_s(clip) - expected_s).abs() < tenth, "{clip}: {}", start_s(clip));
        }
        assert_eq!((all.placements[2].verdict, all.placements[4].component), (Verdict::Unplaced, 0));
        // Nothing of one day can be compared with anything of the other.
        let of = |clip: usize| all.placements[clip].component;
        assert!([of(1), of(3)].iter().all(|other| *other != of(0) && *other != of(4)));
        let of_islands: Vec<usize> = all.islands.iter().map(|own| own.reference).collect();
        assert!(of_islands.contains(&4) && of_islands.contains(&1), "{of_islands:?}");
    }
}
