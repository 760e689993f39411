//! A frame's number, drawn so that a program can read it back from a picture of any size.

use tiny_skia::{Color, Paint, Pixmap, Rect, Transform};

/// Bits of the number.
pub const CODE_BITS: usize = 16;

/// Place of the strip in shares of the picture's width and height: one white cell, the number from its
/// highest bit, one cell of even parity.
pub struct CodeStrip;

impl CodeStrip {
    /// Left edge.
    pub const LEFT: f32 = 0.025;
    /// Width of a cell.
    pub const CELL: f32 = 0.025;
    /// Top edge.
    pub const TOP: f32 = 0.935;
    /// Height.
    pub const HEIGHT: f32 = 0.045;
    /// Number of cells.
    pub const CELLS: usize = CODE_BITS + 2;

    /// Whether each cell is white for `number` (its low 16 bits).
    pub fn cells(number: u64) -> [bool; Self::CELLS] {
        let low = number & 0xffff;
        std::array::from_fn(|i| match i {
            0 => true,
            i if i <= CODE_BITS => low >> (CODE_BITS - i) & 1 == 1,
            _ => low.count_ones() % 2 == 1,
        })
    }
}

/// Draws the strip, and the number in figures beside it.
pub fn draw_code(picture: &mut Pixmap, number: u64) {
    let (width, height) = (picture.width() as f32, picture.height() as f32);
    let mut cell = |i: usize, white: bool| {
        let left = ((CodeStrip::LEFT + CodeStrip::CELL * i as f32) * width).round();
        let right = ((CodeStrip::LEFT + CodeStrip::CELL * (i + 1) as f32) * width).round();
        let (top, bottom) = (CodeStrip::TOP * height, (CodeStrip::TOP + CodeStrip::HEIGHT) * height);
        block(picture, left, top.round(), right, bottom.round(), if white { 245 } else { 10 });
    };
    for (i, white) in CodeStrip::cells(number).into_iter().enumerate() {
        cell(i, white);
    }
    let digits = format!("{number:05}");
    for (i, digit) in digits.chars().enumerate() {
        figure(
            picture,
            (0.52 + 0.03 * i as f32) * width,
            CodeStrip::TOP * height,
            width * 0.02,
            CodeStrip::HEIGHT * height,
            digit,
        );
    }
}

fn block(picture: &mut Pixmap, left: f32, top: f32, right: f32, bottom: f32, grey: u8) {
    let mut paint = Paint::default();
    paint.set_color(Color::from_rgba8(grey, grey, grey, 255));
    paint.anti_alias = false;
    if let Some(rect) = Rect::from_ltrb(left, top, right, bottom) {
        picture.fill_rect(rect, &paint, Transform::identity(), None);
    }
}

/// A figure of seven bars.
fn figure(picture: &mut Pixmap, x: f32, y: f32, w: f32, h: f32, digit: char) {
    const LIT: [u8; 10] = [0x77, 0x24, 0x5d, 0x6d, 0x2e, 0x6b, 0x7b, 0x25, 0x7f, 0x6f];
    let lit = LIT[digit.to_digit(10).unwrap_or(0) as usize];
    let t = (w * 0.2).max(1.0);
    let bars = [
        (x, y, x + w, y + t),
        (x, y, x + t, y + h / 2.0),
        (x + w - t, y, x + w, y + h / 2.0),
        (x, y + h / 2.0 - t / 2.0, x + w, y + h / 2.0 + t / 2.0),
        (x, y + h / 2.0, x + t, y + h),
        (x + w - t, y + h / 2.0, x + w, y + h),
        (x, y + h - t, x + w, y + h),
    ];
    for (i, (left, top, right, bottom)) in bars.into_iter().enumerate() {
        if lit >> i & 1 == 1 {
            block(picture, left, top, right, bottom, 235);
        }
    }
}

/// Reads the number back. `brightness(x, y)` gives 0 to 255 at shares of the width and height. `None`
/// where there is no whole strip.
pub fn read_code(brightness: impl Fn(f32, f32) -> u8) -> Option<u64> {
    let white = |i: usize| {
        let x = CodeStrip::LEFT + CodeStrip::CELL * (i as f32 + 0.5);
        brightness(x, CodeStrip::TOP + CodeStrip::HEIGHT / 2.0) > 128
    };
    if !white(0) {
        return None;
    }
    let number = (1..=CODE_BITS).fold(0, |number, i| number << 1 | u64::from(white(i)));
    (CodeStrip::cells(number)[CodeStrip::CELLS - 1] == white(CodeStrip::CELLS - 1)).then_some(number)
}
