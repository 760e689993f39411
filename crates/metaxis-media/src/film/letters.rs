//! Words as pixels.

use noto_sans_mono_bitmap::{FontWeight, RasterHeight, get_raster, get_raster_width};

/// A word: how much ink is in each of its pixels, row after row.
pub(super) struct Word {
    pub width: usize,
    pub height: usize,
    pub ink: Vec<u8>,
}

/// The largest letters there are; they are made as large or small as is asked for.
const DRAWN: RasterHeight = RasterHeight::Size32;

/// A word with letters of so many rows, or of fewer where it would be wider than `most`. A letter that has no picture is a box.
pub(super) fn word(text: &str, rows: usize, most: usize) -> Word {
    let (wide, high) = (get_raster_width(FontWeight::Regular, DRAWN), DRAWN.val());
    let count = text.chars().count().max(1);
    let fits = most * high / (wide * count);
    let rows = rows.min(fits).max(7);
    let letter = (wide * rows).div_ceil(high);
    let mut own = Word { width: letter * count, height: rows, ink: vec![0; letter * count * rows] };
    for (number, sign) in text.chars().enumerate() {
        let drawn = get_raster(sign, FontWeight::Regular, DRAWN);
        let ink = |x: usize, y: usize| match &drawn {
            Some(drawn) => drawn.pixel(x, y).unwrap_or(0),
            None => {
                let is_edge = x == 2 || x + 3 == wide || y == 6 || y + 7 == high;
                let is_inside = (2..wide - 2).contains(&x) && (6..high - 6).contains(&y);
                if is_edge && is_inside { 255 } else { 0 }
            }
        };
        for y in 0..rows {
            for x in 0..letter {
                // The mean of what falls into the pixel.
                let range = |at: usize, of: usize, all: usize| {
                    let from = at * all / of;
                    from..((at + 1) * all / of).max(from + 1).min(all)
                };
                let (across, down) = (range(x, letter, wide), range(y, rows, high));
                let area = across.len() * down.len();
                let all: usize = down
                    .flat_map(|y| across.clone().map(move |x| (x, y)))
                    .map(|(x, y)| usize::from(ink(x, y)))
                    .sum();
                own.ink[y * own.width + number * letter + x] = (all / area.max(1)) as u8;
            }
        }
    }
    own
}
