//! The API's types for the page, written by `cargo test`; see `tests/api_types.rs`.

use crate::{
    app::Event,
    error::Refusal,
    routes::{
        EditLine, FolderView, MoveAngle, NameDevice, RenameGroup, SetDevice, SetPart, StartPass, TakeIn,
        Versioned,
    },
};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, PictureFacts, SoundFacts},
    group::{Angle, Group, Part as GroupPart},
    line::{Line, LineEdit, Switch},
    signal::ChannelState,
    sync::{Alternative, Evidence, EvidenceKind, Placement, Residual, Stretch, Verdict},
    time::{FrameRate, SampleRate, Tick, Timecode},
};
use metaxis_store::{
    ClipView, CutCounts, DayView, DeviceView, GroupSummary, GroupView, JobKind, JobSummary, NoteView, Part,
    PassView, PlacementView, Production,
};
use ts_rs::{Config, TS};

/// All declarations as one TypeScript module.
pub fn typescript() -> String {
    let config = Config::default();
    let mut text = String::from("// Generated from the server's types. Do not edit: run `make types`.\n\n");
    macro_rules! declare {
        ($($kind:ty),* $(,)?) => { $( text += &format!("export {}\n\n", <$kind as TS>::decl(&config)); )* };
    }
    declare!(
        ClipId,
        DeviceId,
        FrameRate,
        SampleRate,
        Tick,
        Timecode,
        PictureFacts,
        SoundFacts,
        ClipFacts,
        ChannelState,
        Verdict,
        Stretch,
        EvidenceKind,
        Evidence,
        Alternative,
        Residual,
        Placement,
        GroupPart,
        Angle,
        Group,
        Switch,
        Line,
        LineEdit,
        Production,
        Part,
        DeviceView,
        ClipView,
        NoteView,
        PassView,
        PlacementView,
        GroupSummary,
        GroupView,
        CutCounts,
        JobKind,
        JobSummary,
        DayView,
        Event,
        Refusal,
        EditLine,
        FolderView,
        MoveAngle,
        NameDevice,
        RenameGroup,
        SetDevice,
        SetPart,
        StartPass,
        TakeIn,
        Versioned,
    );
    text
}
