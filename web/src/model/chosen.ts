/** Which clips of the sheet are chosen: one that leads, and all that an action is for. */
import type { Day } from '../api/day';
import type { Verdict } from '../api/types';
import { taking, type Slip } from './sheet';

export type Chosen = {
  /** The one that the margin speaks of where it is alone, and from which steps are counted. */
  lead: number | null;
  /** Where a range begins. */
  anchor: number | null;
  all: ReadonlySet<number>;
};

export const NONE: Chosen = { lead: null, anchor: null, all: new Set() };

/** With shift up to there; with ctrl one more, or one less. */
export type How = { extend?: boolean; toggle?: boolean };

/** These and no other. */
export function only(clips: readonly number[], lead = clips[0]): Chosen {
  if (lead === undefined) return NONE;
  return { lead, anchor: lead, all: new Set(clips) };
}

/** A clip is pointed at; `range` are the clips from one to another. */
export function pick(
  now: Chosen,
  clip: number,
  how: How,
  range: (from: number, to: number) => number[],
): Chosen {
  if (how.extend && now.anchor !== null) {
    return { lead: clip, anchor: now.anchor, all: new Set(range(now.anchor, clip)) };
  }
  if (!how.toggle) return only([clip]);
  const all = new Set(now.all);
  if (!all.delete(clip)) return { lead: clip, anchor: clip, all: all.add(clip) };
  const lead = now.lead === clip ? ([...all].at(-1) ?? null) : now.lead;
  return { lead, anchor: lead, all };
}

/** The clips of a rectangle of the sheet: of the devices from one clip's to the other's that began between the two. */
export function between(slips: readonly Slip[], devices: readonly number[], from: number, to: number) {
  const [a, b] = [from, to].map((clip) => slips.find((slip) => slip.clip.id === clip));
  if (!a || !b) return [from, to].filter((clip) => slips.some((slip) => slip.clip.id === clip));
  const at = ({ clip }: Slip) => devices.indexOf(clip.device);
  const [left, right] = [Math.min(at(a), at(b)), Math.max(at(a), at(b))];
  const [first, last] = [Math.min(a.from, b.from), Math.max(a.from, b.from)];
  const inside = slips.filter(
    (slip) => at(slip) >= left && at(slip) <= right && slip.from >= first && slip.from <= last,
  );
  return [...new Set(inside.map(({ clip }) => clip.id))];
}

/** What clips can have in common. */
export type Kind = { device: number } | { verdict: Verdict } | { scene: string };

/** All clips of a kind, those without a place too. */
export function alike(day: Day, kind: Kind): number[] {
  if ('verdict' in kind) {
    return taking(day)
      .filter(({ placement }) => placement.verdict === kind.verdict)
      .map(({ clip }) => clip);
  }
  return day.clips
    .filter((clip) => ('device' in kind ? clip.device === kind.device : clip.scene === kind.scene))
    .map(({ id }) => id);
}

/** The scenes of the day, as they are numbered. */
export function scenes(day: Day): string[] {
  const all = new Set(day.clips.flatMap(({ scene }) => scene ?? []));
  return [...all].sort((a, b) => a.localeCompare(b, undefined, { numeric: true }));
}
