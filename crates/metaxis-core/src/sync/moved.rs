//! Passages that were heard by another way, and what is said of them.

use super::SOUND_M_PER_S;

/// A passage in which a clip heard the sound by another way.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Moved {
    /// Beginning, in the clip's own time, seconds.
    pub from_s: f64,
    /// End.
    pub to_s: f64,
    /// How much later it is heard there, seconds.
    pub later_s: f64,
}

/// Moves told one by one.
const MOVES_TOLD: usize = 3;
/// A metre of sound, seconds: what is less is not told.
const A_METRE_S: f64 = 0.0029;

/// What is said of passages that were heard by another way.
pub(super) fn said_of_moves(moves: &[Moved]) -> Vec<String> {
    let told: Vec<&Moved> = moves.iter().filter(|moved| moved.later_s.abs() >= A_METRE_S).collect();
    let one = |moved: &&&Moved| {
        let (late, far) =
            if moved.later_s > 0.0 { ("later", "farther from") } else { ("sooner", "nearer to") };
        format!(
            "From {:.0} s to {:.0} s it is heard {:.0} ms {late} than elsewhere: its microphone was {:.0} m {far} the sound.",
            moved.from_s,
            moved.to_s,
            moved.later_s.abs() * 1e3,
            moved.later_s.abs() * SOUND_M_PER_S
        )
    };
    let mut said: Vec<String> = told.iter().take(MOVES_TOLD).map(|moved| one(&moved)).collect();
    if told.len() > MOVES_TOLD {
        said.push(format!("It moved {} times more.", told.len() - MOVES_TOLD));
    }
    said
}
