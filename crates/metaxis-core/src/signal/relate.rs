//! How the channels of one file lie to each other: late by a wireless link or by distance, inverted, or the same.

use super::{LISTEN_RATE, PhaseMatcher};
use std::collections::HashMap;

/// A channel against the one that the others are compared with.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Relation {
    /// Whether it is that one.
    pub is_base: bool,
    /// How much later it hears than that one, seconds; `None` where no one delay holds for the whole of it.
    pub late_s: Option<f64>,
    /// Whether it is wired the other way round.
    pub inverted: bool,
    /// Correlation of their first differences: rumble and hum, which any two channels share, have no say.
    pub alike: f64,
}

impl Relation {
    /// The channel that others are compared with.
    pub const BASE: Self = Self { is_base: true, late_s: Some(0.0), inverted: false, alike: 1.0 };
}

/// Samples of a channel from a moment on, at [`LISTEN_RATE`]; zeros outside.
pub type ReadChannel<'a> = dyn Fn(usize, i64, &mut [f32]) + 'a;

/// 0.4 s at [`LISTEN_RATE`]: with the delays on either side a power of two.
const WINDOW: usize = 8_192 - 2 * RANGE;
/// 50 ms: seventeen metres, or the slowest link.
const RANGE: usize = 800;
/// Moments that are looked at, of so many.
const LOUDEST: (usize, usize) = (12, 96);
/// From this correlation on downwards one of two is wired inverted, whatever their delay.
pub(super) const INVERTED: f64 = -0.2;
/// Of more channels than the first, no more than the second are tried for all to be compared with.
const MANY: (usize, usize) = (4, 2);
/// A peak is believed from this height on, standard deviations of all lags.
const HEIGHT: f32 = 8.0;
/// And from this correlation of the first differences on, at that delay.
const SHARED: f64 = 0.2;
/// Another peak so many samples off, of this share of its height, makes it one of several echoes.
const APART: usize = 16;
const ALONE: f32 = 0.6;
/// Delays within this are one, seconds.
const SAME_S: f64 = 0.15e-3;
/// Of the moments that show a delay, this share has to show the same, and at least so many.
const MOSTLY: (f64, usize) = (0.7, 5);

/// Each of `channels` against the one of them that most have a steady delay to; `samples` is their length. They are tried
/// in the order of `bases`, the clearest first, until one is found to which all have. A pair is compared in the moments
/// in which the one is loudest: then the source is the one that it is near. Two that both hear theirs first are late by
/// distance, each for the other's source: no one delay holds.
pub fn relate(channels: &[usize], bases: &[usize], samples: u64, read: &ReadChannel) -> Vec<Relation> {
    let mut pairs = Pairs::new(samples, read);
    let most = if channels.len() > MANY.0 { MANY.1 } else { channels.len() };
    let steady = |own: &[Relation]| own.iter().filter(|relation| relation.late_s.is_some()).count();
    let mut best: Vec<Relation> = vec![];
    for &base in bases.iter().take(most) {
        let own: Vec<Relation> = channels.iter().map(|&channel| pairs.relation(channel, base)).collect();
        if best.is_empty() || steady(&own) > steady(&best) {
            best = own;
        }
        if steady(&best) == channels.len() {
            break;
        }
    }
    best
}

/// Pairs of channels, compared as they are asked for.
struct Pairs<'a> {
    read: &'a ReadChannel<'a>,
    samples: u64,
    matcher: PhaseMatcher,
    moments: HashMap<usize, Vec<i64>>,
    /// What each looks like against the other in its own loudest moments.
    seen: HashMap<(usize, usize), Seen>,
}

/// A channel against another in its own loudest moments.
#[derive(Clone, Copy)]
struct Seen {
    late: Option<(f64, bool)>,
    alike: f64,
}

impl<'a> Pairs<'a> {
    fn new(samples: u64, read: &'a ReadChannel<'a>) -> Self {
        let matcher = PhaseMatcher::new(WINDOW, RANGE);
        Self { read, samples, matcher, moments: HashMap::new(), seen: HashMap::new() }
    }

    fn relation(&mut self, channel: usize, base: usize) -> Relation {
        if channel == base {
            return Relation::BASE;
        }
        let (own, back) = (self.seen(channel, base), self.seen(base, channel));
        let late = match (own.late, back.late) {
            (Some(own), Some(back)) => Some(own).filter(|_| (own.0 + back.0).abs() < 2.0 * SAME_S),
            // Nearer to what is loudest in it and yet later: no distance does that.
            (Some(own), None) => Some(own).filter(|(late_s, _)| *late_s > 0.0),
            (None, back) => {
                back.filter(|(late_s, _)| *late_s > 0.0).map(|(late_s, turned)| (-late_s, turned))
            }
        };
        Relation {
            is_base: false,
            late_s: late.map(|(late_s, _)| late_s),
            inverted: late.map_or(own.alike < INVERTED, |(_, inverted)| inverted),
            alike: own.alike,
        }
    }

    fn seen(&mut self, channel: usize, other: usize) -> Seen {
        if let Some(seen) = self.seen.get(&(channel, other)) {
            return *seen;
        }
        let (read, samples) = (self.read, self.samples);
        let moments = self.moments.entry(channel).or_insert_with(|| moments(channel, samples, read)).clone();
        let (mut own, mut there) = (vec![0.0; WINDOW], vec![0.0; WINDOW + 2 * RANGE]);
        let (mut lags, mut products) = (vec![], (0.0, 1e-12, 1e-12));
        for at in moments {
            read(channel, at, &mut own);
            read(other, at - RANGE as i64, &mut there);
            add_products(&mut products, &own, &there[RANGE..RANGE + WINDOW]);
            if self.matcher.correlate(&own, &there).is_some()
                && let [peak, rest @ ..] = &self.matcher.peaks(2, HEIGHT, APART)[..]
                && rest.iter().all(|other| other.height.abs() < ALONE * peak.height.abs())
            {
                let mut shared = (0.0, 1e-12, 1e-12);
                add_products(&mut shared, &own, &there[peak.at..peak.at + WINDOW]);
                // Echoes of one source lie at a steady distance too, but they share little.
                if likeness(shared).abs() > SHARED {
                    // The other is that much later.
                    let late_s = -self.matcher.refined(*peak) / f64::from(LISTEN_RATE);
                    lags.push((late_s, peak.height < 0.0));
                }
            }
        }
        let seen = Seen { late: steady_delay(&lags), alike: likeness(products) };
        self.seen.insert((channel, other), seen);
        seen
    }
}

/// The moments in which a channel is loudest, spread over the whole of it.
fn moments(base: usize, samples: u64, read: &ReadChannel) -> Vec<i64> {
    let (most, of) = LOUDEST;
    let room = samples.saturating_sub(WINDOW as u64);
    let count = of.min((room / WINDOW as u64) as usize + 1);
    let mut piece = vec![0.0; WINDOW];
    let mut all: Vec<(f32, i64)> = (0..count)
        .map(|i| {
            let at = (room as f64 * i as f64 / count.max(2).saturating_sub(1) as f64) as i64;
            read(base, at, &mut piece);
            (piece.iter().map(|value| value * value).sum(), at)
        })
        .collect();
    all.sort_by(|a, b| b.0.total_cmp(&a.0));
    all.truncate(most);
    all.into_iter().map(|(_, at)| at).collect()
}

/// Adds to the sums of the products of the first differences.
fn add_products(sums: &mut (f64, f64, f64), a: &[f32], b: &[f32]) {
    for (a, b) in a.windows(2).zip(b.windows(2)) {
        let (x, y) = (a[1] - a[0], b[1] - b[0]);
        sums.0 += f64::from(x * y);
        sums.1 += f64::from(x * x);
        sums.2 += f64::from(y * y);
    }
}

/// Correlation by such sums.
fn likeness(sums: (f64, f64, f64)) -> f64 {
    sums.0 / f64::sqrt(sums.1 * sums.2)
}

/// The delay that most moments show, and whether with the other sign.
fn steady_delay(lags: &[(f64, bool)]) -> Option<(f64, bool)> {
    let near = |about: &(f64, bool)| -> Vec<f64> {
        let same = |own: &&(f64, bool)| own.1 == about.1 && (own.0 - about.0).abs() <= SAME_S;
        lags.iter().filter(same).map(|own| own.0).collect()
    };
    let (mut most, inverted) = lags.iter().map(|own| (near(own), own.1)).max_by_key(|(all, _)| all.len())?;
    if most.len() < MOSTLY.1 || (most.len() as f64) < MOSTLY.0 * lags.len() as f64 {
        return None;
    }
    most.sort_by(f64::total_cmp);
    Some((most[most.len() / 2], inverted))
}
