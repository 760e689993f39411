//! What came of a day.

use crate::sync::{
    answer::{Island, Placement},
    labels::{DeviceClock, ShownDistance},
    solve::DeviceRate,
};
use serde::{Deserialize, Serialize};

/// Placements in the order of the clips, and the reference clip that starts the axis.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct DayResult {
    /// Index of the clip that starts at zero.
    pub reference: usize,
    /// One a clip.
    pub placements: Vec<Placement>,
    /// What was learnt of the devices' crystals.
    pub rates: Vec<DeviceRate>,
    /// What was learnt of the devices' labels.
    #[serde(default)]
    pub clocks: Vec<DeviceClock>,
    /// Distances that slates show and nobody has given.
    #[serde(default)]
    pub distances: Vec<ShownDistance>,
    /// The components, and where each lies on the day: the axis's first.
    #[serde(default)]
    pub islands: Vec<Island>,
}
