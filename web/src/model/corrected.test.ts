import { expect, test } from 'vitest';
import type { SourceReport } from '../api/types';
import { correctedAlong, uncorrectedAlong } from './corrected';

const source = (correction: SourceReport['correction'], rate_ppm: number): SourceReport => ({
  files: ['S-001.wav'],
  device: 'Recorder',
  correction,
  fill: 'silence',
  why: '',
  rate_ppm,
  by_cable: false,
  from_s: 10,
  to_s: 1810,
  pieces: 1,
});

test('a clock that counts faster is late at the end unless it is corrected', () => {
  expect(uncorrectedAlong(source('resample', 40))).toEqual([
    { at: 10, late: 0 },
    { at: 1810, late: expect.closeTo(0.072, 9) as number },
  ]);
  expect(correctedAlong(source('resample', 40)).every(({ late }) => late === 0)).toBe(true);
  expect(correctedAlong(source('leave', 40))).toEqual(uncorrectedAlong(source('leave', 40)));
});

test('re-cut it stays within the limit, on both sides', () => {
  for (const ppm of [40, -120]) {
    const along = correctedAlong(source('recut', ppm));
    expect(along.length).toBeGreaterThan(6);
    expect(Math.max(...along.map(({ late }) => Math.abs(late)))).toBeLessThanOrEqual(0.010_001);
    expect(along.at(-1)?.at).toBe(1810);
    expect(along.map(({ at }) => at)).toEqual([...along.map(({ at }) => at)].sort((a, b) => a - b));
  }
  expect(correctedAlong(source('recut', 0))).toHaveLength(2);
});
