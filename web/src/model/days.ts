/** The shoot days of a production: each is a sheet of its own. */
import type { Day } from '../api/day';
import { taking } from './sheet';

/** A shoot day: its name, how many clips it has, how many need eyes. */
export type ShootDay = { name: string; clips: number; due: number };

const NUMBERS = new Intl.Collator(undefined, { numeric: true });

/** The shoot days in their order; none where a clip that takes part has no day, or all are of one. `due` are the clips that need eyes. */
export function shootDays(day: Day, due: ReadonlySet<number>): ShootDay[] {
  const found = new Map<string, ShootDay>();
  const resting = restingOf(day);
  for (const clip of day.clips) {
    if (resting.has(clip.id)) continue;
    if (clip.day === null) return [];
    const own = found.get(clip.day) ?? { name: clip.day, clips: 0, due: 0 };
    own.clips += 1;
    own.due += due.has(clip.id) ? 1 : 0;
    found.set(clip.day, own);
  }
  const all = [...found.values()].sort((a, b) => NUMBERS.compare(a.name, b.name));
  return all.length > 1 ? all : [];
}

/** The clips that take no part. */
const restingOf = (day: Day) =>
  new Set(day.clips.filter(({ part }) => part === 'no_sync' || part === 'playback').map(({ id }) => id));

/** A production with the clips of one shoot day alone; all of it where there is no such day. */
export function ofDay(day: Day, name: string | null): Day {
  if (name === null) return day;
  const clips = day.clips.filter((clip) => clip.day === name);
  const ids = new Set(clips.map(({ id }) => id));
  const placements = day.placements.filter(({ clip }) => ids.has(clip));
  const counts = { solid: 0, check: 0, unplaced: 0, by_hand: 0 };
  const own = { ...day, clips, placements };
  for (const { placement } of taking(own)) counts[placement.verdict] += 1;
  return { ...own, counts };
}
