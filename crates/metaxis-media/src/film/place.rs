//! Going to a picture of a file, so that it is the first that comes and nothing is decoded that it does not need.

use metaxis_core::time::{FrameRate, Tick};

/// Where a picture is, between the one before it and the one behind: when they begin, seconds after the first of the file.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Place {
    pub before_s: f64,
    pub own_s: f64,
    pub after_s: f64,
}

impl Place {
    /// Of a picture by its number; `None` of the first, which needs no going.
    pub fn of_number(number: i64, rate: FrameRate) -> Option<Self> {
        let begin_s = |own: i64| Tick::of_frame(own, rate).seconds();
        let place =
            || Self { before_s: begin_s(number - 1), own_s: begin_s(number), after_s: begin_s(number + 1) };
        (number > 0).then(place)
    }

    /// A little behind its begin: where it stands by itself, decoding begins with it.
    fn gone_to_s(self) -> f64 {
        self.own_s + (self.after_s - self.own_s) / 4.0
    }

    /// Arguments before the input that go there in a file whose first picture has the time `start_s`, or which begins with it.
    pub fn gone_to(self, start_s: Option<f64>) -> Vec<String> {
        let seek_s = format!("{:.6}", start_s.unwrap_or(0.0) + self.gone_to_s());
        let absolute: &[&str] = if start_s.is_some() { &["-seek_timestamp", "1"] } else { &[] };
        [&["-noaccurate_seek"], absolute, &["-ss", &seek_s]].concat().into_iter().map(str::to_owned).collect()
    }

    /// The filter that leaves out what comes before it. What begins in the middle between it and the one before is it: rounded times
    /// cannot leave it out.
    pub fn filter(self) -> String {
        let early_s = self.gone_to_s() - (self.before_s + self.own_s) / 2.0;
        format!("select=gte(t\\,{:.6})", -early_s)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_picture_is_gone_to_from_behind_and_begins_halfway_to_the_one_before() {
        assert_eq!(Place::of_number(0, FrameRate::FPS_25), None);
        let place = Place::of_number(50, FrameRate::FPS_25).expect("a place");
        assert_eq!(place.gone_to(None), ["-noaccurate_seek", "-ss", "2.010000"]);
        let absolute = ["-noaccurate_seek", "-seek_timestamp", "1", "-ss", "5.210000"];
        assert_eq!(place.gone_to(Some(3.2)), absolute);
        assert_eq!(place.filter(), "select=gte(t\\,-0.030000)");
        // One that comes late.
        let late = Place { before_s: 1.0, own_s: 1.06, after_s: 1.08 };
        assert_eq!(late.gone_to(None)[2], "1.065000");
        assert_eq!(late.filter(), "select=gte(t\\,-0.035000)");
    }
}
