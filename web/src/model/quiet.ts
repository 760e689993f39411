/** Quiet passages: which of those that were found are taken out. */

export type Passage = readonly [number, number];

/** How many frames are taken out, of those that are not refused. */
export const saved = (passages: readonly Passage[], refused: ReadonlySet<number>): number =>
  passages.reduce((all, [from, to]) => (refused.has(from) ? all : all + to - from), 0);

/** Levels about a passage, of levels over all frames: from so many frames before it to as many behind. */
export function levelsAbout(
  levels: readonly number[],
  [from, to]: Passage,
  about: number,
  frames: number,
): number[] {
  const at = (frame: number) =>
    Math.round((Math.max(0, Math.min(frames, frame)) / Math.max(1, frames)) * levels.length);
  return levels.slice(at(from - about), Math.max(at(to + about), at(from - about) + 1));
}
