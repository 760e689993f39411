/** Performances to a track: each take under the track it was made to, above the other takes. */
import type { Day } from '../api/day';
import type { ClipView, PlacementView } from '../api/types';
import { clipAt, end, runs } from './axis';

/** A stretch of the track that a take was made to, seconds from the track's beginning on. */
export type TakePart = {
  from: number;
  to: number;
  /** The same in the clip's own time. */
  clipFrom: number;
  clipTo: number;
  /** The clip goes on beyond what is shown, before and after. */
  before: boolean;
  after: boolean;
};

/** A clip under a track. */
export type Take = { clip: ClipView; placed: PlacementView; parts: TakePart[] };

/** A track with its takes: by device, then by when they were made. */
export type Track = { clip: ClipView; length: number; takes: Take[] };

/** What is shown beyond the ends of a track, as a share of its length. */
export const MARGIN = 0.04;

/** The tracks of a pass whose axis is one; null of a pass of a day that ran once. */
export function tracksOf(day: Day): Track[] | null {
  const { pass } = day;
  const byId = new Map(day.clips.map((clip) => [clip.id, clip]));
  if (!pass || byId.get(pass.origin)?.part !== 'playback') return null;
  const laid = day.placements.filter(({ placement }) => placement.stretches.length > 0);
  const order = new Map(day.devices.map(({ id }, i) => [id, i]));
  const rank = ({ clip }: Take) => [order.get(clip.device) ?? 0, clip.own_clock_s ?? 0, clip.id];
  const less = (a: number[], b: number[]) => {
    const at = a.findIndex((value, i) => value !== b[i]);
    return at < 0 ? 0 : (a[at] ?? 0) - (b[at] ?? 0);
  };
  return laid.flatMap((track): Track[] => {
    const clip = byId.get(track.clip);
    const own = track.placement.stretches;
    const [first, last] = [own[0], own.at(-1)];
    if (clip?.part !== 'playback' || !first || !last) return [];
    const begin = first.start_s;
    const length = end(last) - begin;
    const edges = { from: begin - MARGIN * length, to: begin + (1 + MARGIN) * length };
    const takes = laid.flatMap((placed): Take[] => {
      const take = byId.get(placed.clip);
      if (!take || take.part === 'playback') return [];
      const parts = runs(placed.placement.stretches).flatMap((run): TakePart[] => {
        const [head, tail] = [run[0], run.at(-1)];
        if (!head || !tail) return [];
        const [from, to] = [Math.max(head.start_s, edges.from), Math.min(end(tail), edges.to)];
        if (to <= from || end(tail) <= begin || head.start_s >= begin + length) return [];
        const at = (moment: number) => clipAt(run.find((one) => moment < end(one)) ?? tail, moment);
        return [
          {
            from: from - begin,
            to: to - begin,
            clipFrom: at(from),
            clipTo: at(to),
            before: head.start_s < edges.from,
            after: end(tail) > edges.to,
          },
        ];
      });
      return parts.length > 0 ? [{ clip: take, placed, parts }] : [];
    });
    takes.sort((a, b) => less(rank(a), rank(b)));
    return [{ clip, length, takes }];
  });
}
