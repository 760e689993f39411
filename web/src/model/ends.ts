/** What of an angle comes soon: that it ends, or begins. */
import type { Angle } from '../api/types';

/** It is said so long beforehand, seconds. */
const SOON_S = 5;

/** In how many frames an angle ends, or one that does not run begins; none where that is not soon. */
export function soonOf(
  { parts }: Pick<Angle, 'parts'>,
  frame: number,
  fps: number,
): { ends: number } | { begins: number } | null {
  const soon = SOON_S * fps;
  const index = parts.findIndex((part) => frame >= part.from_frame && frame < part.to_frame);
  if (index < 0) {
    const next = parts.find((part) => part.from_frame > frame);
    return next && next.from_frame - frame <= soon ? { begins: next.from_frame - frame } : null;
  }
  // What goes on in the next file does not end.
  let last = index;
  while (parts[last + 1]?.from_frame === parts[last]?.to_frame) last++;
  const left = (parts[last]?.to_frame ?? frame) - frame;
  return left <= soon ? { ends: left } : null;
}
