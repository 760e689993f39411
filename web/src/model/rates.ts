/** How fast a device's clock ran over the day, clip by clip. */
import type { Day } from '../api/day';
import { zeroOf } from './axis';

/** A clip's rate: when it ran, in seconds of the day, and how sure its rate is. */
export type Rate = { clip: number; at: number; ppm: number; sigma: number };

/** What differs from the label by more is another speed. */
const SPEED_PPM = 600;

/** The rates of a device's clips that lie by their sound, in order of the day. */
export function ratesOf(day: Day, device: number): Rate[] {
  const own = new Set(day.clips.filter((clip) => clip.device === device).map(({ id }) => id));
  const zero = zeroOf(day.pass);
  const found = day.placements.flatMap(({ clip, placement }): Rate[] => {
    const [first] = placement.stretches;
    const heard = placement.evidence.some(({ kind, used }) => kind === 'waveform' && used);
    if (!own.has(clip) || !first || !heard || Math.abs(first.rate_ppm) > SPEED_PPM) return [];
    return [{ clip, at: zero + first.start_s, ppm: first.rate_ppm, sigma: first.rate_sigma_ppm }];
  });
  return found.sort((a, b) => a.at - b.at);
}

/** The rate of the device by all of them, each as sure as it is; null where there is none. */
export function meanRate(rates: readonly Rate[]): number | null {
  let [sum, weights] = [0, 0];
  for (const { ppm, sigma } of rates) {
    const weight = 1 / Math.max(sigma, 0.01) ** 2;
    sum += weight * ppm;
    weights += weight;
  }
  return weights > 0 ? sum / weights : null;
}
