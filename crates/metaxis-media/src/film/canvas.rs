//! A frame that is put together: pictures over each other and side by side, and words in them.

use super::{
    letters::{Letters, Word},
    pixels::{Pixels, Plane},
};
use metaxis_core::film::{Caption, Corner, Field};

/// A frame that is put together.
pub struct Canvas {
    pixels: Pixels,
    bytes: Vec<u8>,
    letters: Letters,
}

/// Black and white of 8 bits as they are coded (ITU-R BT.709), and no colour.
const BLACK: u16 = 16;
const WHITE: u16 = 235;
const GREY: u16 = 128;

/// Blended shares have so many steps.
const STEPS: u32 = 1 << 15;

/// How much a caption's ground darkens what is below, of 256.
const GROUND: u32 = 150;

impl Canvas {
    /// A black one.
    pub fn new(pixels: Pixels) -> Self {
        let mut canvas = Self { pixels, bytes: vec![0; pixels.bytes()], letters: Letters::default() };
        canvas.blacken();
        canvas
    }

    /// How its pixels lie.
    pub fn pixels(&self) -> Pixels {
        self.pixels
    }

    /// What is on it.
    pub fn bytes(&self) -> &[u8] {
        &self.bytes
    }

    fn level(&self, own: u16) -> u16 {
        if self.pixels.deep { own << 2 } else { own }
    }

    /// Makes it black.
    pub fn blacken(&mut self) {
        for (number, plane) in self.pixels.planes().into_iter().enumerate() {
            let level = self.level(if number == 0 { BLACK } else { GREY });
            let own = plane.at..plane.at + plane.width * plane.height * self.pixels.depth();
            if self.pixels.deep {
                for two in self.bytes[own].chunks_exact_mut(2) {
                    two.copy_from_slice(&level.to_le_bytes());
                }
            } else {
                self.bytes[own].fill(level as u8);
            }
        }
    }

    /// Lays a picture of the size of `field` there, `share` (0 to 1) of it over what is there.
    pub fn lay(&mut self, picture: &[u8], field: Field, share: f64) {
        let own = self.pixels.of(field);
        let planes = self.pixels.planes().into_iter().zip(own.planes());
        let depth = self.pixels.depth();
        let weight = (share.clamp(0.0, 1.0) * f64::from(STEPS)).round() as u32;
        for (to, from) in planes {
            for row in 0..from.height {
                let source = from.at + row * from.width * depth;
                let target = start(to, field, row) * depth + to.at;
                let count = from.width * depth;
                let Some(source) = picture.get(source..source + count) else { return };
                let Some(target) = self.bytes.get_mut(target..target + count) else { return };
                match (weight, self.pixels.deep) {
                    (STEPS, _) => target.copy_from_slice(source),
                    (_, false) => target.iter_mut().zip(source).for_each(|(to, from)| {
                        *to = mixed(u16::from(*to), u16::from(*from), weight) as u8;
                    }),
                    (_, true) => {
                        for (to, from) in target.chunks_exact_mut(2).zip(source.chunks_exact(2)) {
                            let value = |two: &[u8]| u16::from_le_bytes([two[0], two[1]]);
                            let new = mixed(value(to), value(from), weight);
                            to.copy_from_slice(&new.to_le_bytes());
                        }
                    }
                }
            }
        }
    }

    /// Writes words into fields: white, on a darker ground.
    pub fn write(&mut self, captions: &[Caption], fields: &[Field]) {
        for own in captions {
            let Some(field) = fields.get(own.field) else { continue };
            // A twenty-fourth of the field's height, and never wider than half of it.
            let rows = (field.height / 24).max(9) as usize;
            let edge = rows / 2;
            let most = (field.width as usize / 2).saturating_sub(edge);
            let word = self.letters.word(&own.text, rows, most);
            let (width, height) = (field.width as usize, field.height as usize);
            let right = width.saturating_sub(word.width + edge);
            let lines = own.row as usize * (word.height + edge / 2);
            let below = height.saturating_sub(word.height + edge + lines);
            let above = edge + lines;
            let (x, y) = match own.corner {
                Corner::UpperLeft => (edge, above),
                Corner::UpperRight => (right, above),
                Corner::LowerLeft => (edge, below),
                Corner::LowerRight => (right, below),
            };
            self.stamp(&word, (field.x as usize + x, field.y as usize + y));
        }
    }

    /// The words in brightness; their ground without colour.
    fn stamp(&mut self, word: &Word, (x, y): (usize, usize)) {
        let (white, black, grey) = (self.level(WHITE), self.level(BLACK), self.level(GREY));
        for (number, plane) in self.pixels.planes().into_iter().enumerate() {
            let (across, down) = plane.step;
            for row in (0..word.height).step_by(down) {
                for column in (0..word.width).step_by(across) {
                    let (px, py) = ((x + column) / across, (y + row) / down);
                    if px >= plane.width || py >= plane.height {
                        continue;
                    }
                    let ink = u32::from(word.ink[row * word.width + column]);
                    self.change(plane, px, py, |was| {
                        let ground = if number == 0 { black } else { grey };
                        let darker = (u32::from(was) * (256 - GROUND) + u32::from(ground) * GROUND) / 256;
                        let light = u32::from(if number == 0 { white } else { grey });
                        ((darker * (255 - ink) + light * ink) / 255) as u16
                    });
                }
            }
        }
    }

    fn change(&mut self, plane: Plane, x: usize, y: usize, of: impl FnOnce(u16) -> u16) {
        let at = plane.at + (y * plane.width + x) * self.pixels.depth();
        if self.pixels.deep {
            let was = u16::from_le_bytes([self.bytes[at], self.bytes[at + 1]]);
            self.bytes[at..at + 2].copy_from_slice(&of(was).to_le_bytes());
        } else {
            self.bytes[at] = of(u16::from(self.bytes[at])) as u8;
        }
    }
}

/// The sample of `plane` at which row `row` of a field begins.
fn start(plane: Plane, field: Field, row: usize) -> usize {
    let (across, down) = plane.step;
    (field.y as usize / down + row) * plane.width + field.x as usize / across
}

fn mixed(to: u16, from: u16, weight: u32) -> u16 {
    ((u32::from(to) * (STEPS - weight) + u32::from(from) * weight + STEPS / 2) / STEPS) as u16
}

#[cfg(test)]
mod tests {
    use super::*;

    const PIXELS: Pixels = Pixels { width: 64, height: 32, deep: false, every_row: false };

    fn whole(pixels: Pixels) -> Field {
        Field { x: 0, y: 0, width: pixels.width, height: pixels.height }
    }

    fn plain(pixels: Pixels, luma: u8) -> Vec<u8> {
        let planes = pixels.planes();
        let mut bytes = vec![128; pixels.bytes()];
        bytes[..planes[1].at].fill(luma);
        bytes
    }

    #[test]
    fn half_of_each_is_in_the_middle_of_a_dissolve() {
        let mut canvas = Canvas::new(PIXELS);
        canvas.lay(&plain(PIXELS, 100), whole(PIXELS), 1.0);
        canvas.lay(&plain(PIXELS, 200), whole(PIXELS), 0.5);
        assert!(canvas.bytes()[..64 * 32].iter().all(|own| *own == 150));
        let deep = Pixels { deep: true, every_row: true, ..PIXELS };
        let mut canvas = Canvas::new(deep);
        let white: Vec<u8> = (0..deep.bytes() / 2).flat_map(|_| 940_u16.to_le_bytes()).collect();
        canvas.lay(&white, whole(deep), 0.25);
        assert_eq!(canvas.bytes()[..2], (64 + (940 - 64) / 4_u16).to_le_bytes());
    }

    #[test]
    fn a_field_leaves_everything_beside_it() {
        let mut canvas = Canvas::new(PIXELS);
        let field = Field { x: 32, y: 16, width: 32, height: 16 };
        canvas.lay(&plain(PIXELS.of(field), 200), field, 1.0);
        let at = |x: usize, y: usize| canvas.bytes()[y * 64 + x];
        assert_eq!([at(31, 16), at(32, 15), at(32, 16), at(63, 31)], [16, 16, 200, 200]);
    }

    #[test]
    fn words_are_bright_on_a_darker_ground_and_stay_in_their_corner() {
        let pixels = Pixels { width: 640, height: 360, ..PIXELS };
        let mut canvas = Canvas::new(pixels);
        canvas.lay(&plain(pixels, 120), whole(pixels), 1.0);
        let caption = Caption { field: 0, corner: Corner::LowerRight, row: 0, text: "10:00:00:07".into() };
        canvas.write(&[caption], &[whole(pixels)]);
        let luma = |x: usize, y: usize| canvas.bytes()[y * 640 + x];
        let changed: Vec<(usize, usize)> = (0..360)
            .flat_map(|y| (0..640).map(move |x| (x, y)))
            .filter(|(x, y)| luma(*x, *y) != 120)
            .collect();
        assert!(changed.iter().all(|(x, y)| *x >= 320 && *y >= 300), "not only in its corner");
        assert!(
            changed.iter().any(|(x, y)| luma(*x, *y) > 220) && changed.iter().any(|(x, y)| luma(*x, *y) < 70)
        );
    }
}
