import { useCallback, useMemo, useState } from 'react';
import type { Day } from '../../api/day';
import type { ClipView } from '../../api/types';
import { NONE, alike, between, only, pick, type Chosen, type How, type Kind } from '../../model/chosen';
import type { Band } from '../../model/sheet';

/** Which clips of the sheet are chosen, and how hands change that. */
export function useChosen(day: Day, sheet: Band[], lost: ClipView[], rows: number[] | null = null) {
  const [chosen, setChosen] = useState<Chosen>(NONE);
  const slips = useMemo(() => sheet.flatMap((band) => band.slips), [sheet]);
  const order = useMemo(
    // As they stand: under their tracks, or as the sheet runs.
    () => [...new Set([...(rows ?? slips.map(({ clip }) => clip.id)), ...lost.map(({ id }) => id)])],
    [slips, lost, rows],
  );
  const devices = useMemo(() => day.devices.map(({ id }) => id), [day.devices]);
  const choose = useCallback(
    (clip: number, how: How = {}) =>
      setChosen((now) => pick(now, clip, how, (from, to) => between(slips, devices, from, to))),
    [slips, devices],
  );
  /** All of a kind; the first of them on the sheet. */
  const kind = (of: Kind) => {
    const wanted = new Set(alike(day, of));
    const all = order.filter((clip) => wanted.has(clip));
    const lead = chosen.lead !== null && wanted.has(chosen.lead) ? chosen.lead : all[0];
    setChosen(only(all.length > 0 ? all : [...wanted], lead));
    return lead ?? null;
  };
  const lead = day.clips.find(({ id }) => id === chosen.lead);
  const verdict = day.placements.find(({ clip }) => clip === chosen.lead)?.placement.verdict;
  /** So many on in a list of clips, all between too where they are added; the one that leads now. */
  const step = (list: number[], by: number, how: How = {}) => {
    const at = chosen.lead === null ? -1 : list.indexOf(chosen.lead);
    const next = list[at < 0 ? 0 : (at + by + list.length) % list.length];
    if (next === undefined) return null;
    const range = (from: number, to: number) => {
      const ends = [list.indexOf(from), list.indexOf(to)] as const;
      return list.slice(Math.min(...ends), Math.max(...ends) + 1);
    };
    setChosen(pick(chosen, next, how, range));
    return next;
  };
  return {
    chosen,
    order,
    choose,
    kind,
    step,
    several: useCallback((clips: readonly number[]) => setChosen(only(clips)), []),
    all: () => setChosen(only(order)),
    none: () => setChosen(NONE),
    /** All that have in common with the one that leads. */
    device: () => lead && kind({ device: lead.device }),
    verdict: () => verdict && kind({ verdict }),
    scene: () => lead?.scene && kind({ scene: lead.scene }),
  };
}
