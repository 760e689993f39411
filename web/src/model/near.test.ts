import { expect, test } from 'vitest';
import type { Day } from '../api/day';
import { against, near, nearRough, reachAt } from './near';

/** A recorder (device 1, the reference) through takes at 0 and 1000 s, a camera at 0, one at 1000 that is heard by none. */
const day = {
  pass: { axis_zero: 36_000 * 705_600_000, reference: 1 },
  clips: [
    { id: 1, device: 1, facts: { duration_s: 60, sound: {} }, channels: [] },
    { id: 2, device: 1, facts: { duration_s: 60, sound: {} }, channels: [] },
    { id: 3, device: 2, facts: { duration_s: 50, sound: {} }, channels: [] },
    { id: 4, device: 3, facts: { duration_s: 50, sound: null }, channels: null },
    { id: 5, device: 3, facts: { duration_s: 40, sound: {} }, channels: [] },
  ],
  placements: [
    [1, 0, 60],
    [2, 1000, 60],
    [3, 5, 50],
    [4, 0, 50],
    [5, 0, 0],
  ].map(([clip, start_s = 0, length = 0]) => ({
    clip,
    placement: {
      stretches: length ? [{ clip_start_s: 0, clip_end_s: length, start_s, rate_ppm: 0 }] : [],
    },
  })),
} as unknown as Day;

test('a clip is laid against what ran then, the reference first; what is silent or nowhere is no help', () => {
  const { then, others } = against(day, 5, 36_010);
  expect(then.map(({ clip }) => clip)).toEqual([1, 3]);
  expect(others.map(({ clip }) => clip)).toEqual([2]);
  // One device cannot have recorded two clips at once.
  expect(against(day, 2, 36_010).then.map(({ clip }) => clip)).toEqual([3]);
});

test('a rough place is looked near as far as the hand is sure, on the axis', () => {
  expect(near(day, 5, 1, 36_010.5, 2)).toEqual({ clip: 5, against: 1, start_ms: 10_500, within_ms: 2000 });
  expect(nearRough(day, { clip: 5, at: 36_010, scale: 48 })).toEqual({
    clip: 5,
    against: 1,
    start_ms: 10_000,
    within_ms: 1000,
  });
  expect(reachAt(1e6)).toBe(0.5);
  expect(reachAt(1e-6)).toBe(600);
});
