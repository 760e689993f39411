/** Stretches of a group in which nothing ran: neither an angle nor the sound below. */
import type { Group } from '../api/types';
import { seenOf } from './angles';
import type { Run } from './coverage';

/** Those of `least` frames or more, in order. */
export function holesOf(group: Pick<Group, 'angles' | 'frames' | 'sound'>, least: number): Run[] {
  const runs = [...seenOf(group), ...(group.sound ? [group.sound] : [])]
    .flatMap(({ parts }) => parts.map(({ from_frame, to_frame }) => ({ from: from_frame, to: to_frame })))
    .sort((a, b) => a.from - b.from);
  const holes: Run[] = [];
  let at = 0;
  for (const { from, to } of [...runs, { from: group.frames, to: group.frames }]) {
    if (from - at >= least) holes.push({ from: at, to: from });
    at = Math.max(at, to);
  }
  return holes;
}
