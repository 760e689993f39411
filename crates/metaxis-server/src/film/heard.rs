//! What is heard in a film.

use super::wanted::Wanted;
use crate::{
    sound::{Grouped, RowPart, SoundFile, SoundRow},
    turnover::DayTurnover,
};
use metaxis_core::{
    film::{Film, FilmSound, Passage, Programme},
    sound::{Container, Depth, GroupTracks, names_its_own},
    time::Tick,
    turnover::AssembledPart,
};
use metaxis_store::SoundOrder;

/// Samples a second in films.
const RATE: u32 = 48_000;

/// The sound of a film: of groups and lines by the grid or track by track, as `how` says; nothing where nothing is heard.
pub(super) fn sound_of(day: &DayTurnover, wanted: Wanted, how: FilmSound, film: &Film) -> Option<SoundRow> {
    let mut order = order(day, how);
    if matches!(wanted, Wanted::Assembly(_)) && names_its_own(&order.habit.tracks.pattern) {
        // A microphone is one track of all of it.
        order.habit.tracks.pattern.clear();
    }
    let of_group = |grouped: Grouped| day.sound.for_groups(&[grouped], &order).files.into_iter().next();
    let file = match wanted {
        Wanted::Line(own) => of_group(Grouped::whole(own.group.clone(), own.line.clone())),
        Wanted::Wall(own) | Wanted::Angle(own, _) => of_group(own.group.clone().into()),
        Wanted::Clip(clip) => day.sound.for_film(clip, &order).ok(),
        Wanted::Assembly(own) => {
            let (_, parts) = own.programme.as_ref().ok()?;
            let Programme::Parts(passages) = &film.programme else { return None };
            let rate = film.rate;
            let sample = |frame| Tick::of_frame(frame, rate).sample(RATE);
            let one = |(part, passage): (&AssembledPart, &Passage)| RowPart {
                samples: sample(passage.at + passage.frames()) - sample(passage.at),
                file: of_part(part).and_then(of_group),
            };
            return SoundRow::new(parts.iter().zip(passages).map(one).collect());
        }
    };
    let file = file?;
    SoundRow::new(vec![RowPart { samples: file.samples(), file: Some(file) }])
}

/// The own sound of a part of an assembly, where it is a clip that is heard.
pub fn sound_of_part(day: &DayTurnover, part: &AssembledPart) -> Option<SoundFile> {
    day.sound.for_groups(&[of_part(part)?], &order(day, FilmSound::Mix)).files.into_iter().next()
}

fn of_part(part: &AssembledPart) -> Option<Grouped> {
    let own =
        || Grouped { range: Some(part.range), ..Grouped::whole(part.group.clone(), Some(part.line.clone())) };
    (!part.is_gap).then(own)
}

fn order(day: &DayTurnover, how: FilmSound) -> SoundOrder {
    let mut order = SoundOrder { habit: day.sources.habit.clone().together(), ..SoundOrder::default() };
    let form = &mut order.habit.form;
    form.container = Container::Wave;
    form.depth = Depth::Pcm24;
    form.rate = Some(RATE);
    form.of_groups = match how {
        FilmSound::Tracks | FilmSound::Silent => GroupTracks::Recorded,
        FilmSound::Mix => GroupTracks::Grid,
        FilmSound::Both => GroupTracks::Both,
    };
    order
}
