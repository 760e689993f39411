/** The line and the angles of a group, at a frame. */
import type { Angle, AnglePart, Switch } from '../api/types';

/** Whether a part covers a frame. */
export const covers = (part: AnglePart, frame: number) => frame >= part.from_frame && frame < part.to_frame;

/** Whether an angle runs at a frame. */
export const runsAt = (angle: Angle, frame: number) => angle.parts.some((part) => covers(part, frame));

/** The stretch of the line that a frame is in. */
export function stretchAt(switches: readonly Pick<Switch, 'at'>[], frame: number): number {
  let [low, high] = [0, switches.length - 1];
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if ((switches[middle]?.at ?? 0) <= frame) low = middle;
    else high = middle - 1;
  }
  return Math.max(low, 0);
}

/** The cut that is nearest to a place, no further than `near`; the head is none. */
export function cutNear(switches: readonly Pick<Switch, 'at'>[], at: number, near: number): number | null {
  const before = stretchAt(switches, at);
  const away = (index: number) => Math.abs((switches[index]?.at ?? Infinity) - at);
  const best = away(before + 1) < away(before) ? before + 1 : before;
  return best > 0 && away(best) <= near ? best : null;
}

/** The first and the last frame to which a cut can be moved: its neighbours keep a frame. */
export const roomOf = (
  switches: readonly Pick<Switch, 'at'>[],
  cut: number,
  frames: number,
): [number, number] => [(switches[cut - 1]?.at ?? 0) + 1, (switches[cut + 1]?.at ?? frames) - 1];
