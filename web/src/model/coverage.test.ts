import { expect, test } from 'vitest';
import { nextRun, runAt, runsOf } from './coverage';

const coverage = [
  { from: 0, to: 10, angles: 1 },
  { from: 10, to: 50, angles: 3 },
  { from: 50, to: 60, angles: 2 },
  { from: 60, to: 70, angles: 0 },
  { from: 70, to: 90, angles: 3 },
];

test('stretches of at least so many angles are whole', () => {
  expect(runsOf(coverage, 3)).toEqual([
    { from: 10, to: 50 },
    { from: 70, to: 90 },
  ]);
  expect(runsOf(coverage, 2)[0]).toEqual({ from: 10, to: 60 });
  expect(runsOf(coverage, 4)).toEqual([]);
});

test('holes that nobody covered are named', () => {
  expect(runsOf(coverage, 'nobody')).toEqual([{ from: 60, to: 70 }]);
});

test('one is in a stretch, or the longest is meant; and goes from one to the next', () => {
  const runs = runsOf(coverage, 3);
  expect(runAt(runs, 75)).toEqual({ from: 70, to: 90 });
  expect(runAt(runs, 5)).toEqual({ from: 10, to: 50 });
  expect(runAt([], 5)).toBeUndefined();
  expect(nextRun(runs, 10, 1)).toBe(70);
  expect(nextRun(runs, 70, -1)).toBe(10);
  expect(nextRun(runs, 10, -1)).toBeUndefined();
});
