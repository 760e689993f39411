//! Viewing LUTs: tables from the colours that a camera recorded to those of a screen. They change what is seen, never what is kept.

mod balance;
mod cube;
mod curve;
mod neutral;

pub use balance::{Balance, BalanceDifference};
pub use cube::CubeError;
pub use neutral::{Neutral, neutral};

use serde::{Deserialize, Serialize};
use ts_rs::TS;

/// A colour: red, green and blue, each from 0 (black) to 1 as it is coded.
pub type Rgb = [f32; 3];

/// What a viewing LUT is called by: a word for those that are shipped, else what its table says of itself.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, TS)]
pub struct LutKey(pub String);

/// What pictures of an angle are seen through, whatever its device's are.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(rename_all = "snake_case")]
pub enum SeenThrough {
    /// Nothing: as they were recorded.
    Nothing,
    /// A viewing LUT.
    Lut(LutKey),
}

/// The samples of a LUT.
#[derive(Debug, Clone, PartialEq)]
enum Table {
    /// A curve a colour.
    Curves(Vec<Rgb>),
    /// Every colour by itself; red changes fastest.
    Cube {
        /// Samples along an edge.
        size: usize,
        values: Vec<Rgb>,
    },
}

/// A viewing LUT.
#[derive(Debug, Clone, PartialEq)]
pub struct Lut {
    /// What it calls itself.
    pub title: Option<String>,
    /// The colours of its first and last samples.
    domain: (Rgb, Rgb),
    table: Table,
}

impl Lut {
    /// A cube of `size` samples along an edge (two at least) of what `of` makes of colours.
    pub fn sampled(size: usize, of: impl Fn(Rgb) -> Rgb) -> Self {
        let size = size.max(2);
        let at = |number: usize| number as f32 / (size - 1) as f32;
        let values = (0..size.pow(3))
            .map(|number| of([at(number % size), at(number / size % size), at(number / size / size)]))
            .collect();
        Self { title: None, domain: ([0.0; 3], [1.0; 3]), table: Table::Cube { size, values } }
    }

    /// The same as a cube of `size` samples along an edge for colours from 0 to 1.
    #[must_use]
    pub fn resampled(&self, size: usize) -> Self {
        Self { title: self.title.clone(), ..Self::sampled(size, |colour| self.apply(colour)) }
    }

    /// Its samples where it is a cube, red changing fastest.
    pub fn cube(&self) -> Option<&[Rgb]> {
        match &self.table {
            Table::Cube { values, .. } => Some(values),
            Table::Curves(_) => None,
        }
    }

    /// What it makes of a colour. Beyond its domain its last samples stand; between the samples of a cube it goes along the edges
    /// of the tetrahedron that the colour is in (J. M. Kasson, S. I. Nin, W. Plouffe, J. L. Hafner, 1995: "Performing color space
    /// conversions with three-dimensional linear interpolation").
    ///
    /// ```
    /// use metaxis_core::lut::Lut;
    ///
    /// let halved = Lut::sampled(2, |[r, g, b]| [r / 2.0, g, 1.0 - b]);
    /// assert_eq!(halved.apply([0.5, 0.25, 0.75]), [0.25, 0.25, 0.25]);
    /// ```
    pub fn apply(&self, colour: Rgb) -> Rgb {
        let (from, to) = self.domain;
        let share: Rgb = std::array::from_fn(|i| {
            let own = (colour[i] - from[i]) / (to[i] - from[i]);
            // What is no number is black.
            if own.is_finite() { own.clamp(0.0, 1.0) } else { 0.0 }
        });
        match &self.table {
            Table::Curves(values) => std::array::from_fn(|i| {
                let (low, part) = step(share[i], values.len());
                mix(values[low][i], values[(low + 1).min(values.len() - 1)][i], part)
            }),
            Table::Cube { size, values } => tetrahedral(values, *size, share),
        }
    }
}

/// The sample below a share of a row of samples, and how far it is to the next.
fn step(share: f32, samples: usize) -> (usize, f32) {
    let at = share * (samples - 1) as f32;
    let low = (at as usize).min(samples.saturating_sub(2));
    (low, at - low as f32)
}

fn mix(from: f32, to: f32, part: f32) -> f32 {
    from + (to - from) * part
}

fn tetrahedral(values: &[Rgb], size: usize, share: Rgb) -> Rgb {
    let strides = [1, size, size * size];
    let mut low = 0;
    let mut parts = [(0.0, 0); 3];
    for i in 0..3 {
        let (own, part) = step(share[i], size);
        low += own * strides[i];
        parts[i] = (part, strides[i]);
    }
    // From the corner below to the one above, the longest way first.
    parts.sort_by(|a, b| b.0.total_cmp(&a.0));
    let mut at = low;
    let mut colour = values[at];
    for (part, stride) in parts {
        let next = at + stride;
        for i in 0..3 {
            colour[i] += (values[next][i] - values[at][i]) * part;
        }
        at = next;
    }
    colour
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn near(a: Rgb, b: Rgb) -> bool {
        a.iter().zip(b).all(|(a, b)| (a - b).abs() < 1e-4)
    }

    proptest! {
        /// What is linear is exact between samples, whatever the size, and it never leaves the range of its samples.
        #[test]
        fn a_cube_is_exact_where_colours_are_linear(
            size in 2_usize..12,
            colour in prop::array::uniform3(0.0..1.0_f32),
            by in prop::array::uniform3(-1.0..1.0_f32),
        ) {
            let linear = |c: Rgb| [by[0] * c[0] + by[1] * c[1], by[2] * c[2] + 0.25, by[0] * c[2] - by[1] * c[1]];
            let lut = Lut::sampled(size, linear);
            prop_assert!(near(lut.apply(colour), linear(colour)));
            prop_assert!(near(lut.resampled(7).apply(colour), linear(colour)));
            let random = Lut::sampled(size, |c| [(c[0] * 91.7).fract(), (c[1] * 57.3).fract(), (c[2] * 13.1).fract()]);
            prop_assert!(random.apply(colour).iter().all(|own| (0.0..=1.0).contains(own)));
        }
    }

    #[test]
    fn what_lies_outside_is_the_last_sample_and_what_is_no_number_black() {
        let lut = Lut::sampled(5, |c| c);
        assert_eq!(lut.apply([2.0, -1.0, 0.5]), [1.0, 0.0, 0.5]);
        assert_eq!(lut.apply([f32::NAN, f32::INFINITY, 1.0]), [0.0, 0.0, 1.0]);
    }
}
