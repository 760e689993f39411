//! The API. Every route is thin; see the modules for what each does.

mod assemblies;
mod bench;
mod clips;
mod day;
mod edits;
mod events;
mod films;
mod grid;
mod groups;
mod heard;
mod intake;
mod lines;
mod luts;
mod marks;
mod media;
mod sound;
mod storage;
mod turnover;
mod upload;

use crate::{App, error::ApiError, work};
use axum::{
    Router,
    extract::DefaultBodyLimit,
    http::StatusCode,
    routing::{get, patch, post},
};
use std::sync::Arc;

pub use assemblies::{EditAssembly, MakeAssembly, PutAside, TurnAssembly};
pub use bench::{Declare, DriftView, LookAt};
pub use clips::{PeaksView, Want};
pub use day::{SomeClips, StartPass};
pub use edits::Turned;
pub use films::{CodecView, FilmStep, FilmView, FilmsOrdered, FilmsView};
pub use grid::{GridSource, GridStep, GridView};
pub use groups::{AcceptGroups, EditGroups, EditLine, GroupsMade, MergeGroups, Versioned};
pub use heard::HeardView;
pub use intake::{FolderView, NewDevice, TakeIn};
pub use lines::{GoBack, NameLine};
pub use marks::{ByHand, ChangeBreak, ClapView, NamePass, SetAside};
pub use sound::{EditSound, SoundFileView, SoundView, Without, WriteSound};
pub use storage::StorageView;
pub use turnover::{BundleView, PrinterView};

/// All routes below `/api`.
pub fn routes() -> Router<Arc<App>> {
    Router::new()
        .route("/day", get(day::day))
        .route("/pass", get(day::shown))
        .route("/jobs", get(day::jobs))
        .route("/clips", get(day::some))
        .route("/clips/{id}/needle", get(bench::needle_at))
        .route("/clips/{id}/points", get(bench::points))
        .route("/clips/{id}/drift", get(bench::drift))
        .route("/looks", post(bench::look))
        .route("/looks/edits/{way}", post(edits::round))
        .route("/checked", post(bench::declare))
        .route("/production", patch(day::name_production))
        .route("/passes", post(day::start_pass))
        .route("/passes/{id}", patch(marks::name_pass))
        .route("/passes/{id}/edits/{way}", post(edits::pass))
        .route("/shown/edits/{way}", post(edits::shown))
        .route("/passes/{id}/show", post(day::show_pass))
        .route("/passes/{id}/changes/{to}", get(marks::changes))
        .route("/placements/hand", post(marks::by_hand))
        .route("/placements/breaks", post(marks::change_break))
        .route("/placements/aside", post(marks::aside))
        .route("/jobs/{kind}/stop", post(day::stop_jobs))
        .route("/jobs/{kind}/resume", post(day::resume_jobs))
        .route("/folders", get(intake::folders))
        .route("/intake", post(intake::take_in))
        // A slate log comes with its edit.
        .route("/intake/edits", post(intake::edit).layer(DefaultBodyLimit::max(16 << 20)))
        .route("/intake/device", post(intake::new_device))
        .route("/intake/edits/{way}", post(edits::intake))
        .route("/intake/relink", post(intake::relink))
        .route("/intake/log", post(intake::preview_log).layer(DefaultBodyLimit::max(16 << 20)))
        .route("/uploads", get(upload::state).put(upload::piece))
        .route("/uploads/done", post(upload::done))
        .route("/sound", get(sound::sound))
        .route("/sound/edits", post(sound::edit))
        .route("/sound/edits/{way}", post(edits::sound))
        .route("/sound/write", post(sound::write))
        .route("/films", get(films::films).post(films::order))
        .route("/films/done/forget", post(films::forget_done))
        .route("/films/{id}/file", get(films::file))
        .route("/films/{id}/{step}", post(films::step))
        .route("/clips/{id}/heard", get(heard::of_clip))
        .route("/groups/{id}/heard", get(heard::of_group))
        .route("/groups/{id}/grid", get(grid::grid).post(grid::change))
        .route("/heard/{name}", get(heard::piece))
        .route("/storage", get(storage::storage))
        .route("/storage/clear", post(storage::clear))
        .route("/clips/want", post(clips::want))
        .route("/clips/{id}", get(clips::detail))
        .route("/clips/{id}/again", post(clips::again))
        .route("/clips/{id}/claps", get(marks::claps))
        .route("/clips/{id}/seen", get(marks::seen))
        .route("/clips/{id}/samples", get(marks::samples))
        .route("/clips/{id}/peaks", get(clips::peaks))
        .route("/groups/edits", post(groups::shape))
        .route("/groups/edits/{way}", post(edits::groups))
        .route("/groups/merge", post(groups::merge))
        .route("/groups/proposed", post(groups::proposed))
        .route("/groups/accept", post(groups::accept))
        .route("/groups/names", post(groups::names))
        .route("/groups/{id}", get(groups::group))
        .route("/groups/{id}/quiet", get(groups::quiet_passages))
        .route("/groups/{id}/lines", get(lines::kept).post(lines::keep))
        .route("/groups/{id}/lines/read", post(lines::read).layer(DefaultBodyLimit::max(work::LARGEST)))
        .route("/groups/{id}/lines/{line}", patch(lines::rename).post(lines::go_back))
        .route("/groups/{id}/first-cut", get(lines::first_cut).post(lines::make_first_cut))
        .route("/groups/{id}/music-cut", post(lines::make_music_cut))
        .route("/groups/{id}/beside", get(groups::beside))
        .route("/groups/{id}/take-in", post(groups::take_clip_in))
        .route("/groups/{id}/nudge", post(groups::nudge_clip))
        .route("/groups/{id}/moved", get(groups::moved))
        .route("/groups/{id}/relay", post(groups::relay_clips))
        .route("/groups/{id}/format", post(groups::format))
        .route("/groups/{id}/line", post(groups::edit))
        .route("/groups/{id}/line/undo", post(groups::undo))
        .route("/groups/{id}/line/redo", post(groups::redo))
        .route("/groups/{id}/balance", get(luts::balance))
        .route("/assemblies", get(assemblies::all).post(assemblies::make))
        .route("/assemblies/{id}", get(assemblies::one).post(assemblies::edit))
        .route("/assemblies/{id}/turn", post(assemblies::turn))
        .route("/assemblies/{id}/aside", post(assemblies::aside))
        .route("/assemblies/{id}/heard/{part}", get(assemblies::heard))
        .route("/assemblies/{id}/turnover/{document}", get(turnover::assembly))
        .route("/luts", get(luts::luts).post(luts::bring).layer(DefaultBodyLimit::max(luts::LARGEST)))
        .route("/luts/{name}", get(luts::one))
        .route("/groups/{id}/levels", get(media::group_levels))
        .route("/groups/{id}/turnover/{document}", get(turnover::document))
        .route("/turnover/printer", get(turnover::printer))
        .route("/turnover/{document}", get(turnover::of_day))
        .route("/clips/{id}/levels", get(media::clip_levels))
        .route("/clips/{id}/proxy.mp4", get(media::proxy))
        .route("/clips/{id}/small.mp4", get(media::small))
        .route("/clips/{id}/playback.wav", get(media::playback))
        .route("/clips/{id}/thumbnail.jpg", get(media::thumbnail))
        .route("/events", get(events::events))
        .fallback(async || ApiError::NotFound("there is nothing at this address".into()))
        .method_not_allowed_fallback(async || {
            ApiError::Malformed(
                StatusCode::METHOD_NOT_ALLOWED,
                "this address is not asked in this way".into(),
            )
        })
}
