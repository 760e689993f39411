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
