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

/// An axis that days are laid on.
#[derive(Debug, Clone, Copy)]
pub struct DaysAxis {
    /// The clip whose start is its zero, where that is settled already; else that of the first day's own axis.
    pub origin: Option<usize>,
    /// Time of day at its zero, seconds.
    pub zero_s: f64,
}

/// Days on one axis. Of `count` clips those that no day has say what `why` says of them.
pub fn join_days(
    days: Vec<PlacedDay>,
    axis: DaysAxis,
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
    all.reference =
        axis.origin.or_else(|| days.first().map(|day| day.clips[day.result.reference])).unwrap_or(0);
    // Components begin at 0 where the axis's day is among them; else that number stays free for it.
    let mut base = u32::from(days.first().is_some_and(|day| day.after != 0));
    for PlacedDay { clips, after, zero_s: own_zero_s, result } in days {
        let later_s = after as f64 * DAY_S + own_zero_s - axis.zero_s;
        // On the axis's own day the clip that is its zero stays that, and its component the first, whatever this day was
        // measured from.
        let origin = axis.origin.and_then(|origin| clips.iter().position(|clip| *clip == origin));
        let origin = origin.map(|origin| &result.placements[origin]);
        let (by_s, first) = match (after, origin) {
            (0, Some(origin)) => match origin.stretches.first() {
                Some(start) => (-start.start_s, origin.component),
                None => (later_s, 0),
            },
            (0, None) => (0.0, 0),
            _ => (later_s, 0),
        };
        let numbered = |component: u32| match component {
            own if own == first => base,
            0 => first + base,
            own => own + base,
        };
        let highest = result.placements.iter().map(|own| own.component);
        let highest = highest.chain(result.islands.iter().map(|own| own.component)).max().unwrap_or(0);
        for (&clip, mut placement) in clips.iter().zip(result.placements) {
            placement.component = numbered(placement.component);
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
            component: numbered(own.component),
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
        answer::{Stretch, Verdict},
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

    const FRESH: DaysAxis = DaysAxis { origin: None, zero_s: 36_000.0 };

    /// A day that is placed anew by another device than the axis's: the axis stays where it was.
    #[test]
    fn the_axis_stays_where_it_was_whatever_a_day_is_measured_from() {
        // Measured from clip 2, five seconds before the axis's clip 0, which is an island of its own with clip 1.
        let laid = |start_s: f64, component: u32| Placement {
            component,
            stretches: vec![Stretch::whole(60.0, start_s)],
            ..Placement::unplaced("")
        };
        let island = |component: u32, reference: usize, zero_s: f64| Island {
            component,
            reference,
            zero_s,
            sigma_s: None,
            by: None,
            day_start_s: None,
        };
        let result = DayResult {
            reference: 2,
            placements: vec![laid(5.0, 1), laid(15.0, 1), laid(0.0, 0)],
            rates: vec![],
            clocks: vec![],
            distances: vec![],
            islands: vec![island(0, 2, 0.0), island(1, 0, 5.0)],
        };
        let day = PlacedDay { clips: vec![0, 1, 2], after: 0, zero_s: 35_995.0, result };
        let settled = DaysAxis { origin: Some(0), ..FRESH };
        let all = join_days(vec![day], settled, 3, |_| Placement::unplaced(""));
        assert_eq!(all.reference, 0);
        let starts: Vec<(f64, u32)> =
            all.placements.iter().map(|own| (own.stretches[0].start_s, own.component)).collect();
        assert_eq!(starts, [(0.0, 0), (10.0, 0), (-5.0, 1)]);
        let islands: Vec<(u32, usize, f64)> =
            all.islands.iter().map(|own| (own.component, own.reference, own.zero_s)).collect();
        assert_eq!(islands, [(1, 2, -5.0), (0, 0, 0.0)]);
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
        let all = join_days(days, FRESH, 5, |_| Placement::unplaced("not yet"));
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
