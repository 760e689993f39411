//! Layers: what lies over the line for a while, and moves nothing of it.

use crate::{
    clip::{ClipId, DeviceId, PictureFacts},
    group::{AnglePart, Group},
    sync::Stretch,
    time::{Fraction, FrameRate, gcd},
};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use ts_rs::TS;

/// How fast a layer goes: so much of its clip's time passes in so much of the line's. 1/1 is the clip's own pace.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, TS)]
#[serde(try_from = "Fraction")]
pub struct Speed {
    #[ts(type = "number")]
    num: i64,
    #[ts(type = "number")]
    den: i64,
}

/// A speed that nothing is played at.
#[derive(Debug, Error, PartialEq, Eq)]
#[error("a speed of {num}/{den} is none: between a hundredth and a hundred times the clip's own")]
#[non_exhaustive]
pub struct SpeedError {
    num: i64,
    den: i64,
}

impl TryFrom<Fraction> for Speed {
    type Error = SpeedError;

    fn try_from(Fraction { num, den }: Fraction) -> Result<Self, SpeedError> {
        Self::new(num, den)
    }
}

impl Speed {
    /// The clip's own pace.
    pub const OWN: Self = Self { num: 1, den: 1 };

    /// `num`/`den` of the clip's own pace.
    ///
    /// # Errors
    /// [`SpeedError`] unless it lies between 1/100 and 100.
    pub fn new(num: i64, den: i64) -> Result<Self, SpeedError> {
        let most = 1_000_000_000;
        let is_one = (1..=most).contains(&num) && (1..=most).contains(&den);
        if !is_one || num > den * 100 || den > num * 100 {
            return Err(SpeedError { num, den });
        }
        let common = gcd(num, den);
        Ok(Self { num: num / common, den: den / common })
    }

    /// The speed at which each frame of the line shows the clip's next: slow motion of a clip with more frames a second.
    ///
    /// ```
    /// use metaxis_core::{line::Speed, time::FrameRate};
    ///
    /// let fast = FrameRate::new(120, 1)?;
    /// assert_eq!(Some(Speed::frame_by_frame(fast, FrameRate::FPS_25)?), Speed::new(5, 24).ok());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// [`SpeedError`].
    pub fn frame_by_frame(clip: FrameRate, line: FrameRate) -> Result<Self, SpeedError> {
        Self::new(line.num() * clip.den(), line.den() * clip.num())
    }

    /// It as a number.
    pub fn as_f64(self) -> f64 {
        self.num as f64 / self.den as f64
    }
}

/// No clip and no line has so many frames; more of them would be counted wrongly.
pub(crate) const MOST_FRAMES: i64 = 1 << 40;

/// What lies over the line from a frame on: another clip's pictures, or an angle's at another speed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, TS)]
pub struct Layer {
    /// The first frame of the line that it covers.
    #[ts(type = "number")]
    pub at: i64,
    /// How many it covers.
    #[ts(type = "number")]
    pub frames: i64,
    /// Of which clip.
    pub clip: ClipId,
    /// The clip's frame that it would begin with.
    #[ts(type = "number")]
    pub from: i64,
    /// How many frames of the line it goes on from there before it is seen: where its head was cut off.
    #[serde(default, skip_serializing_if = "is_nought")]
    #[ts(optional, as = "Option<i32>")]
    pub skip: i64,
    /// How fast.
    pub speed: Speed,
    /// Frames in between are made of their neighbours, else each is shown until the next is due.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(optional, as = "Option<bool>")]
    pub blended: bool,
    /// Its clip's own sound is heard while it lies there, as fast as its pictures go; else what is below goes on.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[ts(optional, as = "Option<bool>")]
    pub own_sound: bool,
}

fn is_nought(own: &i64) -> bool {
    *own == 0
}

impl Layer {
    /// What stands for the device of a layer's own sound among those of a group: below all that there are.
    pub fn device(number: usize) -> DeviceId {
        DeviceId(-1 - i64::try_from(number).unwrap_or(0))
    }

    /// Whether it stands for a layer's own sound.
    pub fn is_device(device: DeviceId) -> bool {
        device.0 < 0
    }

    /// Whether it has frames that can be counted, and begins with one of its clip.
    pub(crate) fn can_be(&self) -> bool {
        let is_number = |own: i64| (0..MOST_FRAMES).contains(&own);
        self.frames > 0 && [self.frames, self.from, self.skip].into_iter().all(is_number)
    }

    /// The first frame of the line that it covers no longer.
    pub fn end(&self) -> i64 {
        self.at.saturating_add(self.frames)
    }

    /// The same so many frames later.
    pub(super) fn later(&self, by: i64) -> Self {
        Self { at: self.at.saturating_add(by), ..self.clone() }
    }

    /// What of it lies within some frames.
    pub(super) fn within(&self, from: i64, to: i64) -> Option<Self> {
        let (at, end) = (self.at.max(from), self.end().min(to));
        (at < end).then(|| Self { at, frames: end - at, skip: self.skip + at - self.at, ..self.clone() })
    }

    /// Whether `next` is what it would show if it were longer.
    pub(super) fn goes_on_as(&self, next: &Self) -> bool {
        let own = Self { at: next.at, frames: next.frames, skip: self.skip + self.frames, ..self.clone() };
        next.at == self.end() && own == *next
    }

    /// Where in its clip it is in the middle of the line's frame `frame`, in frames of the clip, as numerator and denominator. At its
    /// first frame that is the middle of the clip's frame, or of what of that frame is shown.
    fn position(&self, frame: i64, clip: FrameRate, line: FrameRate) -> (i128, i128) {
        let wide = |own: i64| i128::from(own);
        let num = wide(self.speed.num) * wide(clip.num()) * wide(line.den());
        let den = wide(self.speed.den) * wide(clip.den()) * wide(line.num());
        let passed = wide(self.skip) + wide(frame) - wide(self.at);
        (2 * den * wide(self.from) + 2 * num * passed + num.min(den), 2 * den)
    }

    /// Which of its clip's frames it shows at the line's frame `frame`; of two that are blended the first.
    ///
    /// ```
    /// use metaxis_core::{clip::ClipId, line::{Layer, Speed}, time::FrameRate};
    ///
    /// let (fast, line) = (FrameRate::new(50, 1)?, FrameRate::FPS_25);
    /// let own = Layer {
    ///     at: 100, frames: 50, clip: ClipId(7), from: 30, skip: 0, speed: Speed::OWN, blended: false,
    ///     own_sound: false,
    /// };
    /// let shown = |own: &Layer| [100, 101, 102].map(|frame| own.clip_frame(frame, fast, line));
    /// assert_eq!(shown(&own), [30, 32, 34]);
    /// assert_eq!(shown(&Layer { speed: Speed::new(1, 2)?, ..own.clone() }), [30, 31, 32]);
    /// assert_eq!(shown(&Layer { speed: Speed::new(1, 4)?, ..own }), [30, 30, 31]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn clip_frame(&self, frame: i64, clip: FrameRate, line: FrameRate) -> i64 {
        let (num, den) = self.position(frame, clip, line);
        i64::try_from(num.div_euclid(den)).unwrap_or(i64::MAX).max(0)
    }

    /// It as far as its clip reaches; `None` where nothing is left.
    pub fn fitted(&self, facts: &PictureFacts, line: FrameRate) -> Option<Self> {
        let frames = (facts.duration_s * facts.rate.as_f64()).round() as i64;
        let is_there = |frame: i64| facts.still || self.clip_frame(frame, facts.rate, line) < frames;
        if self.from < 0 || self.skip < 0 || self.frames < 1 || !is_there(self.at) {
            return None;
        }
        // The first that is not there, between one that is and one behind the end.
        let (mut there, mut gone) = (self.at, self.end());
        while gone - there > 1 {
            let middle = there + (gone - there) / 2;
            if is_there(middle) { there = middle } else { gone = middle }
        }
        Some(Self { frames: there + 1 - self.at, ..self.clone() })
    }

    /// It as a part on the frames of `group`, as its angles have them; `picture_delay_s` as its clip's facts have it.
    pub fn part(&self, group: &Group, facts: &PictureFacts, picture_delay_s: f64) -> AnglePart {
        let (num, den) = self.position(self.at, facts.rate, group.rate());
        let middle_s = num as f64 / den as f64 / facts.rate.as_f64() + picture_delay_s;
        let (begin, end) = (group.frame_start(self.at), group.frame_end(self.at));
        let speed = self.speed.as_f64();
        let clip_start_s = middle_s - (end - begin).seconds() / 2.0 * speed;
        let length_s = self.frames as f64 / group.rate().as_f64();
        AnglePart {
            clip: self.clip,
            from_frame: self.at,
            to_frame: self.end(),
            stretch: Stretch {
                clip_start_s,
                clip_end_s: clip_start_s + length_s * speed,
                start_s: begin.seconds(),
                rate_ppm: (speed - 1.0) * 1e6,
                start_sigma_s: 0.0,
                rate_sigma_ppm: 0.0,
            },
            picture_delay_s,
            rate: facts.rate,
            still: facts.still,
        }
    }
}

/// Layers with one more, in place of what it covers.
pub(super) fn lay(layers: &mut Vec<Layer>, new: Layer) {
    let around = |own: &Layer| [own.within(i64::MIN, new.at), own.within(new.end(), i64::MAX)];
    *layers = layers.iter().flat_map(around).flatten().chain([new.clone()]).collect();
    layers.sort_by_key(|own| own.at);
}

/// Layers in order, within `frames` frames; what goes on is one.
pub(super) fn tidied(mut layers: Vec<Layer>, frames: i64) -> Vec<Layer> {
    layers.sort_by_key(|own| own.at);
    let mut all: Vec<Layer> = vec![];
    for own in layers.iter().filter_map(|own| own.within(0, frames)) {
        match all.last_mut() {
            Some(last) if last.goes_on_as(&own) => last.frames += own.frames,
            Some(last) if last.end() > own.at => lay(&mut all, own),
            _ => all.push(own),
        }
    }
    all
}
