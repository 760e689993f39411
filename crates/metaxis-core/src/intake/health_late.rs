//! Channels that hear later than another of the same file: told once for all clips of a device in which it is so.

use super::{
    HealthClip, HealthDevice, HealthKind, HealthNote, Weight,
    health_clip::channel_name,
    health_device::{called, ids, listed},
};

/// From this delay on a channel is called late, seconds: half a metre more, and no converter's doing.
const LATE_S: f64 = 1.5e-3;
/// Delays nearer than this are one, seconds.
const SAME_S: f64 = 0.5e-3;

/// The late channels of a clip.
struct Late {
    /// The channel that hears first.
    first: usize,
    /// Channel and delay, seconds.
    others: Vec<(usize, f64)>,
}

impl Late {
    fn of(clip: &HealthClip) -> Option<Self> {
        let (states, _) = clip.heard?;
        let late = |(i, late_s): (usize, Option<f64>)| Some((i, late_s.filter(|late_s| *late_s >= LATE_S)?));
        let others: Vec<(usize, f64)> =
            states.iter().map(|state| state.late_s).enumerate().filter_map(late).collect();
        let first = states.iter().position(|other| other.late_s == Some(0.0)).unwrap_or(0);
        (!others.is_empty()).then_some(Self { first, others })
    }

    fn is_as(&self, other: &Self) -> bool {
        self.first == other.first
            && self.others.len() == other.others.len()
            && self.others.iter().zip(&other.others).all(|(a, b)| a.0 == b.0 && (a.1 - b.1).abs() < SAME_S)
    }
}

/// A note for the clips of each device whose channels are late alike.
pub(super) fn late_channels(clips: &[HealthClip], devices: &[HealthDevice]) -> Vec<HealthNote> {
    let mut groups: Vec<(Late, Vec<&HealthClip>)> = vec![];
    for clip in clips {
        let Some(late) = Late::of(clip) else { continue };
        match groups.iter_mut().find(|(own, same)| own.is_as(&late) && same[0].device == clip.device) {
            Some((_, same)) => same.push(clip),
            None => groups.push((late, vec![clip])),
        }
    }
    groups.iter().map(|(late, same)| note(late, same, devices)).collect()
}

fn note(late: &Late, same: &[&HealthClip], devices: &[HealthDevice]) -> HealthNote {
    let clip = same[0];
    let (who, where_) = match same {
        [one] => (one.name.to_owned(), String::new()),
        all => (called(devices, clip.device).to_owned(), format!(" in {} clips", all.len())),
    };
    let first = channel_name(clip, late.first);
    let what = match &late.others[..] {
        [(channel, late_s)] => {
            format!("{} is {:.1} ms behind {first}", channel_name(clip, *channel), late_s * 1e3)
        }
        all => {
            let names: Vec<String> = all.iter().map(|(channel, _)| (channel + 1).to_string()).collect();
            let delays: Vec<String> = all.iter().map(|(_, late_s)| format!("{:.1}", late_s * 1e3)).collect();
            format!("channels {} are {} ms behind {first}", listed(&names), listed(&delays))
        }
    };
    let about = format!("{}/{what}", clip.device.0);
    let text = [
        format!("{who}: {what}{where_}"),
        "A wireless link, or a microphone that stands farther away.".into(),
        "Clips are laid by the earliest; move the others by so much where they are used together.".into(),
    ];
    HealthNote::new(HealthKind::LateChannel, Weight::Know, &about, &ids(same), text)
}
