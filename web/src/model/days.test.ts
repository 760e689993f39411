import { describe, expect, test } from 'vitest';
import type { Day } from '../api/day';
import { ofDay, shootDays } from './days';

const day = (clips: [day: string | null, verdict: string, part?: string][]) =>
  ({
    clips: clips.map(([day, , part = 'sync'], id) => ({ id, day, part })),
    placements: clips.map(([, verdict], clip) => ({ clip, placement: { verdict } })),
    counts: {},
  }) as unknown as Day;

describe('shoot days', () => {
  const two = day([
    ['Day 10', 'solid'],
    ['Day 9', 'check'],
    ['Day 9', 'solid'],
    [null, 'unplaced', 'no_sync'],
  ]);

  test('come in the order of their numbers, with what needs eyes', () => {
    expect(shootDays(two, new Set([1]))).toEqual([
      { name: 'Day 9', clips: 2, due: 1 },
      { name: 'Day 10', clips: 1, due: 0 },
    ]);
  });

  test('are none where one is all there is, or a clip that takes part has none', () => {
    expect(shootDays(day([['Day 1', 'solid']]), new Set())).toEqual([]);
    const lost = day([
      ['Day 1', 'solid'],
      ['Day 2', 'solid'],
      [null, 'check'],
    ]);
    expect(shootDays(lost, new Set())).toEqual([]);
  });

  test('each is a sheet with its own clips, places and counts', () => {
    const own = ofDay(two, 'Day 9');
    expect(own.clips.map(({ id }) => id)).toEqual([1, 2]);
    expect(own.placements.map(({ clip }) => clip)).toEqual([1, 2]);
    expect(own.counts).toEqual({ solid: 1, check: 1, unplaced: 0, by_hand: 0 });
    expect(ofDay(two, null)).toBe(two);
  });
});
