//! What one thread works with.

use crate::{
    signal::Correlator,
    sync::{input::Mode, pair::Aligner},
};

/// How far the lost parts of a clip may lie from where they are expected.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) enum Reach {
    /// Samples were lost: a little later.
    #[default]
    Losses,
    /// The music was stopped and started again: anywhere.
    Anywhere,
}

/// Tools of one thread.
#[derive(Default)]
pub(crate) struct Tools {
    pub correlator: Correlator,
    pub aligner: Aligner,
    /// Where lost parts are looked for.
    pub reach: Reach,
}

impl Tools {
    /// For a day of a mode.
    pub fn for_mode(mode: Mode) -> Self {
        let reach = if mode == Mode::Day { Reach::Losses } else { Reach::Anywhere };
        Self { reach, ..Self::default() }
    }
}
