//! Words as pixels.

use noto_sans_mono_bitmap::{FontWeight, RasterHeight, get_raster, get_raster_width};
use std::collections::HashMap;

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

impl Letters {
    /// A word with letters of so many rows, or of fewer where it would be wider than `most`. A letter that has no picture is a box.
    pub fn word(&mut self, text: &str, rows: usize, most: usize) -> Word {
        let (wide, high) = (get_raster_width(FontWeight::Regular, DRAWN), DRAWN.val());
        let count = text.chars().count().max(1);
        let fits = most * high / (wide * count);
        let rows = rows.min(fits).max(7);
        let letter = (wide * rows).div_ceil(high);
        let mut own = Word { width: letter * count, height: rows, ink: vec![0; letter * count * rows] };
        for (number, sign) in text.chars().enumerate() {
            let ink = self.0.entry((sign, rows)).or_insert_with(|| drawn(sign, (letter, rows)));
            for (to, from) in own.ink.chunks_exact_mut(letter * count).zip(ink.chunks_exact(letter)) {
                to[number * letter..(number + 1) * letter].copy_from_slice(from);
            }
        }
        own
    }
}

/// A letter in so many pixels: in each the mean of what falls into it.
fn drawn(sign: char, (width, height): (usize, usize)) -> Vec<u8> {
    let (wide, high) = (get_raster_width(FontWeight::Regular, DRAWN), DRAWN.val());
    let drawn = get_raster(sign, FontWeight::Regular, DRAWN);
    let ink = |x: usize, y: usize| match &drawn {
        Some(drawn) => drawn.pixel(x, y).unwrap_or(0),
        None => {
            let is_edge = x == 2 || x + 3 == wide || y == 6 || y + 7 == high;
            let is_inside = (2..wide - 2).contains(&x) && (6..high - 6).contains(&y);
            if is_edge && is_inside { 255 } else { 0 }
        }
    };
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
