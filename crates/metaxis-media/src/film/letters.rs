//! Words as pixels.

use ar_reshaper::reshape_line;
use noto_sans_mono_bitmap::{FontWeight, RasterHeight, RasterizedChar, get_raster, get_raster_width};
use std::{borrow::Cow, collections::HashMap};
use unicode_bidi::{BidiClass, BidiInfo, bidi_class};
use unifont::{Glyph, get_glyph};

/// A word: how much ink is in each of its pixels, row after row.
pub(super) struct Word {
    pub width: usize,
    pub height: usize,
    pub ink: Vec<u8>,
}

/// The largest letters there are; they are made as large or small as is asked for.
const DRAWN: RasterHeight = RasterHeight::Size32;

/// Letters as they were made: a timecode has the same ten in every frame.
#[derive(Default)]
pub(super) struct Letters(HashMap<(char, usize), Vec<u8>>);

/// Where a letter's picture comes from.
enum Drawn {
    /// The letters that most names and all timecodes have.
    Fine(RasterizedChar),
    /// All others, coarser.
    Coarse(&'static Glyph),
    /// A box.
    Unknown,
}

impl Drawn {
    fn of(sign: char) -> Self {
        let fine = get_raster(sign, FontWeight::Regular, DRAWN).map(Self::Fine);
        fine.or_else(|| get_glyph(sign).map(Self::Coarse)).unwrap_or(Self::Unknown)
    }

    /// How many places it takes in its row.
    fn places(&self) -> usize {
        if matches!(self, Self::Coarse(own) if own.is_fullwidth()) { 2 } else { 1 }
    }

    /// The ink at a pixel of its picture of `wide` by `high`.
    fn ink(&self, (x, y): (usize, usize), (wide, high): (usize, usize)) -> u8 {
        match self {
            Self::Fine(own) => own.pixel(x, y).unwrap_or(0),
            Self::Coarse(own) => {
                let is_inked = own.get_pixel(x * own.get_width() / wide, y * COARSE / high);
                if is_inked { 255 } else { 0 }
            }
            Self::Unknown => {
                let is_edge = x == 2 || x + 3 == wide || y == 6 || y + 7 == high;
                let is_inside = (2..wide - 2).contains(&x) && (6..high - 6).contains(&y);
                if is_edge && is_inside { 255 } else { 0 }
            }
        }
    }
}

/// Rows of a coarse letter.
const COARSE: usize = 16;

impl Letters {
    /// A word with letters of so many rows, or of fewer where it would be wider than `most`. A letter that has no picture is a box.
    pub fn word(&mut self, text: &str, rows: usize, most: usize) -> Word {
        let (wide, high) = (get_raster_width(FontWeight::Regular, DRAWN), DRAWN.val());
        let text = as_it_stands(text);
        let signs: Vec<(char, usize)> = text.chars().map(|own| (own, Drawn::of(own).places())).collect();
        let count = signs.iter().map(|(_, places)| places).sum::<usize>().max(1);
        let fits = most * high / (wide * count);
        let rows = rows.min(fits).max(7);
        let letter = (wide * rows).div_ceil(high);
        let mut own = Word { width: letter * count, height: rows, ink: vec![0; letter * count * rows] };
        let mut at = 0;
        for (sign, places) in signs {
            let width = places * letter;
            let ink = self.0.entry((sign, rows)).or_insert_with(|| drawn(sign, (width, rows)));
            for (to, from) in own.ink.chunks_exact_mut(letter * count).zip(ink.chunks_exact(width)) {
                to[at..at + width].copy_from_slice(from);
            }
            at += width;
        }
        own
    }
}

/// The letters of a line in the order in which they stand from the left: scripts that are written from the right run the other way
/// (Unicode Standard Annex 9), and their letters join where they do.
fn as_it_stands(text: &str) -> Cow<'_, str> {
    if !text.chars().any(|own| matches!(bidi_class(own), BidiClass::R | BidiClass::AL)) {
        return Cow::Borrowed(text);
    }
    let joined = reshape_line(text);
    let all = BidiInfo::new(&joined, None);
    Cow::Owned(all.paragraphs.iter().map(|own| all.reorder_line(own, own.range.clone())).collect())
}

/// A letter in so many pixels: in each the mean of what falls into it.
fn drawn(sign: char, (width, height): (usize, usize)) -> Vec<u8> {
    let drawn = Drawn::of(sign);
    let (wide, high) = (drawn.places() * get_raster_width(FontWeight::Regular, DRAWN), DRAWN.val());
    let ink = |x: usize, y: usize| drawn.ink((x, y), (wide, high));
    let range = |at: usize, of: usize, all: usize| {
        let from = at * all / of;
        from..((at + 1) * all / of).max(from + 1).min(all)
    };
    let mean = |at: usize| {
        let (across, down) = (range(at % width, width, wide), range(at / width, height, high));
        let area = across.len() * down.len();
        let all: usize =
            down.flat_map(|y| across.clone().map(move |x| (x, y))).map(|(x, y)| usize::from(ink(x, y))).sum();
        (all / area.max(1)) as u8
    };
    (0..width * height).map(mean).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Letters of a word that have the same picture as the one that stands for what has none.
    fn boxes(text: &str) -> usize {
        let mut letters = Letters::default();
        let unknown = letters.word("\u{f0000}", 32, 10_000).ink;
        text.chars().filter(|own| letters.word(&own.to_string(), 32, 10_000).ink == unknown).count()
    }

    #[test]
    fn names_of_any_script_are_written() {
        for name in ["Größe 1", "Łódź", "Αθήνα", "Москва", "東京 一", "서울", "תל", "مشهد", "กรุง"]
        {
            assert_eq!(boxes(name), 0, "{name}");
        }
        assert_eq!(boxes("a\u{f0000}"), 1, "what has no picture is a box");
    }

    #[test]
    fn scripts_that_are_written_from_the_right_run_the_other_way_and_join() {
        assert_eq!(as_it_stands("Größe 1"), "Größe 1");
        // What is written from the left, and numbers, go on as they do.
        assert_eq!(as_it_stands("אבג 12 A001.mov"), "A001.mov 12 גבא");
        assert_eq!(as_it_stands("A001 אבג"), "A001 גבא");
        // The first, the middle and the last form, from the right: U+FEB3, U+FEE0, U+FE8E, U+FEE1.
        let joined = as_it_stands("سلام");
        assert!(joined.starts_with('\u{fee1}') && joined.ends_with('\u{feb3}'), "{joined:?}");
        assert_eq!(boxes(&joined), 0);
    }

    #[test]
    fn wide_letters_take_two_places_and_a_word_no_more_than_there_is() {
        let mut letters = Letters::default();
        let [narrow, wide] = ["ab", "東京"].map(|own| letters.word(own, 32, 10_000));
        assert_eq!((wide.width, wide.height), (2 * narrow.width, narrow.height));
        assert!(wide.ink.chunks_exact(wide.width).any(|row| row[narrow.width..].iter().any(|own| *own > 0)));
        let narrowed = letters.word("東京東京東京", 32, 120);
        assert!(narrowed.width <= 120 && narrowed.height < 32, "{} wide", narrowed.width);
    }
}
