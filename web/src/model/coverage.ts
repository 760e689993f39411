/** Stretches of a group in which many angles run, or none. */
import type { Covered } from '../api/types';

export type Run = { from: number; to: number };

/** Which stretches are looked for: where at least so many angles run; where none does. */
export type Wanted = number | 'nobody';

/** Those stretches, in order. */
export function runsOf(coverage: readonly Covered[], wanted: Wanted): Run[] {
  const runs: Run[] = [];
  for (const { from, to, angles } of coverage) {
    if (wanted === 'nobody' ? angles > 0 : angles < wanted) continue;
    const last = runs.at(-1);
    if (last && last.to === from) last.to = to;
    else runs.push({ from, to });
  }
  return runs;
}

/** The stretch that a frame is in, else the longest. */
export function runAt(runs: readonly Run[], at: number): Run | undefined {
  const here = runs.find(({ from, to }) => at >= from && at < to);
  return here ?? [...runs].sort((a, b) => b.to - b.from - (a.to - a.from))[0];
}

/** The first frame of the next stretch that way; none where there is none. */
export function nextRun(runs: readonly Run[], at: number, by: 1 | -1): number | undefined {
  const starts = runs.map(({ from }) => from);
  return by > 0 ? starts.find((from) => from > at) : starts.findLast((from) => from < at);
}
