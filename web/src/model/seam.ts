/** Pieces that are taken out of a group: where its frames lie on the axis, and among all that it is made of. */
import type { Group, GroupSummary } from '../api/types';

/** How many frames are taken out before a frame. */
export const takenOut = ({ seams }: Pick<Group, 'seams'>, frame: number): number =>
  (seams ?? []).reduce((all, seam) => (seam.at <= frame ? all + seam.frames : all), 0);

/** The frame of all that a group is made of that is shown as its frame `shown`. */
export function wholeFrame({ left }: Pick<GroupSummary, 'left'>, shown: number): number {
  let before = 0;
  for (const [from, to] of left) {
    if (shown < before + to - from) return from + shown - before;
    before += to - from;
  }
  return (left.at(-1)?.[1] ?? 0) + shown - before;
}

/** The frames of all of it from the first of some that are shown up to the last of them. */
export const wholeRange = (own: Pick<GroupSummary, 'left'>, from: number, to: number): [number, number] => [
  wholeFrame(own, from),
  wholeFrame(own, to - 1) + 1,
];

/** How many frames are out at a frame of what is shown, and can be put back there; also at its head and its tail. */
export function outAt(own: Pick<GroupSummary, 'left' | 'group' | 'window'>, at: number): number {
  const seam = own.group.seams?.find((one) => one.at === at);
  if (seam) return seam.frames;
  const [first, last] = [own.left[0]?.[0] ?? 0, own.left.at(-1)?.[1] ?? 0];
  if (at === 0) return first - own.window[0];
  return at === own.group.frames ? own.window[1] - last : 0;
}
