//! How far a device's labels lie from the axis: measured on the clips that sound has placed, else taken from the
//! other devices that were jammed to one timecode, and set aside where they mean nothing.

use super::{
    kinds::{KINDS, label_of, own_timecode},
    periods::periods,
};
use crate::{
    sync::{
        answer::EvidenceKind,
        input::{DayClip, Label, devices},
        solve::DeviceRate,
    },
    time::wrapped,
};
use serde::{Deserialize, Serialize};

/// How far labels can be leant on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum ClockTrust {
    /// So many placed clips agree on one offset.
    Measured(usize),
    /// No clip of the device was placed by sound: it is taken to be jammed as the others are.
    Assumed,
    /// Every clip begins with the same label.
    Standing,
    /// The only label is a whole hour: where counters are set, not when a clip was shot.
    WholeHour,
    /// The offsets of the clips do not agree: it counts only while recording, or was set anew.
    Wandering,
    /// Nothing to compare it with.
    Unknown,
}

/// One kind of label of one device.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct DeviceClock {
    /// Device, as the caller names it.
    pub device: usize,
    /// Kind of label.
    pub kind: EvidenceKind,
    /// Clips that have one.
    pub clips: usize,
    /// Axis time of the label `zero_s`, seconds.
    pub axis_s: f64,
    /// The label at which `axis_s` holds, seconds since midnight.
    pub zero_s: f64,
    /// How much the axis moves more than the label in a second.
    pub slope: f64,
    /// Standard deviation of a position by one such label, seconds.
    pub sigma_s: f64,
    /// How much later its labels are than those of the reference (or of what stands for it), seconds.
    pub late_s: Option<f64>,
    /// The same at the first and at the last clip that sound has placed: clocks drift apart over a day.
    pub late_over_s: Option<(f64, f64)>,
    /// Labels of the first and the last of these clips, seconds from `zero_s` on.
    pub span_s: (f64, f64),
    /// Length of a frame of its count, seconds; one for clocks.
    pub unit_s: f64,
    /// Probability that a position by one such label is right to half a frame: labels in whole frames leave open where
    /// within its frame a clip began.
    pub within_half: f64,
    /// How far it can be leant on.
    pub trust: ClockTrust,
    /// Whether it holds for a part of the day only: the counter was set anew.
    #[serde(default)]
    pub set_anew: bool,
}

impl DeviceClock {
    /// Whether it says where a clip lies.
    pub fn is_of_use(&self) -> bool {
        matches!(self.trust, ClockTrust::Measured(_) | ClockTrust::Assumed)
    }

    /// How far a label lies from those it was measured by, seconds.
    fn away_s(&self, label: &Label) -> f64 {
        let since = wrapped(label.time_s - self.zero_s);
        (self.span_s.0 - since).max(since - self.span_s.1).max(0.0)
    }

    /// Axis time of a label.
    pub fn axis_of(&self, label_s: f64) -> f64 {
        let since = wrapped(label_s - self.zero_s);
        self.axis_s + since * (1.0 + self.slope)
    }
}

/// The largest slope that is no fault: two crystals far apart.
const MAX_SLOPE: f64 = 150e-6;
/// A line is fitted through offsets that span this much, seconds, and so many clips.
const LINE: (f64, usize) = (600.0, 3);
/// Where nothing else is known, two clocks jammed in the morning part by so much in a day's work, seconds.
const ASSUMED_SIGMA_S: f64 = 0.06;

/// The clocks of all devices. `placed` gives a clip's start on the axis where sound is sure of it; `rates` are what was
/// learnt of the devices' crystals.
pub(crate) fn fit(
    clips: &[DayClip],
    origin: usize,
    placed: &dyn Fn(usize) -> Option<f64>,
    rates: &[DeviceRate],
) -> Vec<DeviceClock> {
    let mut clocks = vec![];
    // The time of day at the axis's zero by the origin's own timecode, which others may be jammed to.
    let own_zero = own_timecode(&clips[origin]).map(|label| label.time_s);
    for device in devices(clips) {
        for kind in KINDS {
            let labelled: Vec<(usize, Label)> = (0..clips.len())
                .filter(|&clip| clips[clip].device == device)
                .filter_map(|clip| Some((clip, label_of(&clips[clip], kind)?)))
                .collect();
            if labelled.is_empty() {
                continue;
            }
            // A box's timecode is not counted by the device's own crystal.
            let own = kind != EvidenceKind::AudioTimecode;
            let rate = rates.iter().find(|rate| own && rate.device == device);
            let slope = rate.map_or(0.0, |rate| -rate.rate_ppm * 1e-6);
            let shared = own_zero.filter(|_| kind != EvidenceKind::DeviceClock);
            let set = if kind.counts_frames() {
                periods(&labelled, placed, tolerance_s(kind, &labelled[0].1, 0.0))
            } else {
                vec![labelled]
            };
            for part in &set {
                let clock = of_device(device, kind, part, placed, slope, shared);
                clocks.push(DeviceClock { set_anew: set.len() > 1, ..clock });
            }
        }
    }
    compare(clips, origin, &mut clocks);
    clocks
}

fn of_device(
    device: usize,
    kind: EvidenceKind,
    labelled: &[(usize, Label)],
    placed: &dyn Fn(usize) -> Option<f64>,
    slope: f64,
    shared: Option<f64>,
) -> DeviceClock {
    let first = labelled[0].1;
    // Timecode in whole frames; time references and signals are finer.
    let rounded = kind == EvidenceKind::FileTimecode && first.sigma_s > 0.2 * first.unit_s;
    let mut clock = DeviceClock {
        device,
        kind,
        clips: labelled.len(),
        axis_s: 0.0,
        zero_s: first.time_s,
        slope,
        sigma_s: first.sigma_s,
        late_s: None,
        late_over_s: None,
        span_s: (0.0, 0.0),
        unit_s: first.unit_s,
        within_half: if rounded { NOTHING_MEASURED } else { 1.0 },
        trust: ClockTrust::Unknown,
        set_anew: false,
    };
    let same =
        labelled.iter().all(|(_, label)| wrapped(label.time_s - first.time_s).abs() < 0.5 * first.unit_s);
    if labelled.len() > 1 && same {
        clock.trust = ClockTrust::Standing;
        return clock;
    }
    let mut points: Vec<(f64, f64)> = labelled
        .iter()
        .filter_map(|(clip, label)| Some((wrapped(label.time_s - first.time_s), placed(*clip)?)))
        .collect();
    if points.is_empty() {
        let whole =
            (first.time_s / 3600.0 - (first.time_s / 3600.0).round()).abs() * 3600.0 < 0.5 * first.unit_s;
        if labelled.len() == 1 && whole && kind == EvidenceKind::FileTimecode {
            clock.trust = ClockTrust::WholeHour;
        }
        return clock;
    }
    points.sort_by(|a, b| a.0.total_cmp(&b.0));
    let span = points[points.len() - 1].0 - points[0].0;
    let offset = |&(label, axis): &(f64, f64)| axis - label * (1.0 + slope);
    let tolerance = tolerance_s(kind, &first, span);
    let offsets: Vec<f64> = points.iter().map(offset).collect();
    let mut agreeing = largest_cluster(&offsets, tolerance);
    let most = 2.max(points.len().div_ceil(2) + 1).min(points.len());
    let mut settled = points.len() == 1 || agreeing.len() >= most;
    if let Some(zero_s) = shared.filter(|_| !settled) {
        // One that slipped is no reason to set aside those that are level with the reference.
        let level_s = wrapped(first.time_s - zero_s);
        let level: Vec<usize> =
            (0..offsets.len()).filter(|&i| (offsets[i] - level_s).abs() <= tolerance).collect();
        if 2 * level.len() >= points.len() {
            (agreeing, settled) = (level, true);
        }
    }
    if !settled {
        clock.trust = ClockTrust::Wandering;
        return clock;
    }
    let kept: Vec<(f64, f64)> = agreeing.iter().map(|&i| points[i]).collect();
    let count = kept.len() as f64;
    let middle = kept.iter().map(|point| point.0).sum::<f64>() / count;
    if kept.len() >= LINE.1 && span > LINE.0 && kind != EvidenceKind::DeviceClock {
        let spread: f64 = kept.iter().map(|point| (point.0 - middle).powi(2)).sum();
        let mean = kept.iter().map(|point| point.1 - point.0).sum::<f64>() / count;
        let fitted = kept.iter().map(|p| (p.0 - middle) * (p.1 - p.0 - mean)).sum::<f64>() / spread;
        clock.slope = fitted.clamp(-MAX_SLOPE, MAX_SLOPE);
    }
    clock.zero_s = first.time_s + middle;
    clock.span_s = (kept[0].0 - middle, kept[kept.len() - 1].0 - middle);
    clock.axis_s = kept.iter().map(|p| p.1 - (p.0 - middle) * (1.0 + clock.slope)).sum::<f64>() / count;
    if rounded {
        clock.fit_rounded(&kept, middle);
        // The next clip may be one of those that say something else: it slipped, or was set anew.
        clock.within_half *= count / points.len() as f64;
        clock.trust = ClockTrust::Measured(kept.len());
        return clock;
    }
    let rest: f64 =
        kept.iter().map(|p| (p.1 - clock.axis_s - (p.0 - middle) * (1.0 + clock.slope)).powi(2)).sum::<f64>();
    let scatter = (rest / (count - 1.0).max(1.0)).sqrt();
    clock.sigma_s = scatter.max(first.sigma_s) * (1.0 + 1.0 / count).sqrt();
    clock.trust = ClockTrust::Measured(kept.len());
    clock
}

/// What half a frame of rounding on either side leaves, where no clip tells how labels lie to frames.
const NOTHING_MEASURED: f64 = 0.75;

impl DeviceClock {
    /// Lays the clock in the middle of what its labels allow: each names the frame in which its clip began, so a clip
    /// lies up to a frame after its label, and the true offset between the last that one and the first that another
    /// allows. A next clip lies within half a frame of the middle with one minus the mean error over a frame.
    fn fit_rounded(&mut self, points: &[(f64, f64)], middle: f64) {
        let offsets = points.iter().map(|p| p.1 - (p.0 - middle) * (1.0 + self.slope));
        let (low, high) = offsets.fold((f64::MAX, f64::MIN), |(low, high), at| (low.min(at), high.max(at)));
        // Clocks wander and sound travels: no offset is known to nothing.
        const LEAST: f64 = 0.04;
        let half = (0.5 * (self.unit_s - (high - low))).max(LEAST * self.unit_s);
        self.axis_s = 0.5 * (low + high);
        self.sigma_s = (0.289 * self.unit_s).hypot(half / 3f64.sqrt());
        self.within_half = 1.0 - 0.5 * half / self.unit_s;
    }
}

/// How far offsets of one clock scatter over `span_s` seconds: labels in whole frames by one, clocks by what they are
/// written with.
fn tolerance_s(kind: EvidenceKind, label: &Label, span_s: f64) -> f64 {
    if kind == EvidenceKind::DeviceClock { 2.5 } else { 1.2 * label.unit_s + 10e-6 * span_s }
}

/// The clock of a device by which a label counts: of those of a day in which it was set anew, the one that was read
/// nearest to it.
pub(super) fn counts_by<'c>(
    clocks: &'c [DeviceClock],
    device: usize,
    label: &Label,
) -> Option<&'c DeviceClock> {
    let own = clocks.iter().filter(|clock| (clock.device, clock.kind) == (device, label.kind));
    own.min_by(|a, b| a.away_s(label).total_cmp(&b.away_s(label)))
}

/// Indices of the most values that lie within `tolerance` of one of them.
fn largest_cluster(values: &[f64], tolerance: f64) -> Vec<usize> {
    let near = |about: f64| -> Vec<usize> {
        (0..values.len()).filter(|&i| (values[i] - about).abs() <= tolerance).collect()
    };
    values.iter().map(|&value| near(value)).max_by_key(Vec::len).unwrap_or_default()
}

/// Says how late each device's labels are against the reference's, and lends the timecode that all share to devices no
/// clip of which was placed.
fn compare(clips: &[DayClip], origin: usize, clocks: &mut [DeviceClock]) {
    let timecode = |kind: EvidenceKind| kind != EvidenceKind::DeviceClock;
    // The origin's own label, else the timecode most clips agree on.
    let own = own_timecode(&clips[origin]).map(|label| DeviceClock {
        device: clips[origin].device,
        kind: label.kind,
        clips: 1,
        axis_s: 0.0,
        zero_s: label.time_s,
        slope: 0.0,
        sigma_s: label.sigma_s,
        late_s: Some(0.0),
        late_over_s: None,
        span_s: (0.0, 0.0),
        unit_s: label.unit_s,
        within_half: 1.0,
        trust: ClockTrust::Measured(1),
        set_anew: false,
    });
    let agreed = clocks
        .iter()
        .filter(|clock| timecode(clock.kind) && matches!(clock.trust, ClockTrust::Measured(_)))
        .max_by_key(|clock| match clock.trust {
            ClockTrust::Measured(count) => count,
            _ => 0,
        })
        .copied();
    let Some(base) = own.or(agreed) else { return };
    for clock in clocks.iter_mut() {
        match clock.trust {
            ClockTrust::Measured(_) => {
                // Where the axis is at this clock's zero, the base's labels say so much.
                let base_label = base.zero_s + (clock.axis_s - base.axis_s) / (1.0 + base.slope);
                let late_s = wrapped(clock.zero_s - base_label);
                let gains = 1.0 - (1.0 + clock.slope) / (1.0 + base.slope);
                clock.late_s = Some(late_s);
                clock.late_over_s = Some((late_s + gains * clock.span_s.0, late_s + gains * clock.span_s.1));
            }
            ClockTrust::Unknown if timecode(clock.kind) => {
                clock.axis_s = base.axis_of(clock.zero_s);
                clock.sigma_s = clock.sigma_s.hypot(ASSUMED_SIGMA_S);
                clock.trust = ClockTrust::Assumed;
            }
            _ => {}
        }
    }
}
