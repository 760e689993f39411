/** Where slips stand on the day sheet: bands of what ran together, folded silence between them. */
import type { Day } from '../api/day';
import type { ArrivingClip, ClipView, Island, PlacementView } from '../api/types';
import { end, runs, zeroOf } from './axis';
import { foldsOf, type Fold } from './folds';
import { islandOf } from './island';

/** A clip (or one run of it) on the sheet. */
export type Slip = {
  clip: ClipView;
  placed: PlacementView | undefined;
  /** Which run of the clip, and of how many. */
  part: number;
  parts: number;
  from: number;
  to: number;
  /** It stands where a running pass found it first: it may move yet. */
  isFirst: boolean;
};

/** Where a running pass found clips first: time of day, seconds. */
export type First = ReadonlyMap<number, number>;

/** The latest of the first places of each clip, of those whose time of day is known. */
export const firstPlaces = (arriving: readonly ArrivingClip[]): First =>
  new Map(arriving.flatMap(({ clip, at_s }) => (at_s === null ? [] : [[clip, at_s] as const])));

const NOWHERE: First = new Map();

/** What ran together. */
export type Band = {
  from: number;
  to: number;
  slips: Slip[];
  name: string;
  /** Of most of its clips; empty where none says. */
  scene: string;
  /** The shoot day it was recorded on, where there are several. */
  day: string;
  component: number;
  /** Stretches of it that are drawn folded. */
  folds: Fold[];
  /** Where it lies on the day, if it hangs on nothing but clocks. */
  island: Island | undefined;
};

/** Seconds of silence from which the sheet is folded; of a day. */
const FOLD = 20;
const DAY = 86_400;

/** Of clips that no pass was asked for. */
const UNKNOWN = -1;

/**
 * Slips in order of time of day: where the pass put them, else where their own clocks do. A band holds one component; where it
 * is asked for, what only some devices ran through is folded.
 */
export function bands(day: Day, fold = false, first: First = NOWHERE): Band[] {
  const placements = new Map(day.placements.map((placed) => [placed.clip, placed]));
  const zero = zeroOf(day.pass);
  const severalDays = new Set(day.clips.map((clip) => clip.day)).size > 1;
  const slips: Slip[] = day.clips.flatMap((clip): Slip[] => {
    const placed = placements.get(clip.id);
    const found_s = first.get(clip.id);
    const bare = !day.pass || !placed || placed.placement.stretches.length === 0;
    if (bare) {
      // What no pass was asked for stands by its own clock.
      const from = found_s ?? (placed ? null : clip.own_clock_s);
      if (from === null) return [];
      const to = from + clip.facts.duration_s;
      return [{ clip, placed, part: 0, parts: 1, from, to, isFirst: found_s !== undefined }];
    }
    const found = runs(placed.placement.stretches);
    return found.map((run, part) => ({
      clip,
      placed,
      part,
      parts: found.length,
      from: zero + (run[0]?.start_s ?? 0),
      to: zero + Math.max(...run.map(end)),
      isFirst: false,
    }));
  });
  slips.sort((a, b) => a.from - b.from);
  const found: Band[] = [];
  for (const slip of slips) {
    const component = slip.placed?.placement.component ?? (day.pass ? UNKNOWN : 0);
    const last = found.findLast((band) => band.component === component);
    if (last && slip.from < last.to + (day.pass ? 0 : FOLD)) {
      last.slips.push(slip);
      last.to = Math.max(last.to, slip.to);
    } else {
      found.push({
        from: slip.from,
        to: slip.to,
        slips: [slip],
        name: '',
        scene: '',
        day: severalDays ? (slip.clip.day ?? '') : '',
        folds: [],
        component,
        island: islandOf(day, component),
      });
    }
  }
  for (const band of found) {
    const group = day.groups.find(({ group }) => {
      const start = group.start.frames / (group.start.rate.num / group.start.rate.den);
      // A later shoot day begins anew at midnight.
      const off = Math.abs(start - band.from) % DAY;
      return group.component === band.component && Math.min(off, DAY - off) < 1;
    });
    band.name = group?.group.name ?? '';
    band.scene = sceneOf(band.slips);
    if (fold) {
      band.folds = foldsOf(
        band.slips.map(({ clip, from, to }) => ({
          device: clip.device,
          picture: !!clip.facts.picture,
          from,
          to,
        })),
      );
    }
  }
  return found;
}

/** The scene that most of some clips are of. */
function sceneOf(slips: readonly Slip[]): string {
  const counts = new Map<string, number>();
  for (const { clip } of slips) {
    if (clip.scene) counts.set(clip.scene, (counts.get(clip.scene) ?? 0) + 1);
  }
  return [...counts].reduce((most, one) => (one[1] > most[1] ? one : most), ['', 0] as const)[0];
}

/** Clips that take part and have no place, not even a first one: before a pass those that no clock places. */
export function without(day: Day, first: First = NOWHERE): ClipView[] {
  const takes = ({ part, id }: ClipView) => part !== 'no_sync' && part !== 'playback' && !first.has(id);
  const verdicts = new Map(day.placements.map(({ clip, placement }) => [clip, placement.verdict]));
  const lost = (clip: ClipView) => {
    const verdict = verdicts.get(clip.id);
    return verdict === undefined ? clip.own_clock_s === null : verdict === 'unplaced';
  };
  return day.clips.filter((clip) => takes(clip) && lost(clip));
}

/** The placements of the clips that take part. */
export function taking(day: Day): PlacementView[] {
  const resting = new Set(
    day.clips.filter(({ part }) => part === 'no_sync' || part === 'playback').map(({ id }) => id),
  );
  return day.placements.filter(({ clip }) => !resting.has(clip));
}
