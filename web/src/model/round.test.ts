import { describe, expect, test } from 'vitest';
import type { Day } from '../api/day';
import type { Look, Verdict } from '../api/types';
import { due, nextDoubt, round } from './round';

const day = (
  clips: [id: number, verdict: Verdict, confidence: number, used: number, part?: string][],
  looks: number[] = [],
) =>
  ({
    clips: clips.map(([id, , , , part = 'sync']) => ({ id, part, device: id === 9 ? 7 : 1 })),
    placements: clips.map(([clip, verdict, confidence, used]) => ({
      clip,
      placement: {
        verdict,
        confidence,
        evidence: Array.from({ length: 3 }, (_, i) => ({ used: i < used })),
      },
    })),
    looks: looks.map((clip) => ({ clip }) as Look),
    pass: { reference: 7 },
  }) as unknown as Day;

describe('what needs eyes', () => {
  const clips: Parameters<typeof day>[0] = [
    [1, 'solid', 0.99, 2],
    [2, 'check', 0.7, 1],
    [3, 'unplaced', 0, 0],
    [4, 'check', 0.4, 1],
    [5, 'solid', 0.99, 1],
    [6, 'unplaced', 0, 0, 'no_sync'],
    [7, 'by_hand', 1, 1],
    [9, 'solid', 1, 1],
  ];

  test('comes worst first, and what is sure, rests or was laid by hand is not in it', () => {
    expect(round(day(clips)).map(({ clip, why }) => [clip.id, why])).toEqual([
      [3, 'unplaced'],
      [4, 'check'],
      [2, 'check'],
      [5, 'alone'],
    ]);
    expect(due(round(day(clips)))).toHaveLength(3);
  });

  test('counts down to none', () => {
    const left = (looks: number[]) => due(round(day(clips, looks))).length;
    expect([[], [3], [3, 2], [3, 2, 4]].map(left)).toEqual([3, 2, 1, 0]);
  });

  test('goes round', () => {
    const all = round(day(clips));
    expect(nextDoubt(all, 3, 1)?.clip.id).toBe(4);
    expect(nextDoubt(all, 5, 1)?.clip.id).toBe(3);
    expect(nextDoubt(all, 3, -1)?.clip.id).toBe(5);
    expect(nextDoubt(all, 1, 1)?.clip.id).toBe(3);
    expect(nextDoubt([], 1, 1)).toBeUndefined();
  });
});
