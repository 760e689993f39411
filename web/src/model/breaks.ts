/** Breaks along a clip: where samples were lost, what follows lies later than the clip's own time says. */
import type { Stretch } from '../api/types';
import { axisAt, runs } from './axis';

export type Break = {
  /** Where it lies in the clip's own time, seconds. */
  clip_s: number;
  /** How much later what follows lies than it would without it, seconds. */
  step_s: number;
};

/** The breaks along a clip, in their order. */
export function breaks(stretches: readonly Stretch[]): Break[] {
  const all = runs(stretches);
  return all.slice(1).flatMap((run, i) => {
    const [last, next] = [all[i]?.at(-1), run[0]];
    return last && next
      ? [{ clip_s: next.clip_start_s, step_s: next.start_s - axisAt(last, next.clip_start_s) }]
      : [];
  });
}

/** The number of the break that is nearest to a moment of the clip. */
export function nearestBreak(all: readonly Break[], clip: number): number | null {
  const far = ({ clip_s }: Break) => Math.abs(clip_s - clip);
  return all.reduce<number | null>((best, one, i) => {
    const old = best === null ? undefined : all[best];
    return !old || far(one) < far(old) ? i : best;
  }, null);
}

/** Where a moment of the clip lies against where an uncorrected clock from its beginning on would put it, seconds later. */
export function uncorrected(stretches: readonly Stretch[], clip: number): number {
  const first = stretches[0];
  const own = stretches.find((one) => clip < one.clip_end_s) ?? stretches.at(-1);
  return first && own ? axisAt(own, clip) - first.start_s - (clip - first.clip_start_s) : 0;
}
