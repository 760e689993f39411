//! A day on its way from what sound shows to what each clip stands on.

use super::ground::{Ground, Lies};
use crate::sync::{
    find::Link,
    input::{Axis, DayClip},
    labels::{DeviceClock, LabelPlace, SlatePair, pairs},
    solve::{DeviceRate, Layout, OpenEnd},
};

/// Everything that was found, and what each clip stands on so far.
pub(crate) struct Settling<'a> {
    pub clips: &'a [DayClip<'a>],
    pub axis: &'a Axis,
    pub links: &'a [Link],
    pub layout: Layout,
    /// What each clip stands on.
    pub grounds: Vec<Ground>,
    /// The components of the layout, each with the clip whose clock is its axis.
    pub bases: Vec<(usize, usize)>,
    /// Where the islands lie.
    pub lies: Vec<Lies>,
    /// What the labels of each clip say.
    pub told: Vec<Vec<LabelPlace>>,
    /// The sounds that each picture mark of each clip may lie against.
    pub slates: Vec<Vec<Vec<SlatePair>>>,
    /// Ends that another clip heard otherwise.
    pub open_ends: Vec<Option<OpenEnd>>,
}

impl<'a> Settling<'a> {
    /// Every clip where sound has it.
    pub fn new(
        clips: &'a [DayClip<'a>],
        axis: &'a Axis,
        links: &'a [Link],
        layout: Layout,
        open_ends: Vec<Option<OpenEnd>>,
    ) -> Self {
        let ground = |clip| if axis.holds(clip) { Ground::Axis } else { Ground::SOUND };
        Self {
            clips,
            axis,
            links,
            grounds: (0..clips.len()).map(ground).collect(),
            bases: layout.bases(clips, &axis.anchors),
            layout,
            lies: vec![],
            told: vec![vec![]; clips.len()],
            slates: pairs(clips),
            open_ends,
        }
    }

    /// Lets everything but sound have its say, in turn: weak sound against timecode, labels and the order of clips where
    /// several places fit, crystals, slates, labels, takes that ran together, islands. The rates that were learnt.
    pub fn settle(&mut self, clocks: &[DeviceClock]) -> Vec<DeviceRate> {
        self.set_weak_apart();
        self.choose_by_labels();
        let rates = if self.is_one_time() {
            self.keep_order();
            self.lend_rates()
        } else {
            vec![]
        };
        self.place_by_slates();
        self.place_by_labels(&rates);
        if !self.is_one_time() {
            self.place_by_siblings();
        }
        self.lay_islands(clocks);
        rates
    }

    /// Whether every device ran through the same stretch of real time: one cannot have recorded two clips at once then.
    fn is_one_time(&self) -> bool {
        self.layout.apart
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::sync::{
        labels::label_places,
        trial::{PLAN, Sound, labelled, link},
    };

    /// Settles a day that sound laid out by `links`.
    fn settled(clips: &[DayClip], links: &[Link], check: impl Fn(&Settling)) {
        let axis = Axis::of(clips, &PLAN).expect("an axis");
        let mut layout = Layout::new(clips, axis.origin, &axis.tied);
        layout.join_all(clips, links, axis.origin, &axis.anchors, true);
        let mut day = Settling::new(clips, &axis, links, layout, vec![None; clips.len()]);
        let clocks = day.clocks();
        day.told = label_places(clips, &clocks, &|_| 0.0);
        day.settle(&clocks);
        check(&day);
    }

    #[test]
    fn timecode_places_what_nobody_heard_and_sound_stays_where_it_is() {
        let sound = Sound::some();
        let quiet = DayClip { sounds: vec![], ..sound.clip(1, 20.0) };
        let clips = [
            labelled(sound.clip(0, 100.0), 3600.0),
            labelled(sound.clip(1, 20.0), 3610.0),
            labelled(quiet, 3650.0),
        ];
        settled(&clips, &[link(1, 0, 10.004, 20.0)], |day| {
            assert!(matches!(day.grounds[0], Ground::Axis));
            assert!(matches!(day.grounds[1], Ground::Sound { chosen_by: None, .. }));
            assert!(matches!(day.grounds[2], Ground::Label { own: true, instead_of: None, .. }));
            let starts: Vec<f64> = day.layout.maps.iter().map(|map| map[0].start_s).collect();
            assert_eq!((starts[0], starts[1]), (0.0, 10.004));
            // What the clip that was heard says of its device's count goes for the other, too.
            assert!((starts[2] - 50.004).abs() < 0.02, "{starts:?}");
        });
    }

    #[test]
    fn a_label_chooses_between_places_that_fit_alike() {
        let sound = Sound::some();
        let clips = [
            labelled(sound.clip(0, 100.0), 3600.0),
            labelled(sound.clip(1, 15.0), 3602.0),
            labelled(sound.clip(1, 20.0), 3660.0),
        ];
        // The second clip's passage is heard twice, a little better at the wrong place.
        let wrong = link(2, 0, 25.0, 20.0);
        let mut right = link(2, 0, 60.0, 20.0);
        (right.alignment.height, right.alignment.log_odds) = (39.0, 747.0);
        settled(&clips, &[link(1, 0, 2.0, 15.0), wrong, right], |day| {
            assert_eq!(day.layout.maps[2][0].start_s, 60.0);
            assert!(matches!(day.grounds[2], Ground::Sound { chosen_by: Some(_), .. }));
        });
    }

    #[test]
    fn what_ran_together_at_a_time_nobody_knows_lies_behind_the_day() {
        let sound = Sound::some();
        let clips = [sound.clip(0, 100.0), sound.clip(1, 20.0), sound.clip(2, 30.0)];
        settled(&clips, &[link(2, 1, -5.0, 30.0)], |day| {
            let [one, two] = [1, 2].map(|clip| day.layout.maps[clip][0].start_s);
            assert!(one > 100.0 && two > 100.0, "{one} {two}");
            assert!((two - one + 5.0).abs() < 1e-9, "the two stay together");
            assert!(day.lies.iter().any(|lies| lies.by.is_none()));
        });
    }
}
