//! Why a clip lies where it does, and what is doubtful about it: the facts, and the sentences that tell them.

use super::evidence::EvidenceKind;
use std::fmt;

/// One thing to say of a clip's place. Times are seconds of the clip's own time.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(missing_docs)]
pub enum Reason {
    /// The clip's clock is the axis.
    Axis,
    /// The reference's own time reference ties it to the axis.
    TiedToAxis,
    /// Its clock is the axis of its island.
    IslandAxis,
    /// A clip of the reference that nothing ties to anything.
    IslandAlone,
    /// Windows in which the sound agrees, of those looked at.
    Agrees { agreeing: usize, tried: usize },
    /// The channels it was measured on, its own and the other clip's.
    Channels { own: Heard, other: Heard },
    /// Clips that put it there.
    SaidBy(usize),
    /// It was looked for within so many seconds of a place.
    LookedNear { within_s: f64, agreeing: usize, tried: usize },
    /// It was laid later than it hears, for its microphone's distance.
    Distance { metres: f64, later_s: f64 },

    /// Nothing of its sound was found beyond doubt.
    NotBeyondDoubt,
    /// It hangs on a clip that is itself in doubt.
    HangsOnDoubt,
    /// An end of it lies elsewhere by another clip that ran then.
    OpenEnd { from_s: f64, to_s: f64, later_s: f64 },
    /// Another position fits nearly as well: its share.
    Rival(f64),
    /// A passage agrees with no place on the track.
    Astray { from_s: f64, to_s: f64 },
    /// A jump for which nothing speaks but what repeats.
    Unforced,
    /// Only the rise and fall of the sound agrees.
    PatternOnly,
    /// More echo was heard than direct sound.
    Echo,
    /// Positions right beside it fit nearly as well.
    Twins,
    /// Few windows agree.
    FewAgree { agreeing: usize, tried: usize },
    /// Of places that fit equally, the one that keeps the order of the device's clips.
    KeepsOrder,

    /// A label placed it, for want of sound.
    ByLabel { kind: EvidenceKind, silent: bool, stands: LabelStands },
    /// Its sound repeats itself and a label decided.
    LabelChose(EvidenceKind),
    /// A label agrees.
    LabelAgrees(EvidenceKind),
    /// A label says another place: how much later it lies than the label says, and the length of its frame.
    LabelOff { kind: EvidenceKind, later_s: f64, frame_s: f64 },
    /// Its sound is weak but lies where a label says.
    WeakButLabelAgrees(EvidenceKind),
    /// Its sound is too weak against a label.
    LabelOutweighs(EvidenceKind),
    /// It was placed beside a take that was heard, by labels that so many other takes confirm.
    BesideTake { kind: EvidenceKind, confirmed: usize },

    /// So many slates placed it.
    BySlates(usize),
    /// So many slates agree.
    SlatesAgree(usize),
    /// Its slates part by so much.
    SlatesPart(f64),
    /// What one slate says; the moment where it has several.
    Slate { at_s: Option<f64>, says: SlateSays },

    /// Its clock bends: the rates at its ends, and how far it departs from a straight line.
    Bends { first_ppm: f64, last_ppm: f64, off_s: f64 },
    /// So much sound was lost at a moment; negative where it was repeated.
    Lost { at_s: f64, seconds: f64 },
    /// The track was stopped, and went on so much further on.
    TrackStopped { at_s: f64, on_s: f64 },
    /// A passage was heard so much later than the rest, by a way so much longer.
    Moved { from_s: f64, to_s: f64, later_s: f64, metres: f64 },
    /// It moved so many times more.
    MovedMore(usize),
    /// A passage with sound on both sides in which nothing agrees.
    Unshown { from_s: f64, to_s: f64 },
    /// It fits at another speed, by its waves or only by its pattern.
    OtherSpeed { speed: f64, why: OtherSpeed, by_waves: bool },
    /// It runs 0.1 % faster, or slower.
    PulledDown { faster: bool },
    /// A stronger position is taken by another clip of the device.
    StrongerIsTaken,

    /// There is nothing to listen to.
    Silent,
    /// Nothing of its sound was found.
    NotFound,
    /// Its only position is taken by another clip of the device.
    Taken,
    /// A label puts it where nothing else ran.
    RanAlone(EvidenceKind),
    /// Nothing fits within so many seconds of where it was looked for.
    NothingNear(f64),
    /// The clip it was to be laid against has no place.
    OtherHasNoPlace,
}

/// Which sound of a clip was compared.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Heard {
    /// The only one.
    Only,
    /// A channel, from 0.
    Channel(usize),
    /// All channels together.
    Together,
}

/// How firmly a label stands that places a clip.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum LabelStands {
    /// A clock, known to so many seconds.
    About(f64),
    /// No clip of the device confirms it; so many other devices are jammed alike.
    Unconfirmed(usize),
    /// One clip of the device confirms it.
    ConfirmedOnce,
    /// To the frame it names, as sound has it in so many clips.
    ToItsFrame(usize),
    /// It agrees with sound in so many clips.
    Firmly(usize),
}

/// What one slate says of a clip's place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum SlateSays {
    /// So far off that its marks are of two different claps, seconds.
    OtherClap(f64),
    /// It is seen so much before the clip's own microphone hears it: seconds and metres.
    Heard {
        /// Seconds.
        late_s: f64,
        /// Metres of air.
        metres: f64,
    },
    /// The same.
    Same,
    /// So much later, seconds.
    Later(f64),
}

/// Why a clip's sound fits at another speed only.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum OtherSpeed {
    /// Recorded at the first rate, labelled as the other, in kHz.
    Label(&'static str, &'static str),
    /// Performed to a track that was played at so many per cent.
    Played(f64),
    /// Frames a second, the clip's against the reference's.
    Frames(&'static str, &'static str),
}

impl fmt::Display for Heard {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        match self {
            Self::Only => write!(f, "its sound"),
            Self::Channel(number) => write!(f, "channel {}", number + 1),
            Self::Together => write!(f, "all channels together"),
        }
    }
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter) -> fmt::Result {
        match *self {
            Self::Axis => write!(f, "Reference: its clock is the axis."),
            Self::TiedToAxis => write!(f, "Reference: placed by its own time reference."),
            Self::IslandAxis => write!(f, "Reference of its island: its clock is the axis there."),
            Self::IslandAlone => write!(f, "Reference without a time reference: an island of its own."),
            Self::Agrees { agreeing, tried } => write!(f, "Sound agrees in {agreeing} of {tried} windows."),
            Self::Channels { own, other } => write!(f, "Measured on {own}, against {other} of the other."),
            Self::SaidBy(clips) => write!(f, "{clips} clips say the same."),
            Self::LookedNear { within_s, agreeing, tried } => {
                write!(f, "Looked for within {within_s:.1} s: sound agrees in {agreeing} of {tried} windows.")
            }
            Self::Distance { metres, later_s } => write!(
                f,
                "Its microphone is {metres:.1} m away: it lies {:.0} ms later than it hears.",
                later_s * 1e3
            ),
            Self::NotBeyondDoubt => write!(f, "Its sound was found nowhere beyond doubt."),
            Self::HangsOnDoubt => write!(f, "It hangs on a clip that is not sure itself."),
            Self::OpenEnd { from_s, to_s, later_s } => write!(
                f,
                "From {:.0} s to {to_s:.0} s another clip that ran then puts it {:.3} s {}: one of the two lost or \
                 repeated sound, and nothing says which.",
                from_s.max(0.0),
                later_s.abs(),
                if later_s > 0.0 { "later" } else { "earlier" }
            ),
            Self::Rival(share) => write!(
                f,
                "Another position fits {} % as well: the sound repeats itself.",
                (share * 100.0).round()
            ),
            Self::Astray { from_s, to_s } => write!(
                f,
                "From {:.0} s to {to_s:.0} s it agrees with no place on the track: the music may have been stopped there.",
                from_s.max(0.0)
            ),
            Self::Unforced => write!(
                f,
                "It seems to jump where only what repeats speaks for the jump: it may simply go on."
            ),
            Self::PatternOnly => write!(
                f,
                "Its sound rises and falls with the reference's, but through so much noise or echo that the waves do \
                 not agree: placed to about half a frame."
            ),
            Self::Echo => {
                write!(f, "Its microphone heard more echo than direct sound: it may lie a frame off.")
            }
            Self::Twins => write!(
                f,
                "Neighbouring positions fit nearly as well: the sound is a steady tone or a quick repeat."
            ),
            Self::FewAgree { agreeing, tried } => {
                write!(f, "Only {agreeing} of {tried} windows agree on this position.")
            }
            Self::KeepsOrder => write!(
                f,
                "The sound repeats itself; of the places that fit equally, only this one keeps the order of the \
                 device's clips."
            ),
            Self::ByLabel { kind, silent, stands } => by_label(f, kind.called(), silent, stands),
            Self::LabelChose(kind) => write!(f, "The sound repeats itself; its {} decided.", kind.called()),
            Self::LabelAgrees(kind) => write!(f, "Its {} says the same.", kind.called()),
            Self::LabelOff { kind, later_s, frame_s } => write!(
                f,
                "Its {} is {} {} its sound: sound was used.",
                kind.called(),
                in_frames(later_s, frame_s),
                if later_s < 0.0 { "ahead of" } else { "behind" }
            ),
            Self::WeakButLabelAgrees(kind) => {
                write!(f, "Its sound is weak, but lies where its {} says.", kind.called())
            }
            Self::LabelOutweighs(kind) => {
                write!(f, "Its sound fits too weakly elsewhere: its {} was used.", kind.called())
            }
            Self::BesideTake { kind, confirmed } => {
                let kind = kind.called();
                write!(f, "It was not heard to the track: placed beside a clip that was by their {kind}, ")?;
                match confirmed {
                    0 => write!(f, "which no other take confirms."),
                    1 => write!(f, "which one other take confirms."),
                    count => write!(f, "which {count} other takes confirm."),
                }
            }
            Self::BySlates(count) => {
                let of = if count > 1 { format!("{count} slates") } else { "slate".into() };
                write!(
                    f,
                    "Placed by its {of}: the frame in which the sticks close against the clap in the sound."
                )
            }
            Self::SlatesAgree(count) => write!(f, "Its {count} slates say the same."),
            Self::SlatesPart(by_s) => {
                write!(f, "Its slates contradict each other by {:.0} ms: look at the marks.", 2e3 * by_s)
            }
            Self::Slate { at_s, says } => by_slate(f, at_s, says),
            Self::Bends { first_ppm, last_ppm, off_s } => write!(
                f,
                "Its clock bends: from {first_ppm:+.1} ppm at its beginning to {last_ppm:+.1} ppm at its end, {:.1} ms \
                 from a straight line.",
                off_s * 1e3
            ),
            Self::Lost { at_s, seconds } => write!(
                f,
                "{:.3} s of sound were {} at {at_s:.1} s.",
                seconds.abs(),
                if seconds > 0.0 { "lost" } else { "repeated" }
            ),
            Self::TrackStopped { at_s, on_s } => write!(
                f,
                "The track was stopped at {at_s:.1} s and started again {:.1} s further {}.",
                on_s.abs(),
                if on_s > 0.0 { "on" } else { "back" }
            ),
            Self::Moved { from_s, to_s, later_s, metres } => {
                let (late, far) =
                    if later_s > 0.0 { ("later", "farther from") } else { ("sooner", "nearer to") };
                write!(
                    f,
                    "From {from_s:.0} s to {to_s:.0} s it is heard {:.0} ms {late} than elsewhere: its microphone was \
                     {metres:.0} m {far} the sound.",
                    later_s.abs() * 1e3
                )
            }
            Self::MovedMore(times) => write!(f, "It moved {times} times more."),
            Self::Unshown { from_s, to_s } => write!(
                f,
                "From {:.0} s to {to_s:.0} s nothing shows that it is in step, though there is sound on both sides.",
                from_s.max(0.0)
            ),
            Self::OtherSpeed { speed, why, by_waves } => at_speed(f, speed, why, by_waves),
            Self::PulledDown { faster } => write!(
                f,
                "It runs 0.1 % {} than the reference (1000/1001): a pulled-down rate.",
                if faster { "faster" } else { "slower" }
            ),
            Self::StrongerIsTaken => {
                write!(f, "A stronger position lies over another clip of the same device.")
            }
            Self::Silent => write!(f, "It has no sound to listen to."),
            Self::NotFound => write!(f, "Its sound was found nowhere."),
            Self::Taken => write!(f, "Its only position lies over another clip of the same device."),
            Self::RanAlone(kind) => write!(
                f,
                "Its sound was found nowhere, and by its {} it ran when nothing else did: it belongs to no take.",
                kind.called()
            ),
            Self::NothingNear(within_s) => write!(f, "Nothing fits within {within_s:.1} s of that place."),
            Self::OtherHasNoPlace => write!(f, "The clip to lay it against has no place itself."),
        }
    }
}

fn by_label(f: &mut fmt::Formatter, kind: &str, silent: bool, stands: LabelStands) -> fmt::Result {
    let why = if silent { "It has no sound to match" } else { "Its sound was found nowhere" };
    match stands {
        LabelStands::About(seconds) => {
            write!(f, "{why}: placed by its {kind} alone, to about {seconds:.0} s.")
        }
        LabelStands::Unconfirmed(alike) => {
            write!(f, "{why}: placed by its {kind}, which no clip of the device confirms")?;
            if alike > 1 { write!(f, "; {alike} other devices are jammed alike.") } else { write!(f, ".") }
        }
        LabelStands::ConfirmedOnce => {
            write!(f, "{why}: placed by its {kind}, confirmed by one clip of the device.")
        }
        LabelStands::ToItsFrame(clips) => write!(
            f,
            "{why}: placed by its {kind} to the frame it names, as sound has it in {clips} clips of the device."
        ),
        LabelStands::Firmly(clips) => {
            let why = if silent { "It has no sound to match: placed" } else { "Placed" };
            write!(f, "{why} by its {kind}, which agrees with sound in {clips} clips of its device.")
        }
    }
}

fn by_slate(f: &mut fmt::Formatter, at_s: Option<f64>, says: SlateSays) -> fmt::Result {
    let which = at_s.map_or_else(|| "slate".into(), |at_s| format!("slate at {at_s:.1} s"));
    match says {
        SlateSays::OtherClap(by_s) => {
            write!(f, "Its {which} is {:.1} s off: the marks are of two different claps.", by_s.abs())
        }
        SlateSays::Heard { late_s, metres } => write!(
            f,
            "Its {which} is seen {:.0} ms before its own microphone hears it: that is {metres:.0} m of air.",
            late_s * 1e3
        ),
        SlateSays::Same => write!(f, "Its {which} says the same."),
        SlateSays::Later(by_s) => write!(
            f,
            "Its {which} puts it {:.0} ms {} than its sound: sound was used.",
            by_s.abs() * 1e3,
            if by_s > 0.0 { "later" } else { "earlier" }
        ),
    }
}

fn at_speed(f: &mut fmt::Formatter, speed: f64, why: OtherSpeed, by_waves: bool) -> fmt::Result {
    let slow = format!("{:.1}", speed * 100.0);
    let slow = slow.trim_end_matches(".0");
    match why {
        OtherSpeed::Label(recorded, labelled) => {
            write!(f, "Its sound was recorded at {recorded} kHz but is labelled {labelled} kHz.")
        }
        OtherSpeed::Played(_) | OtherSpeed::Frames(..) if !by_waves => write!(
            f,
            "It rises and falls as the track does where it is slowed to {slow} %, but the waves do not agree: the \
             track may have been stretched with its pitch kept."
        ),
        OtherSpeed::Played(percent) => {
            write!(f, "Performed at {percent:.0} % of the track: slow it to {slow} % and it fits.")
        }
        OtherSpeed::Frames(own, other) => write!(
            f,
            "It runs at {own} frames a second where the reference has {other}: play it at {slow} % and it fits."
        ),
    }
}

/// A difference in frames of `frame_s`, or in seconds where it is long.
fn in_frames(seconds: f64, frame_s: f64) -> String {
    let frames = (seconds / frame_s).abs();
    if frames < 500.0 { format!("{frames:.1} frames") } else { format!("{:.1} s", seconds.abs()) }
}
