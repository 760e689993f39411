//! Time by the book: rational frame rates, timecode labels, exact ticks, and units that cannot be mixed.

mod of_day;
mod rate;
mod tick;
mod timecode;

pub(crate) use of_day::{DAY_S, wrapped};
pub(crate) use rate::{Fraction, gcd};
pub use rate::{FrameRate, RateError, SampleRate};
pub use tick::{Seconds, TICKS_PER_SECOND, Tick, span_in_words};
pub use timecode::{Timecode, TimecodeError};
