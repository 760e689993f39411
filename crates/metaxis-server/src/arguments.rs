//! What the command is told about folders and the sound that is made of them.

use anyhow::Result;
use clap::ValueEnum;
use metaxis_core::{
    film::{BurnIn, Codec, FilmForm, FilmSound, Grade, Wrapper},
    lut::Lut,
    sound::{
        Container, Correction, Depth, Fill, GroupTracks, Handling, Layout, OwnSound, PATTERN_WORDS,
        SoundForm, SoundHabit, TrackChoice, TrackKey, unknown_word,
    },
    sync::{Effort, Mode},
};
use metaxis_server::headless::{FilmsAsked, SoundAsked, SyncPlan, TurnoverError};
use metaxis_store::{SoundFor, SoundOrder};
use std::path::PathBuf;

#[derive(Clone, Copy, ValueEnum)]
enum ModeArg {
    Day,
    Playback,
}

#[derive(Clone, Copy, ValueEnum)]
enum EffortArg {
    Normal,
    Deep,
}

impl From<ModeArg> for Mode {
    fn from(mode: ModeArg) -> Self {
        match mode {
            ModeArg::Day => Self::Day,
            ModeArg::Playback => Self::Playback,
        }
    }
}

impl From<EffortArg> for Effort {
    fn from(effort: EffortArg) -> Self {
        match effort {
            EffortArg::Normal => Self::Normal,
            EffortArg::Deep => Self::Deep,
        }
    }
}

#[derive(Clone, Copy, ValueEnum)]
enum ForArg {
    Clips,
    Groups,
}

#[derive(Clone, Copy, ValueEnum)]
enum CorrectArg {
    Resample,
    Recut,
    Leave,
}

#[derive(Clone, Copy, ValueEnum)]
enum LostArg {
    Silence,
    Close,
}

#[derive(Clone, Copy, ValueEnum)]
enum PictureArg {
    Mov,
    Mxf,
    Linked,
}

#[derive(Clone, Copy, ValueEnum)]
enum OwnArg {
    Muted,
    Replaced,
}

#[derive(Clone, Copy, ValueEnum)]
enum LayoutArg {
    Poly,
    Split,
}

#[derive(Clone, Copy, ValueEnum)]
enum GroupTracksArg {
    Recorded,
    Grid,
    Both,
}

#[derive(Clone, Copy, ValueEnum)]
enum BitsArg {
    #[value(name = "24")]
    Pcm24,
    Float,
}

/// Folders, and how they are synced.
#[derive(clap::Args)]
pub struct SyncArgs {
    /// Folders; each first-level sub-folder is one device.
    #[arg(required = true)]
    folders: Vec<PathBuf>,
    /// Device name, or a file's path relative to its folder.
    #[arg(long)]
    reference: Option<String>,
    /// What happened before the devices.
    #[arg(long, value_enum, default_value = "day")]
    mode: ModeArg,
    /// How much to spend on what stays open.
    #[arg(long, value_enum, default_value = "normal")]
    effort: EffortArg,
    /// Where the report goes.
    #[arg(long)]
    report: Option<PathBuf>,
    /// Forget what was listened to before and keep nothing.
    #[arg(long)]
    no_cache: bool,
}

impl SyncArgs {
    /// The plan, and the folder that is gone when it has been carried out, where nothing is to be kept.
    pub fn plan(
        self,
        turnover: Option<PathBuf>,
    ) -> Result<(SyncPlan, Option<PathBuf>, Option<tempfile::TempDir>)> {
        let Self { folders, reference, mode, effort, report, no_cache } = self;
        let fresh = no_cache.then(tempfile::tempdir).transpose()?;
        let cache = fresh.as_ref().map_or_else(default_cache, |folder| folder.path().to_owned());
        let plan = SyncPlan { folders, reference, mode: mode.into(), effort: effort.into(), cache, turnover };
        Ok((plan, report, fresh))
    }
}

/// What sound is written, and how.
#[derive(clap::Args)]
pub struct SoundArgs {
    /// Folder that the files go to.
    #[arg(long)]
    out: PathBuf,
    /// A file for each picture clip, or for each group.
    #[arg(long = "for", value_enum, default_value = "clips")]
    made_for: ForArg,
    /// What is done about every clock; for each what is best unless given.
    #[arg(long, value_enum)]
    correct: Option<CorrectArg>,
    /// Milliseconds that a re-cut sound may be off, at most.
    #[arg(long, default_value_t = 10, value_parser = clap::value_parser!(u32).range(1..=1000))]
    recut_limit: u32,
    /// What stands for samples that were lost.
    #[arg(long, value_enum, default_value = "silence")]
    lost: LostArg,
    /// With each picture as it is, in a MOV or an MXF (OP1a), or only linked to it in an OpenTimelineIO document; as
    /// broadcast WAV unless given.
    #[arg(long, value_enum)]
    picture: Option<PictureArg>,
    /// What becomes of a picture's own sound: behind the others and switched off, or left out.
    #[arg(long, value_enum, default_value = "muted")]
    own: OwnArg,
    /// All tracks in one file, or each in its own.
    #[arg(long, value_enum, default_value = "poly")]
    layout: LayoutArg,
    /// Bits a sample, or floats of 32.
    #[arg(long, value_enum, default_value = "24")]
    bits: BitsArg,
    /// What tracks are called: text with {track}, {device}, {channel}, {number}, {picture}, {scene} and {take}; as the
    /// recordings have it unless given.
    #[arg(long, value_parser = pattern, value_name = "PATTERN")]
    track_names: Option<String>,
    /// Tracks that come first, in this order, by the names that the recordings give them.
    #[arg(long, value_delimiter = ',', value_name = "NAMES")]
    first: Vec<String>,
    /// Tracks that are left out.
    #[arg(long, value_delimiter = ',', value_name = "NAMES")]
    leave_out: Vec<String>,
    /// Samples a second; those of the recordings unless given.
    #[arg(long, value_parser = ["48000", "96000"])]
    rate: Option<String>,
    /// Seconds more on both sides.
    #[arg(long, default_value_t = 0.0, value_parser = seconds)]
    handles: f64,
    /// The cameras' own sound too.
    #[arg(long)]
    scratch: bool,
    /// Tracks of a group's file: the recorders', what its grid mixes (what they mixed unless chosen otherwise), or both.
    #[arg(long, value_enum, default_value = "recorded")]
    group_tracks: GroupTracksArg,
    /// Channels that carry timecode too.
    #[arg(long)]
    timecode_channels: bool,
    /// Replace files that are there under the same names.
    #[arg(long)]
    replace: bool,
}

fn pattern(text: &str) -> Result<String, String> {
    match unknown_word(text) {
        Some(word) => {
            Err(format!("{{{word}}} stands for nothing; there are {{{}}}", PATTERN_WORDS.join("}, {")))
        }
        None => Ok(text.to_owned()),
    }
}

fn seconds(text: &str) -> Result<f64, String> {
    let seconds: f64 = text.parse().map_err(|_| format!("{text} is no number of seconds"))?;
    if (0.0..=3600.0).contains(&seconds) { Ok(seconds) } else { Err("0 to 3600 seconds".into()) }
}

impl SoundArgs {
    /// What is asked for of the folders of `sync`.
    pub fn asked(self, sync: SyncPlan) -> SoundAsked {
        let correction = self.correct.map(|own| match own {
            CorrectArg::Resample => Correction::Resample,
            CorrectArg::Recut => Correction::Recut,
            CorrectArg::Leave => Correction::Leave,
        });
        let fill = match self.lost {
            LostArg::Silence => Fill::Silence,
            LostArg::Close => Fill::Close,
        };
        let form = SoundForm {
            container: match self.picture {
                None => Container::Wave,
                Some(PictureArg::Mov) => Container::Mov,
                Some(PictureArg::Mxf) => Container::Mxf,
                Some(PictureArg::Linked) => Container::Linked,
            },
            own: match self.own {
                OwnArg::Muted => OwnSound::Muted,
                OwnArg::Replaced => OwnSound::Replaced,
            },
            layout: match self.layout {
                LayoutArg::Poly => Layout::Poly,
                LayoutArg::Split => Layout::Split,
            },
            depth: match self.bits {
                BitsArg::Pcm24 => Depth::Pcm24,
                BitsArg::Float => Depth::Float32,
            },
            rate: self.rate.and_then(|rate| rate.parse().ok()),
            handles_ms: (self.handles * 1000.0).round() as u32,
            recut_ms: self.recut_limit,
            with_timecode: self.timecode_channels,
            scratch: self.scratch,
            of_groups: match self.group_tracks {
                GroupTracksArg::Recorded => GroupTracks::Recorded,
                GroupTracksArg::Grid => GroupTracks::Grid,
                GroupTracksArg::Both => GroupTracks::Both,
            },
        };
        let keys = |names: &[String]| names.iter().map(|name| TrackKey::named(name)).collect();
        let tracks = TrackChoice {
            pattern: self.track_names.unwrap_or_default(),
            order: keys(&self.first),
            off: keys(&self.leave_out),
        };
        let habit = SoundHabit { form, tracks, all: Handling { correction, fill }, ..SoundHabit::default() };
        let made_for = match self.made_for {
            ForArg::Clips => SoundFor::Clips,
            ForArg::Groups => SoundFor::Groups,
        };
        let order = SoundOrder { habit, made_for, replace: self.replace, ..SoundOrder::default() };
        SoundAsked { sync, out: self.out, order }
    }
}

#[derive(Clone, Copy, ValueEnum)]
enum CodecArg {
    H264,
    H265,
    Av1,
    #[value(name = "vc-3")]
    Vc3,
    #[value(name = "rdd-36")]
    Rdd36,
    Ffv1,
}

impl From<CodecArg> for Codec {
    fn from(own: CodecArg) -> Self {
        match own {
            CodecArg::H264 => Self::H264,
            CodecArg::H265 => Self::H265,
            CodecArg::Av1 => Self::Av1,
            CodecArg::Vc3 => Self::Vc3,
            CodecArg::Rdd36 => Self::Rdd36,
            CodecArg::Ffv1 => Self::Ffv1,
        }
    }
}

#[derive(Clone, Copy, ValueEnum)]
enum WrapperArg {
    Mp4,
    Mov,
    Mxf,
    Atom,
    Mkv,
}

#[derive(Clone, Copy, ValueEnum)]
enum GradeArg {
    Small,
    Good,
    Fine,
    Recorded,
}

#[derive(Clone, Copy, ValueEnum)]
enum HeardArg {
    Mix,
    Tracks,
    Both,
    Silent,
}

#[derive(Clone, Copy, PartialEq, ValueEnum)]
enum BurnArg {
    Name,
    Timecode,
    Scene,
    Notes,
}

/// Which films are made, and how.
#[derive(clap::Args)]
pub struct FilmArgs {
    /// A film of each picture clip, with the recorders' sound, its name and timecode.
    #[arg(long)]
    dailies: bool,
    /// A film of each angle of each group, from the group's first frame to its last.
    #[arg(long)]
    angles: bool,
    /// A film of each group with all angles side by side.
    #[arg(long)]
    wall: bool,
    /// How their pictures are coded.
    #[arg(long, value_enum, default_value = "h264")]
    codec: CodecArg,
    /// What holds them; what is usual for the codec unless given.
    #[arg(long, value_enum)]
    held_by: Option<WrapperArg>,
    /// How much of the pictures is kept; recorded: what nothing is changed of is copied, not coded again.
    #[arg(long, value_enum, default_value = "good")]
    grade: GradeArg,
    /// Rows of pixels; as many as the pictures have unless given.
    #[arg(long)]
    rows: Option<u32>,
    /// What is heard with them.
    #[arg(long, value_enum, default_value = "mix")]
    heard: HeardArg,
    /// What is written into the pictures.
    #[arg(long, value_enum, value_delimiter = ',')]
    burn_in: Vec<BurnArg>,
    /// The day as OpenTimelineIO together with all media that it names, as one file (.otioz).
    #[arg(long)]
    with_media: bool,
    /// The sync report and the pictures of all clips as PDF too, printed by a browser of this machine.
    #[arg(long)]
    pdf: bool,
    /// A viewing LUT in the cube form that all pictures are seen through.
    #[arg(long, value_name = "FILE.cube")]
    lut: Option<PathBuf>,
    /// Replace films, and the day with its media, that are there under the same names.
    #[arg(long)]
    replace: bool,
}

impl FilmArgs {
    /// What is asked for.
    ///
    /// # Errors
    /// In words, why there can be no such films.
    pub fn asked(self) -> Result<FilmsAsked, TurnoverError> {
        let read = |path: &PathBuf| {
            let refused = |why: String| TurnoverError::Films(format!("{}: {why}", path.display()));
            let text = std::fs::read_to_string(path)
                .map_err(|e| refused(format!("cannot be read ({e}); name a LUT in the cube form")))?;
            Lut::parse(&text).map_err(|e| refused(e.to_string()))
        };
        let lut = self.lut.as_ref().map(read).transpose()?;
        let codec: Codec = self.codec.into();
        let usual = codec.wrappers().first().copied().unwrap_or_default();
        let wrapper = self.held_by.map_or(usual, |own| match own {
            WrapperArg::Mp4 => Wrapper::Mp4,
            WrapperArg::Mov => Wrapper::Mov,
            WrapperArg::Mxf => Wrapper::Mxf,
            WrapperArg::Atom => Wrapper::Atom,
            WrapperArg::Mkv => Wrapper::Mkv,
        });
        let has = |own: BurnArg| self.burn_in.contains(&own);
        let form = FilmForm {
            codec,
            wrapper,
            grade: match self.grade {
                GradeArg::Small => Grade::Small,
                GradeArg::Good => Grade::Good,
                GradeArg::Fine => Grade::Fine,
                GradeArg::Recorded => Grade::Recorded,
            },
            height: self.rows,
            sound: match self.heard {
                HeardArg::Mix => FilmSound::Mix,
                HeardArg::Tracks => FilmSound::Tracks,
                HeardArg::Both => FilmSound::Both,
                HeardArg::Silent => FilmSound::Silent,
            },
            burn: BurnIn {
                name: has(BurnArg::Name),
                timecode: has(BurnArg::Timecode),
                scene: has(BurnArg::Scene),
                notes: has(BurnArg::Notes),
            },
            through: lut.is_some(),
        };
        let Self { dailies, angles, wall, with_media, pdf, replace, .. } = self;
        Ok(FilmsAsked { dailies, angles, walls: wall, with_media, pdf, form, replace, lut })
    }
}

/// The user's cache folder (XDG base directories).
fn default_cache() -> PathBuf {
    let home = || std::env::var_os("HOME").map(|home| PathBuf::from(home).join(".cache"));
    std::env::var_os("XDG_CACHE_HOME")
        .map(PathBuf::from)
        .or_else(home)
        .unwrap_or_else(std::env::temp_dir)
        .join("metaxis")
}
