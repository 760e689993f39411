//! What is odd about a clip's sound: breaks, bends, other speeds, steps aside, passages that nothing shows.

use crate::sync::{
    answer::{Reason, Stretch, joined, length_s, runs},
    find::{Link, why_at},
    input::SOUND_M_PER_S,
    pair::{Moved, Passage, has_sound, uncovered},
    settle::Settling,
};

/// A passage this long in which nothing agrees is said, seconds.
const UNSHOWN_S: f64 = 60.0;
/// Moves told one by one.
const MOVES_TOLD: usize = 3;
/// A metre of sound, seconds: what is less is not told.
const A_METRE_S: f64 = 0.0029;
/// 1000/1001, and how near a rate must be to it, ppm.
const PULLED_DOWN_PPM: (f64, f64) = (1000.0, 60.0);

/// Everything odd, in the order in which it is told.
pub(super) fn said_of_faults(day: &Settling, clip: usize, best: &Link) -> Vec<Reason> {
    let stretches = &day.layout.maps[clip];
    let mut said: Vec<Reason> = bend(stretches).into_iter().collect();
    said.extend(breaks(stretches, day.layout.apart));
    if best.clip == clip {
        said.extend(moves(&best.alignment.moves));
    }
    said.extend(unshown(day, clip, best));
    let rate_ppm = stretches.first().map_or(0.0, |stretch| stretch.rate_ppm);
    if let Some(why) = why_at(best.speed) {
        said.push(Reason::OtherSpeed { speed: best.speed, why, by_waves: best.alignment.fine });
    } else if (rate_ppm.abs() - PULLED_DOWN_PPM.0).abs() < PULLED_DOWN_PPM.1 {
        said.push(Reason::PulledDown { faster: rate_ppm > 0.0 });
    }
    let mut in_the_way = day.layout.refused.iter().map(|(index, _)| &day.links[*index]);
    if in_the_way.any(|link| link.clip == clip && link.height() > best.height()) {
        said.push(Reason::StrongerIsTaken);
    }
    said
}

/// A clock that bends: from which rate to which.
fn bend(stretches: &[Stretch]) -> Option<Reason> {
    let bent =
        runs(stretches).filter(|run| run.len() > 1).max_by(|a, b| length_s(a).total_cmp(&length_s(b)))?;
    let (first, last) = (bent[0], bent[bent.len() - 1]);
    // Farthest from the straight line between its ends.
    let slope = (last.end_s() - first.start_s) / length_s(bent);
    let away = |stretch: &Stretch| {
        (stretch.start_s - first.start_s - slope * (stretch.clip_start_s - first.clip_start_s)).abs()
    };
    let off_s = bent.iter().map(away).fold(0.0, f64::max);
    Some(Reason::Bends { first_ppm: first.rate_ppm, last_ppm: last.rate_ppm, off_s })
}

/// Breaks: of a day sound was lost there, of a take the track was stopped.
fn breaks(stretches: &[Stretch], day: bool) -> impl Iterator<Item = Reason> {
    stretches.windows(2).filter(|pair| !joined(&pair[0], &pair[1])).map(move |pair| {
        let seconds = pair[1].start_s - pair[0].end_s() - (pair[1].clip_start_s - pair[0].clip_end_s);
        match day {
            true => Reason::Lost { at_s: pair[1].clip_start_s, seconds },
            false => Reason::TrackStopped { at_s: pair[0].clip_end_s, on_s: seconds },
        }
    })
}

/// Passages that were heard by another way.
fn moves(moves: &[Moved]) -> Vec<Reason> {
    let told: Vec<&Moved> = moves.iter().filter(|moved| moved.later_s.abs() >= A_METRE_S).collect();
    let one = |moved: &&Moved| {
        let Moved { from_s, to_s, later_s } = **moved;
        Reason::Moved { from_s, to_s, later_s, metres: later_s.abs() * SOUND_M_PER_S }
    };
    let more = told.len().saturating_sub(MOVES_TOLD);
    let more = (more > 0).then_some(Reason::MovedMore(more));
    told.iter().take(MOVES_TOLD).map(one).chain(more).collect()
}

/// The longest passage with sound on both sides that no agreeing window covers.
fn unshown(day: &Settling, clip: usize, best: &Link) -> Option<Reason> {
    if best.clip != clip || !best.alignment.fine || !day.layout.apart {
        return None;
    }
    let own = &day.clips[clip].sounds[best.sounds.0];
    let there = &day.clips[best.against].sounds[best.sounds.1];
    let sounds = |part: &Passage| {
        let (from_s, to_s) = (best.there_s(part.from_s), best.there_s(part.to_s));
        has_sound(own, *part) && has_sound(there, Passage { from_s, to_s })
    };
    let passage = uncovered(&best.alignment, best.alignment.part, UNSHOWN_S).into_iter().find(sounds)?;
    Some(Reason::Unshown { from_s: passage.from_s, to_s: passage.to_s })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn stretch(clip: (f64, f64), start_s: f64, rate_ppm: f64) -> Stretch {
        let (clip_start_s, clip_end_s) = clip;
        Stretch { clip_start_s, clip_end_s, start_s, rate_ppm, start_sigma_s: 0.0, rate_sigma_ppm: 0.0 }
    }

    #[test]
    fn a_break_of_a_day_is_lost_sound_and_of_a_take_a_stopped_track() {
        let map = [stretch((0.0, 10.0), 5.0, 0.0), stretch((10.0, 20.0), 15.4, 0.0)];
        let of = |day: bool| breaks(&map, day).map(|reason| reason.to_string()).collect::<Vec<_>>();
        assert_eq!(of(true), ["0.400 s of sound were lost at 10.0 s."]);
        assert_eq!(of(false), ["The track was stopped at 10.0 s and started again 0.4 s further on."]);
        let back = [stretch((0.0, 10.0), 5.0, 0.0), stretch((10.0, 20.0), 14.0, 0.0)];
        let said: Vec<String> = breaks(&back, true).map(|reason| reason.to_string()).collect();
        assert_eq!(said, ["1.000 s of sound were repeated at 10.0 s."]);
    }

    #[test]
    fn a_joint_of_a_bending_clock_is_no_break() {
        let first = stretch((0.0, 100.0), 0.0, 10.0);
        let map = [first, stretch((100.0, 200.0), first.end_s(), -10.0)];
        assert_eq!(breaks(&map, true).count(), 0);
        let Some(Reason::Bends { first_ppm, last_ppm, off_s }) = bend(&map) else { panic!("it bends") };
        assert_eq!((first_ppm, last_ppm), (10.0, -10.0));
        // Half way it lies 100 s times 10 ppm off the straight line.
        assert!((off_s - 1e-3).abs() < 1e-5, "{off_s}");
        assert_eq!(bend(&map[..1]), None);
    }

    #[test]
    fn steps_aside_are_told_where_a_person_would_notice_and_then_counted() {
        let step = |later_s: f64| Moved { from_s: 1.0, to_s: 2.0, later_s };
        assert!(moves(&[step(0.001)]).is_empty());
        let said = moves(&[step(0.01), step(-0.01), step(0.02), step(0.03), step(0.04)]);
        assert_eq!((said.len(), said.last()), (4, Some(&Reason::MovedMore(2))));
        let text = said[0].to_string();
        assert!(
            text.ends_with(
                "heard 10 ms later than elsewhere: its microphone was 3 m farther from the sound."
            ),
            "{text}"
        );
    }
}
