//! Speeds at which a clip's sound may fit where it does not at its own: labels of another rate, and tracks that were
//! played fast.

/// Why a clip's sound fits at another speed only.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Why {
    /// Recorded at the first rate, labelled as the other, in kHz.
    Label(&'static str, &'static str),
    /// Performed to a track that was played at so many per cent.
    Played(f64),
    /// Frames a second, the clip's against the reference's.
    Frames(&'static str, &'static str),
}

/// The speeds that are tried: the clip's sound played so many times as fast is as the reference's.
const SPEEDS: [(f64, Why); 7] = [
    (44.1 / 48.0, Why::Label("44.1", "48")),
    (48.0 / 44.1, Why::Label("48", "44.1")),
    (1.0 / 1.25, Why::Played(125.0)),
    (1.0 / 1.5, Why::Played(150.0)),
    (1.0 / 2.0, Why::Played(200.0)),
    (24.0 / 25.0, Why::Frames("25", "24")),
    (25.0 / 24.0, Why::Frames("24", "25")),
];

/// The speeds that are tried.
pub(super) fn speeds() -> impl Iterator<Item = f64> {
    SPEEDS.iter().map(|(speed, _)| *speed)
}

/// What a clip that fits at `speed` is told, by its waves or only by how its sound rises and falls; nothing at its own.
pub(super) fn said_of_speed(speed: f64, by_waves: bool) -> Option<String> {
    let (speed, why) = SPEEDS.iter().find(|(own, _)| (own - speed).abs() < 1e-6)?;
    let slow = format!("{:.1}", speed * 100.0);
    let slow = slow.trim_end_matches(".0");
    Some(match why {
        Why::Played(_) | Why::Frames(..) if !by_waves => format!(
            "It rises and falls as the track does where it is slowed to {slow} %, but the waves do not agree: the track \
             may have been stretched with its pitch kept."
        ),
        Why::Label(recorded, labelled) => {
            format!("Its sound was recorded at {recorded} kHz but is labelled {labelled} kHz.")
        }
        Why::Played(percent) => {
            format!("Performed at {percent:.0} % of the track: slow it to {slow} % and it fits.")
        }
        Why::Frames(own, other) => format!(
            "It runs at {own} frames a second where the reference has {other}: play it at {slow} % and it fits."
        ),
    })
}
