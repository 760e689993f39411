//! What listening to a file found.

use super::{ChannelState, Mix};
use serde::{Deserialize, Serialize};

/// What listening found.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Heard {
    /// State of each channel.
    pub channels: Vec<ChannelState>,
    /// Channels that take part in matching; empty where there is nothing to match.
    pub used: Vec<usize>,
    /// The sounds that were made of them to match: all together, then each; one where there is but one to hear.
    pub mixes: Vec<Mix>,
    /// Decoded samples a channel, at the file's own rate.
    pub samples: u64,
}
