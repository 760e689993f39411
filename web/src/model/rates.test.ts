import { expect, test } from 'vitest';
import type { Day } from '../api/day';
import { meanRate, ratesOf } from './rates';

const placed = (clip: number, start_s: number, rate_ppm: number, sigma: number, kind = 'waveform') => ({
  clip,
  placement: {
    stretches: [{ clip_start_s: 0, clip_end_s: 60, start_s, rate_ppm, rate_sigma_ppm: sigma }],
    evidence: [{ kind, used: true }],
  },
});

const day = {
  pass: { axis_zero: 0 },
  clips: [1, 2, 3, 4, 5].map((id) => ({ id, device: id === 5 ? 2 : 1 })),
  placements: [
    placed(2, 900, 8, 0.5),
    placed(1, 100, 10, 1),
    placed(3, 1200, 1000, 1),
    placed(4, 1500, 9, 1, 'file_timecode'),
    placed(5, 0, 50, 1),
  ],
} as unknown as Day;

test('the rates of a device are those of its clips that lie by sound at their own speed, in order', () => {
  expect(ratesOf(day, 1).map(({ clip, at, ppm }) => [clip, at, ppm])).toEqual([
    [1, 100, 10],
    [2, 900, 8],
  ]);
  expect(ratesOf(day, 9)).toEqual([]);
});

test('the surer a rate the more it counts', () => {
  // Weights 1 and 4.
  expect(meanRate(ratesOf(day, 1))).toBeCloseTo(8.4);
  expect(meanRate([])).toBeNull();
});
