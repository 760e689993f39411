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
