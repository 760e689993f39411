/** How far a sound is off along a picture, before and after it is corrected. */
import type { Handling, SourceReport } from '../api/types';

/** A moment of the picture, seconds, and how much later the sound is than it should be, seconds. */
export type Off = { at: number; late: number };

/** A re-cut sound is never further off than this, and slips nearly as far to the other side. */
const LIMIT_S = 0.01;
const BACK = 0.9;

/** A sound as its clock runs from where it begins: late where it counts faster. */
export function uncorrectedAlong({ from_s, to_s, rate_ppm }: SourceReport): Off[] {
  return [
    { at: from_s, late: 0 },
    { at: to_s, late: (to_s - from_s) * rate_ppm * 1e-6 },
  ];
}

/** The same as it is corrected. */
export function correctedAlong(source: SourceReport): Off[] {
  const { from_s, to_s, rate_ppm, correction } = source;
  if (correction === 'leave') return uncorrectedAlong(source);
  const flat = [
    { at: from_s, late: 0 },
    { at: to_s, late: 0 },
  ];
  const pace = rate_ppm * 1e-6;
  if (correction === 'resample' || pace === 0) return flat;
  const points: Off[] = [{ at: from_s, late: 0 }];
  const side = Math.sign(pace);
  let at = from_s;
  let late = 0;
  // Cut where the limit is reached; in truth at a quiet moment before.
  for (let cuts = 0; cuts < 10_000; cuts++) {
    const next = at + (side * LIMIT_S - late) / pace;
    if (next >= to_s) break;
    late = -side * BACK * LIMIT_S;
    points.push({ at: next, late: side * LIMIT_S }, { at: next, late });
    at = next;
  }
  return [...points, { at: to_s, late: late + (to_s - at) * pace }];
}

/** The words for a correction; `null` is what is proposed. */
export const CORRECTIONS: [Handling['correction'], string][] = [
  [null, 'as proposed'],
  ['resample', 'resample'],
  ['recut', 're-cut'],
  ['leave', 'leave'],
];
