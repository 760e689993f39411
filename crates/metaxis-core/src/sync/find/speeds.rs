//! Speeds at which a clip's sound may fit where it does not at its own: labels of another rate, and tracks that were
//! played fast.

use crate::sync::answer::OtherSpeed;

/// The speeds that are tried: the clip's sound played so many times as fast is as the reference's.
const SPEEDS: [(f64, OtherSpeed); 7] = [
    (44.1 / 48.0, OtherSpeed::Label("44.1", "48")),
    (48.0 / 44.1, OtherSpeed::Label("48", "44.1")),
    (1.0 / 1.25, OtherSpeed::Played(125.0)),
    (1.0 / 1.5, OtherSpeed::Played(150.0)),
    (1.0 / 2.0, OtherSpeed::Played(200.0)),
    (24.0 / 25.0, OtherSpeed::Frames("25", "24")),
    (25.0 / 24.0, OtherSpeed::Frames("24", "25")),
];

/// The speeds that are tried.
pub(super) fn speeds() -> impl Iterator<Item = f64> {
    SPEEDS.iter().map(|(speed, _)| *speed)
}

/// Why a sound fits at a speed; `None` at its own.
pub(crate) fn why_at(speed: f64) -> Option<OtherSpeed> {
    SPEEDS.iter().find(|(own, _)| (own - speed).abs() < 1e-6).map(|(_, why)| *why)
}
