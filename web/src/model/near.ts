/** Where a clip is looked for that a hand put somewhere: against what, and how far about. */
import type { Day } from '../api/day';
import type { Near, PlacementView } from '../api/types';
import { end, zeroOf } from './axis';

/** How well a hand puts a clip on the sheet, pixels. */
const BREADTH = 48;

/** How far about a rough place is looked, in seconds, where a second is so many pixels. */
export const reachAt = (scale: number) =>
  Math.min(600, Math.max(0.5, Math.round((20 * BREADTH) / scale) / 20));

/** Clips that a clip can be laid against: those that ran at a time of the day first, of them the reference's. */
export function against(
  day: Day,
  clip: number,
  at: number,
): { then: PlacementView[]; others: PlacementView[] } {
  const own = day.clips.find(({ id }) => id === clip);
  const length = own?.facts.duration_s ?? 0;
  const zero = zeroOf(day.pass);
  const known = new Map(day.clips.map((one) => [one.id, one]));
  const heard = day.placements.filter(({ clip: id, placement }) => {
    const other = known.get(id);
    return id !== clip && placement.stretches.length > 0 && other?.facts.sound && other.channels;
  });
  const together = ({ placement: { stretches } }: PlacementView) => {
    const [first, last] = [stretches[0], stretches.at(-1)];
    if (!first || !last) return 0;
    return Math.min(at + length, zero + end(last)) - Math.max(at, zero + first.start_s);
  };
  const isReference = ({ clip: id }: PlacementView) => known.get(id)?.device === day.pass?.reference;
  const then = heard
    .filter((other) => together(other) > 0 && known.get(other.clip)?.device !== own?.device)
    .sort((a, b) => Number(isReference(b)) - Number(isReference(a)) || together(b) - together(a));
  const early = new Set(then);
  return { then, others: heard.filter((other) => !early.has(other)) };
}

/** A narrow search as it is asked for: within so many seconds of a time of the day. */
export function near(day: Day, clip: number, against: number, at: number, within: number): Near {
  const start_ms = Math.round((at - zeroOf(day.pass)) * 1000);
  return { clip, against, start_ms, within_ms: Math.max(1, Math.round(within * 1000)) };
}

/** A narrow search near where a hand put a clip, against the clip that is likeliest to have heard the same. */
export function nearRough(day: Day, rough: { clip: number; at: number; scale: number }): Near | null {
  const { then, others } = against(day, rough.clip, rough.at);
  const other = then[0] ?? others[0];
  return other ? near(day, rough.clip, other.clip, rough.at, reachAt(rough.scale)) : null;
}
