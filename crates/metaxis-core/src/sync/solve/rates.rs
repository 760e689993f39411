//! One crystal, one rate: what a device's long clips say of its clock is lent to its short ones.

use crate::signal::scaled_median;
use crate::sync::{
    answer::{Stretch, joined, length_s, runs},
    input::{DayClip, devices},
};
use serde::{Deserialize, Serialize};

/// What is known of a device's clock.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct DeviceRate {
    /// Device, as the caller names it.
    pub device: usize,
    /// How much faster than the reference's it runs.
    pub rate_ppm: f64,
    /// Standard deviation for any one clip of the day: the measurement's and the warming's.
    pub sigma_ppm: f64,
    /// Clips it was learnt from.
    pub clips: usize,
}

/// A clip teaches the rate when its own is this well known.
const TEACHES_PPM: f64 = 1.0;
/// A crystal's rate moves by this in a day, at the least that may be assumed.
const WARMING_PPM: f64 = 0.7;
/// Rates this far from zero are wrong labels, not clocks.
const CRYSTAL_PPM: f64 = 250.0;
/// What is known of a clock by way of a timecode box is good to this.
const BOX_PPM: f64 = 1.0;

/// Learns each device's rate from its well-measured clips: the weighted median.
pub(crate) fn learn(clips: &[DayClip], maps: &[Option<&[Stretch]>]) -> Vec<DeviceRate> {
    devices(clips)
        .into_iter()
        .filter_map(|device| {
            let mut own: Vec<(f64, f64)> = clips
                .iter()
                .zip(maps)
                .filter(|(clip, _)| clip.device == device)
                .filter_map(|(_, map)| mean_rate(map.as_ref()?))
                .filter(|(rate_ppm, sigma_ppm)| rate_ppm.abs() < CRYSTAL_PPM && *sigma_ppm < TEACHES_PPM)
                .map(|(rate_ppm, sigma_ppm)| (rate_ppm, sigma_ppm.max(0.02).powi(-2)))
                .collect();
            own.sort_by(|a, b| a.0.total_cmp(&b.0));
            let total: f64 = own.iter().map(|(_, weight)| weight).sum();
            let mut sum = 0.0;
            let (rate_ppm, _) = *own.iter().find(|(_, weight)| {
                sum += weight;
                sum >= 0.5 * total
            })?;
            let mut spread: Vec<f64> = own.iter().map(|(rate, _)| (rate - rate_ppm).abs()).collect();
            let scatter = scaled_median(&mut spread)?;
            let sigma_ppm = scatter.hypot(WARMING_PPM).hypot(total.powf(-0.5));
            Some(DeviceRate { device, rate_ppm, sigma_ppm, clips: own.len() })
        })
        .collect()
}

/// Rate of a clip's longest run from end to end, and its standard deviation, ppm.
fn mean_rate(map: &[Stretch]) -> Option<(f64, f64)> {
    let run = runs(map).max_by(|a, b| length_s(a).total_cmp(&length_s(b)))?;
    let (first, last) = (run[0], run[run.len() - 1]);
    let rate_ppm = (length_s(run) / (last.end_s() - first.start_s) - 1.0) * 1e6;
    Some((rate_ppm, first.rate_sigma_ppm))
}

/// What the timecode box of the day says of the clocks of devices that sound says nothing of: how fast each runs against
/// the box, less how fast the reference does by those that are known both ways.
pub(crate) fn learn_by_box(clips: &[DayClip], reference: usize, rates: &mut Vec<DeviceRate>) {
    let against_box: Vec<(usize, f64, usize)> = devices(clips)
        .into_iter()
        .filter_map(|device| {
            let own = clips.iter().filter(|clip| clip.device == device);
            let mut measured: Vec<f64> =
                own.filter_map(|clip| clip.against_box).map(|clock| clock.rate_ppm).collect();
            measured.sort_by(f64::total_cmp);
            Some((device, *measured.get(measured.len() / 2)?, measured.len()))
        })
        .collect();
    let known = |device: usize| {
        if device == reference {
            Some(0.0)
        } else {
            rates.iter().find(|r| r.device == device).map(|r| r.rate_ppm)
        }
    };
    let mut of_reference: Vec<f64> =
        against_box.iter().filter_map(|(device, ppm, _)| Some(ppm - known(*device)?)).collect();
    of_reference.sort_by(f64::total_cmp);
    let Some(&middle) = of_reference.get(of_reference.len() / 2) else { return };
    // Two boxes would be two clocks.
    if of_reference[of_reference.len() - 1] - of_reference[0] > 2.0 * BOX_PPM {
        return;
    }
    let unknown: Vec<DeviceRate> = against_box
        .iter()
        .filter(|(device, ..)| known(*device).is_none())
        .map(|&(device, ppm, count)| DeviceRate {
            device,
            rate_ppm: ppm - middle,
            sigma_ppm: BOX_PPM.hypot(WARMING_PPM),
            clips: count,
        })
        .collect();
    rates.extend(unknown);
}

/// Lends `rate` to a clip whose own is worse known. `middle_s` is the moment of its own time at which its position is
/// known best, and stays.
pub(crate) fn lend(map: &mut [Stretch], rate: &DeviceRate, middle_s: f64) -> bool {
    let Some(first) = map.first().copied() else { return false };
    let bends = map.windows(2).any(|pair| joined(&pair[0], &pair[1]));
    if bends || first.rate_sigma_ppm < rate.sigma_ppm || (first.rate_ppm).abs() > CRYSTAL_PPM {
        return false;
    }
    let (own, lent) = (first.rate_sigma_ppm.powi(-2), rate.sigma_ppm.powi(-2));
    let both = (first.rate_ppm * own + rate.rate_ppm * lent) / (own + lent);
    for stretch in map {
        // The middle of what was measured, or the nearest moment of this stretch.
        let at = middle_s.clamp(stretch.clip_start_s, stretch.clip_end_s);
        let axis = stretch.axis_s(at);
        let lever_s = at - stretch.clip_start_s;
        let at_middle =
            (stretch.start_sigma_s.powi(2) - (lever_s * stretch.rate_sigma_ppm * 1e-6).powi(2)).max(1e-12);
        stretch.rate_ppm = both;
        stretch.rate_sigma_ppm = (own + lent).powf(-0.5);
        stretch.start_s = axis - lever_s / (1.0 + both * 1e-6);
        stretch.start_sigma_s = (at_middle + (lever_s * stretch.rate_sigma_ppm * 1e-6).powi(2)).sqrt();
    }
    true
}
