import { describe, expect, test } from 'vitest';
import type { Stretch } from '../api/types';
import { breaks, nearestBreak, uncorrected } from './breaks';

const piece = (clip_start_s: number, clip_end_s: number, start_s: number, rate_ppm = 0): Stretch => ({
  clip_start_s,
  clip_end_s,
  start_s,
  rate_ppm,
  start_sigma_s: 0,
  rate_sigma_ppm: 0,
});

describe('breaks along a clip', () => {
  // A bend at 30 s, 0.4 s lost at 60 s.
  const bent = 1000 + 30 / (1 + 40e-6);
  const stretches = [piece(0, 30, 1000, 40), piece(30, 60, bent), piece(60, 100, bent + 30.4)];

  test('are where what follows steps; bends are none', () => {
    const found = breaks(stretches);
    expect(found).toHaveLength(1);
    expect(found[0]?.clip_s).toBe(60);
    expect(found[0]?.step_s).toBeCloseTo(0.4, 9);
    expect(breaks([])).toEqual([]);
  });

  test('the nearest is found', () => {
    const all = [10, 50, 90].map((clip_s) => ({ clip_s, step_s: 1 }));
    expect([0, 29, 31, 95].map((at) => nearestBreak(all, at))).toEqual([0, 0, 1, 2]);
    expect(nearestBreak([], 4)).toBeNull();
  });

  test('without correction a fast clock ends early and a loss steps', () => {
    expect(uncorrected(stretches, 0)).toBe(0);
    expect(uncorrected(stretches, 30)).toBeCloseTo(-0.0012, 6);
    expect(uncorrected(stretches, 100)).toBeCloseTo(0.4 - 0.0012, 6);
    expect(uncorrected([], 3)).toBe(0);
  });
});
