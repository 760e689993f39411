/** Moments of a group at which other angles run than before. */
import type { Group } from '../api/types';
import { seenOf } from './angles';

/** The frames at which one of the angles that are switched to begins or ends, or a piece is taken out, in order. */
export function changesOf(group: Pick<Group, 'angles' | 'frames' | 'seams'>): number[] {
  const edges = new Set((group.seams ?? []).map(({ at }) => at));
  for (const { parts } of seenOf(group)) {
    const begins = new Set(parts.map((part) => part.from_frame));
    const ends = new Set(parts.map((part) => part.to_frame));
    // What goes on in the next file neither ends nor begins.
    for (const at of begins) if (!ends.has(at)) edges.add(at);
    for (const at of ends) if (!begins.has(at)) edges.add(at);
  }
  return [...edges].filter((at) => at > 0 && at < group.frames).sort((a, b) => a - b);
}
