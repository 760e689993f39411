/** The round of doubt: what needs eyes, worst first. */
import type { Day } from '../api/day';
import type { ClipView, PlacementView } from '../api/types';

/** Why a clip needs eyes. */
export type Why = 'unplaced' | 'check' | 'alone';

/** A clip that needs eyes. */
export type Doubt = { clip: ClipView; placed: PlacementView; why: Why };

/** What each of them is called. */
export const WHY: Record<Why, string> = {
  unplaced: 'No place found',
  check: 'To check',
  alone: 'One piece of evidence',
};

const RANK: Record<Why, number> = { unplaced: 0, check: 1, alone: 2 };

/**
 * Clips that nobody looked at and that need eyes: those without a place, those to check from the least sure on, and last
 * those that are solid by one piece of evidence alone.
 */
export function round(day: Day): Doubt[] {
  const clips = new Map(day.clips.map((clip) => [clip.id, clip]));
  const looked = new Set(day.looks.map(({ clip }) => clip));
  const found = day.placements.flatMap((placed): Doubt[] => {
    const clip = clips.get(placed.clip);
    const { verdict, evidence } = placed.placement;
    if (!clip || looked.has(clip.id) || clip.part === 'no_sync' || clip.part === 'playback') return [];
    if (day.pass?.reference === clip.device && verdict === 'solid') return [];
    if (verdict === 'unplaced' || verdict === 'check') return [{ clip, placed, why: verdict }];
    const used = evidence.filter((one) => one.used).length;
    return verdict === 'solid' && used <= 1 ? [{ clip, placed, why: 'alone' }] : [];
  });
  return found.sort(
    (a, b) => RANK[a.why] - RANK[b.why] || a.placed.placement.confidence - b.placed.placement.confidence,
  );
}

/** Those that have to be looked at before a day is checked: all but the solid ones. */
export const due = (doubts: readonly Doubt[]) => doubts.filter(({ why }) => why !== 'alone');

/** The one after a clip, or before it; where the clip is none of them, the first. */
export function nextDoubt(doubts: readonly Doubt[], clip: number, by: 1 | -1): Doubt | undefined {
  const at = doubts.findIndex((one) => one.clip.id === clip);
  if (at < 0) return doubts[0];
  return doubts[(at + by + doubts.length) % doubts.length];
}
