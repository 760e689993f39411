//! The API's types for the page, written by `cargo test`; see `tests/api_types.rs`.

use crate::{
    app::{ArrivingClip, Event},
    error::Refusal,
    routes::{
        Arrived, EditLine, FolderView, MoveAngle, NewDevice, PeaksView, RenameGroup, StartPass, StorageView,
        TakeIn, Turned, Versioned, Want,
    },
};
use metaxis_core::{
    clip::{ClipFacts, ClipId, DeviceId, FrameTiming, PictureFacts, SoundFacts, SoundStream, SpeedLabels},
    group::{Angle, Group, Part as GroupPart},
    intake::{HealthKind, HealthNote, LogColumn, LogPreview, SlateLog, SlateRow, Weight},
    line::{Line, LineEdit, Switch},
    ltc::LtcFound,
    signal::ChannelState,
    sync::{Alternative, Evidence, EvidenceKind, Mode, Placement, Residual, Search, Stretch, Verdict},
    time::{FrameRate, SampleRate, Tick, Timecode},
};
use metaxis_store::{
    ClipDetail, ClipJob, ClipView, CutCounts, DayView, DeviceView, GroupSummary, GroupView, HealthView,
    IntakeChange, JobKind, JobSummary, Near, NoteView, Part, PassPlan, PassView, PlacementView, Production,
    SlateSource, SpanView, StoredLog,
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
        SoundStream,
        SoundFacts,
        SpeedLabels,
        FrameTiming,
        ClipFacts,
        LtcFound,
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
        LogColumn,
        SlateRow,
        SlateLog,
        LogPreview,
        StoredLog,
        Weight,
        HealthKind,
        HealthNote,
        HealthView,
        SpanView,
        SlateSource,
        IntakeChange,
        ClipDetail,
        DeviceView,
        ClipView,
        NoteView,
        PassView,
        PlacementView,
        GroupSummary,
        GroupView,
        CutCounts,
        Mode,
        Search,
        Near,
        PassPlan,
        JobKind,
        ClipJob,
        JobSummary,
        DayView,
        ArrivingClip,
        Event,
        Refusal,
        Arrived,
        EditLine,
        FolderView,
        MoveAngle,
        NewDevice,
        PeaksView,
        RenameGroup,
        StartPass,
        StorageView,
        TakeIn,
        Turned,
        Versioned,
        Want,
    );
    text
}
