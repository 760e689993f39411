//! How the pixels of a frame lie in memory.

use metaxis_core::film::Field;

/// Planes of brightness and two of colour difference, of 8 bits a sample or 10 in two bytes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pixels {
    /// Width in pixels, even.
    pub width: u32,
    /// Height in pixels, even.
    pub height: u32,
    /// Whether samples have 10 bits.
    pub deep: bool,
    /// Whether colour has a sample for every row; else for every second one.
    pub every_row: bool,
}

/// A plane: where it begins, and its size in samples.
#[derive(Debug, Clone, Copy)]
pub(super) struct Plane {
    pub at: usize,
    pub width: usize,
    pub height: usize,
    /// How many pixels a sample is wide and high.
    pub step: (usize, usize),
}

impl Pixels {
    /// As ffmpeg calls it.
    pub(super) fn name(self) -> &'static str {
        match (self.deep, self.every_row) {
            (false, false) => "yuv420p",
            (false, true) => "yuv422p",
            (true, false) => "yuv420p10le",
            (true, true) => "yuv422p10le",
        }
    }

    /// The same for a part of the picture.
    pub(super) fn of(self, field: Field) -> Self {
        Self { width: field.width, height: field.height, ..self }
    }

    /// Bytes a sample.
    pub(super) fn depth(self) -> usize {
        if self.deep { 2 } else { 1 }
    }

    pub(super) fn planes(self) -> [Plane; 3] {
        let (width, height) = (self.width as usize, self.height as usize);
        let rows = if self.every_row { 1 } else { 2 };
        let (wide, high) = (width / 2, height / rows);
        let own = self.depth();
        let at = width * height * own;
        [
            Plane { at: 0, width, height, step: (1, 1) },
            Plane { at, width: wide, height: high, step: (2, rows) },
            Plane { at: at + wide * high * own, width: wide, height: high, step: (2, rows) },
        ]
    }

    /// Bytes a frame.
    pub fn bytes(self) -> usize {
        let [_, _, last] = self.planes();
        last.at + last.width * last.height * self.depth()
    }
}
