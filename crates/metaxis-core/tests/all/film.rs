//! What is seen at every frame of a film, and what is written into it.

use crate::common::a_group;
use metaxis_core::{
    clip::{ClipFacts, ClipId},
    film::{BurnIn, Caption, Codec, Corner, Film, FilmForm, Lane, Named, Run, Seen, Wrapper},
    group::AngleId,
    line::{Layer, Line, LineEdit, Speed},
    time::{FrameRate, Timecode},
};
use proptest::{collection::vec, prelude::*};
use strum::IntoEnumIterator;

const A: AngleId = AngleId(1);
const B: AngleId = AngleId(2);

fn facts_of<'a>(facts: &'a [ClipFacts]) -> impl Fn(ClipId) -> Option<&'a ClipFacts> {
    |clip| facts.get(clip.0 as usize)
}

/// A film of a line with a cut at 120 that dissolves over 10 frames, and a clip of 50 fps slowed over frames 200 to 239.
fn film() -> (Film, Line) {
    let (facts, group) = a_group();
    let mut line = Line::new(group.frames, A);
    line.apply(&LineEdit::take(120, B)).expect("a take");
    line.apply(&LineEdit::Dissolve { index: 1, frames: 10 }).expect("a dissolve");
    let layer = Layer {
        at: 200,
        frames: 40,
        clip: ClipId(2),
        from: 30,
        skip: 0,
        speed: Speed::new(1, 4).expect("a speed"),
        blended: true,
        own_sound: false,
    };
    line.apply(&LineEdit::Lay { layer }).expect("a layer");
    (Film::of_line(group, line.clone(), facts_of(&facts)), line)
}

fn shown(film: &Film, frame: i64) -> Vec<(i64, i64, f64)> {
    let number = |clip: ClipId, at_s: f64| {
        (at_s * film.picture(clip).expect("a picture").rate.as_f64()).floor() as i64
    };
    film.seen(frame).iter().map(|own| (own.clip.0, number(own.clip, own.at_s), own.share)).collect()
}

#[test]
fn a_frame_of_a_line_is_what_is_on_air_in_its_middle() {
    let (film, _) = film();
    let (_, group) = a_group();
    for frame in [50, 90, 119, 130, 180, 345] {
        let angle = if frame < 120 { A } else { B };
        let part = group.part_at(angle, frame).expect("a part");
        assert_eq!(shown(&film, frame), [(part.clip.0, group.clip_frame(part, frame), 1.0)], "{frame}");
    }
    // Where the angle does not run yet it is black.
    assert_eq!(film.seen(30), []);
    // In the middle of a dissolve half of each; both go on.
    let both = film.seen(124);
    assert_eq!(
        both.iter().map(|own| (own.lane, own.share)).collect::<Vec<_>>(),
        [(Lane::Angle(A), 1.0), (Lane::Angle(B), 0.45)]
    );
}

#[test]
fn a_slowed_layer_is_made_of_two_neighbours_and_moves_nothing_behind_it() {
    let (film, line) = film();
    // 1/4 of the pace of a clip of 50 in 25: half a frame a frame.
    let first = shown(&film, 200);
    assert_eq!(first.len(), 2, "{first:?}");
    let at = |frame: i64| {
        let own = shown(&film, frame);
        own[0].1 as f64 + own.get(1).map_or(0.0, |own| own.2)
    };
    for frame in 201..240 {
        assert!((at(frame) - at(frame - 1) - 0.5).abs() < 1e-9, "{frame}: {} {}", at(frame), at(frame - 1));
    }
    assert!(film.seen(205).iter().all(|own| own.lane == Lane::Layer(0)));
    let (facts, group) = a_group();
    let bare = Film::of_line(group, line.bare(), facts_of(&facts));
    assert_eq!(film.seen(240), bare.seen(240));
}

#[test]
fn a_run_is_one_clips_own_frames_one_after_the_other_and_nothing_else() {
    let (facts, group) = a_group();
    let (film, line) = film();
    // The other camera has more frames a second.
    let runs = film.runs();
    assert!(!runs.is_empty());
    for run in &runs {
        assert_eq!(run.of.clip, ClipId(1));
        for frame in run.from..run.to {
            assert_eq!(shown(&film, frame), [(1, run.first + frame - run.from, 1.0)], "{frame}");
        }
    }
    assert!(runs.windows(2).all(|pair| pair[0].to <= pair[1].from));
    // All that A shows alone, and is there: up to where B begins to come.
    assert_eq!((runs[0].from, runs[0].first), (50, 0));
    assert_eq!(runs.iter().map(Run::frames).sum::<i64>(), (50..120).count() as i64);
    // Angles side by side are none of them; one alone is.
    let wall = |angles: &[AngleId]| Film::of_wall(group.clone(), angles.to_vec(), facts_of(&facts)).runs();
    assert_eq!(wall(&[A, B]), []);
    assert_eq!(wall(&[A]).iter().map(Run::frames).sum::<i64>(), 500);
    // A clock that loses a frame is cut there: no frame is left out or shown twice.
    let mut slow = group.clone();
    let part = &mut slow.angles.iter_mut().find(|own| own.id == A).expect("an angle").parts[0];
    part.stretch.rate_ppm = 2_500.0;
    let cut = Film::of_wall(slow.clone(), vec![A], facts_of(&facts)).runs();
    assert_eq!(cut.len(), 2, "{cut:?}");
    assert!(cut[0].to == cut[1].from && cut[1].first != cut[0].first + cut[0].frames(), "{cut:?}");
    assert_eq!(Film::of_line(group, line, facts_of(&facts)).runs(), runs);
}

proptest! {
    /// Films one behind another are each other's frames in their order, whatever pieces they are cut to, and a run ends with its piece.
    #[test]
    fn parts_show_what_their_films_do(pieces in vec((0..600_i64, 1..200_i64), 1..6), probe in 0..1_200_i64) {
        let (whole, _) = film();
        let start = Timecode::hour(1, FrameRate::FPS_25, false);
        let range = |(from, length): (i64, i64)| (from.min(whole.frames - 1), (from + length).min(whole.frames));
        let ranges: Vec<(i64, i64)> = pieces.into_iter().map(range).collect();
        let film = Film::of_parts(ranges.iter().map(|own| (whole.clone(), *own)).collect(), start);
        let frames: Vec<i64> = ranges.iter().flat_map(|(from, to)| *from..*to).collect();
        prop_assert_eq!(film.frames, frames.len() as i64);
        prop_assert_eq!(film.size, whole.size);
        let at = probe % film.frames;
        let same = |own: &[Seen]| own.iter().map(|own| (own.clip, own.at_s, own.share)).collect::<Vec<_>>();
        prop_assert_eq!(same(&film.seen(at)), same(&whole.seen(frames[at as usize])));
        // One part after the other, none left out.
        let part = |at: i64| film.seen(at).first().map(|own| own.part);
        let mut ends = 0;
        for (number, (from, to)) in ranges.iter().enumerate() {
            let own = ends..ends + to - from;
            prop_assert!(own.clone().filter_map(part).all(|own| own == number));
            ends = own.end;
        }
        prop_assert_eq!(film.seen(film.frames), []);
        let is_within = |run: &Run| part(run.from) == part(run.to - 1);
        prop_assert!(film.runs().iter().all(is_within));
    }
}

#[test]
fn a_clip_by_itself_is_every_one_of_its_frames() {
    let (facts, _) = a_group();
    let film = Film::of_clip(ClipId(1), &facts[1]).expect("a film");
    assert_eq!((film.frames, film.rate), (500, FrameRate::FPS_25));
    let all: Vec<i64> = (0..film.frames).map(|frame| shown(&film, frame)[0].1).collect();
    assert_eq!(all, (0..500).collect::<Vec<_>>());
    assert!(Film::of_clip(ClipId(0), &facts[0]).is_none(), "sound has no pictures");
}

#[test]
fn fields_cover_the_picture_and_do_not_overlap() {
    let (facts, group) = a_group();
    for count in 1..=16 {
        let angles = vec![A; count];
        let film = Film::of_wall(group.clone(), angles, facts_of(&facts));
        for size in [(1920, 1080), (1278, 718), (640, 362)] {
            let fields = film.fields(size);
            assert_eq!(fields.len(), count);
            for (number, own) in fields.iter().enumerate() {
                assert!(own.x + own.width <= size.0 && own.y + own.height <= size.1, "{own:?} of {size:?}");
                assert!([own.x, own.y, own.width, own.height].iter().all(|own| own % 2 == 0), "{own:?}");
                let apart = |other: &metaxis_core::film::Field| {
                    own.x + own.width <= other.x
                        || other.x + other.width <= own.x
                        || own.y + own.height <= other.y
                        || other.y + other.height <= own.y
                };
                assert!(fields[number + 1..].iter().all(apart));
            }
        }
    }
}

#[test]
fn labels_in_a_picture_are_those_of_its_frame() {
    let (film, _) = film();
    let label = Timecode::parse("09:14:02:00", FrameRate::FPS_25).expect("a label");
    let own = Named {
        name: "A001.mov".into(),
        timecode: Some(label),
        scene: "1 / 1".into(),
        notes: format!("a note  of two lines\n{}", "that is long ".repeat(9)),
    };
    let all = BurnIn { name: true, timecode: true, scene: true, notes: true };
    let captions = |frame: i64, burn: BurnIn| {
        film.captions(frame, &film.seen(frame), burn, |clip| (clip == ClipId(1)).then_some(&own))
    };
    let said = |all: &[Caption], corner: Corner| {
        all.iter().filter(|own| own.corner == corner).map(|own| own.text.clone()).collect::<Vec<_>>()
    };
    // The clip began two seconds after the group; its frame is named, not the group's.
    assert_eq!(said(&captions(0, all), Corner::LowerRight), ["REC 09:14:00:00"]);
    let later = captions(60, all);
    let frame = shown(&film, 60)[0].1;
    assert_eq!(frame, 10);
    assert_eq!(said(&later, Corner::LowerRight), ["09:14:02:10"]);
    assert_eq!(said(&later, Corner::LowerLeft), ["A001.mov"]);
    assert_eq!(said(&later, Corner::UpperLeft), ["1 / 1"]);
    let notes = said(&later, Corner::UpperRight);
    assert!(notes[0].starts_with("a note of two lines that is long") && notes[0].ends_with('…'), "{notes:?}");
    assert!(captions(60, BurnIn::default()).is_empty());
    // Of a clip that nobody knows, and of black, nothing is said but the film's own label.
    assert_eq!(captions(300, BurnIn { name: true, ..BurnIn::default() }), []);
}

#[test]
fn forms_that_nothing_can_be_made_in_are_refused() {
    for codec in Codec::iter() {
        for wrapper in Wrapper::iter() {
            let form = FilmForm { codec, wrapper, ..FilmForm::default() };
            assert_eq!(form.check().is_ok(), codec.wrappers().contains(&wrapper), "{codec:?} {wrapper:?}");
        }
        assert!(!codec.wrappers().is_empty());
    }
    for height in [0, 89, 4321, u32::MAX] {
        assert!(FilmForm { height: Some(height), ..FilmForm::default() }.check().is_err());
    }
    // However a picture is said to be, a film of it has a size that can be coded.
    for size in [(0, 0), (1, u32::MAX), (u32::MAX, 1), (7, 7)] {
        let (width, height) = FilmForm::default().size(size);
        assert!(
            width % 2 == 0
                && height % 2 == 0
                && (16..=16_384).contains(&width)
                && (16..=16_384).contains(&height)
        );
    }
}
