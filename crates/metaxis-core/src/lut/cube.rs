//! LUTs as text: the cube form, which most programs that show pictures read.

use super::{Lut, Rgb, Table};
use std::fmt::Write;
use thiserror::Error;

/// Why a text is no LUT.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum CubeError {
    /// It does not say how large it is.
    #[error("it does not say its size (LUT_3D_SIZE or LUT_1D_SIZE): it is no LUT, or none in the cube form")]
    NoSize,
    /// A size that no LUT has.
    #[error("line {line}: a cube has 2 to {MOST_CUBE} samples along an edge, a curve 2 to {MOST_CURVE}")]
    Size {
        /// Its number.
        line: usize,
    },
    /// A line that is not understood.
    #[error("line {line} is neither a number of each colour nor a statement of the form")]
    Line {
        /// Its number.
        line: usize,
    },
    /// Colours that do not rise.
    #[error("line {line}: the domain ends before it begins")]
    Domain {
        /// Its number.
        line: usize,
    },
    /// Samples are missing, or there are too many.
    #[error("it says {expected} samples and has {found}: the file is cut short, or not whole")]
    Count {
        /// As it says.
        expected: usize,
        /// As it has.
        found: usize,
    },
}

/// The largest that are read.
const MOST_CUBE: usize = 65;
const MOST_CURVE: usize = 65_536;

impl Lut {
    /// Reads the cube form: `LUT_1D_SIZE` or `LUT_3D_SIZE`, `TITLE`, `DOMAIN_MIN`, `DOMAIN_MAX`, samples line by line, red
    /// changing fastest. Other statements are passed over.
    ///
    /// ```
    /// use metaxis_core::lut::{CubeError, Lut};
    ///
    /// let lut = Lut::parse("TITLE \"darker\"\nLUT_1D_SIZE 2\n0 0 0\n0.5 0.5 0.5\n")?;
    /// assert_eq!((lut.title.as_deref(), lut.apply([1.0, 0.5, 0.0])), (Some("darker"), [0.5, 0.25, 0.0]));
    /// assert_eq!(Lut::parse("hello"), Err(CubeError::Line { line: 1 }));
    /// # Ok::<(), CubeError>(())
    /// ```
    ///
    /// # Errors
    /// [`CubeError`].
    pub fn parse(text: &str) -> Result<Self, CubeError> {
        let mut title = None;
        let mut size: Option<(usize, bool)> = None;
        let mut domain = ([0.0; 3], [1.0; 3]);
        let mut values: Vec<Rgb> = vec![];
        for (number, own) in text.trim_start_matches('\u{feff}').lines().enumerate() {
            let (line, own) = (number + 1, own.trim());
            if own.is_empty() || own.starts_with('#') {
                continue;
            }
            let (word, rest) = own.split_once(char::is_whitespace).unwrap_or((own, ""));
            let rest = rest.trim();
            match word {
                "TITLE" => title = Some(rest.trim_matches('"').trim().chars().take(80).collect::<String>()),
                "LUT_1D_SIZE" | "LUT_3D_SIZE" => {
                    let is_cube = word == "LUT_3D_SIZE";
                    let most = if is_cube { MOST_CUBE } else { MOST_CURVE };
                    let given = rest.parse().ok().filter(|given| (2..=most).contains(given));
                    size = Some((given.ok_or(CubeError::Size { line })?, is_cube));
                }
                "DOMAIN_MIN" => domain.0 = colour(rest).ok_or(CubeError::Line { line })?,
                "DOMAIN_MAX" => domain.1 = colour(rest).ok_or(CubeError::Line { line })?,
                _ if word.starts_with(|own: char| own.is_ascii_digit() || "+-.".contains(own)) => {
                    let own = colour(own).ok_or(CubeError::Line { line })?;
                    // No more than it says, whatever it has.
                    let most = size.map_or(0, |(size, is_cube)| if is_cube { size.pow(3) } else { size });
                    if values.len() > most {
                        return Err(CubeError::Count { expected: most, found: values.len() });
                    }
                    values.push(own);
                }
                // A statement that is not for us: words in capitals, and something behind.
                _ if !rest.is_empty()
                    && word.chars().all(|own| own.is_ascii_uppercase() || "_0123456789".contains(own)) => {}
                _ => return Err(CubeError::Line { line }),
            }
            if (0..3).any(|i| domain.0[i] >= domain.1[i]) && word == "DOMAIN_MAX" {
                return Err(CubeError::Domain { line });
            }
        }
        let (size, is_cube) = size.ok_or(CubeError::NoSize)?;
        if (0..3).any(|i| domain.0[i] >= domain.1[i]) {
            return Err(CubeError::Domain { line: 1 });
        }
        let expected = if is_cube { size.pow(3) } else { size };
        if values.len() != expected {
            return Err(CubeError::Count { expected, found: values.len() });
        }
        let table = if is_cube { Table::Cube { size, values } } else { Table::Curves(values) };
        Ok(Self { title: title.filter(|own| !own.is_empty()), domain, table })
    }

    /// The same as text.
    pub fn to_text(&self) -> String {
        let mut text = String::new();
        if let Some(title) = &self.title {
            let _ = writeln!(text, "TITLE \"{}\"", title.replace(['"', '\n', '\r'], " "));
        }
        let (word, size, values) = match &self.table {
            Table::Curves(values) => ("LUT_1D_SIZE", values.len(), values),
            Table::Cube { size, values } => ("LUT_3D_SIZE", *size, values),
        };
        let _ = writeln!(text, "{word} {size}");
        for (word, [r, g, b]) in [("DOMAIN_MIN", self.domain.0), ("DOMAIN_MAX", self.domain.1)] {
            let _ = writeln!(text, "{word} {r} {g} {b}");
        }
        for [r, g, b] in values {
            let _ = writeln!(text, "{r:.6} {g:.6} {b:.6}");
        }
        text
    }
}

fn colour(text: &str) -> Option<Rgb> {
    let mut values = text.split_whitespace().map(|own| own.parse::<f32>().ok().filter(|own| own.is_finite()));
    let all = [values.next()??, values.next()??, values.next()??];
    values.next().is_none().then_some(all)
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Written and read again it is the same, to what six digits say.
        #[test]
        fn text_says_the_same(size in 2_usize..6, factor in 0.1..2.0_f32, colour in prop::array::uniform3(0.0..1.0_f32)) {
            let lut = Lut { title: Some("A \u{e4} b".into()), ..Lut::sampled(size, |[r, g, b]| [r * factor, g * g, b.sqrt()]) };
            let read = Lut::parse(&lut.to_text()).expect("a LUT");
            prop_assert_eq!(&read.title, &lut.title);
            for (a, b) in read.apply(colour).iter().zip(lut.apply(colour)) {
                prop_assert!((a - b).abs() < 1e-5);
            }
        }

        /// No text makes it fail otherwise than by saying so.
        #[test]
        fn any_text_is_read_or_refused(text in "(LUT_3D_SIZE [0-9]{1,3}\n)?([-0-9.e ]{0,12}\n|[A-Z_]{1,8} ?[0-9.]{0,3}\n|\\PC{0,6}\n){0,12}") {
            if let Ok(lut) = Lut::parse(&text) {
                let _ = lut.apply([0.3, 0.6, 0.9]);
            }
        }
    }

    #[test]
    fn a_domain_is_kept_and_other_statements_are_passed_over() {
        let text = "\u{feff}# made by hand\r\nLUT_3D_INPUT_RANGE 0 1\r\nDOMAIN_MIN -1 -1 -1\r\nDOMAIN_MAX 1 1 1\r\nLUT_1D_SIZE 3\r\n\
            0 0 0\r\n0.5 0.5 0.5\r\n1 1 1\r\n";
        let lut = Lut::parse(text).expect("a LUT");
        assert_eq!(lut.apply([-1.0, 0.0, 0.5]), [0.0, 0.5, 0.75]);
        assert_eq!(Lut::parse(&lut.to_text()), Ok(lut));
    }

    #[test]
    fn what_is_wrong_is_said_with_its_line() {
        let wrong = |text: &str| Lut::parse(text).expect_err("no LUT").to_string();
        assert!(wrong("").starts_with("it does not say its size"));
        assert!(wrong("LUT_3D_SIZE 4096").starts_with("line 1: a cube has 2 to 65"));
        assert!(wrong("LUT_1D_SIZE 2\n0 0 0\n1 1").starts_with("line 3 is neither"));
        assert!(wrong("LUT_1D_SIZE 2\n0 0 0\n1 1 inf").starts_with("line 3 is neither"));
        assert_eq!(
            wrong("LUT_3D_SIZE 2\n0 0 0\n"),
            "it says 8 samples and has 1: the file is cut short, or not whole"
        );
        assert!(wrong("LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1\n1 1 1").starts_with("it says 2 samples"));
        assert_eq!(
            wrong("DOMAIN_MAX 0 1 1\nLUT_1D_SIZE 2\n0 0 0\n1 1 1"),
            "line 1: the domain ends before it begins"
        );
    }
}
