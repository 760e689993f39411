import { expect, test } from 'vitest';
import type { GroupSummary } from '../api/types';
import { outAt, takenOut, wholeFrame, wholeRange } from './seam';

// Of 500 frames 50 to 400 are trimmed to; 50 to 60, 100 to 150 and 390 to 400 are taken out.
const own = {
  left: [
    [60, 100],
    [150, 390],
  ],
  window: [50, 400],
  group: { frames: 280, seams: [{ at: 40, frames: 50 }] },
} as unknown as GroupSummary;

test('a frame of what is shown is one of all', () => {
  expect([0, 39, 40, 279, 280, 285].map((frame) => wholeFrame(own, frame))).toEqual([
    60, 99, 150, 389, 390, 395,
  ]);
  expect(wholeRange(own, 0, 40)).toEqual([60, 100]);
  expect(wholeRange(own, 30, 50)).toEqual([90, 160]);
});

test('frames behind a seam lie later by what is out', () => {
  expect([0, 39, 40, 200].map((frame) => takenOut(own.group, frame))).toEqual([0, 0, 50, 50]);
  expect(takenOut({}, 7)).toBe(0);
});

test('what is out can be put back at its seam, at the head and at the tail', () => {
  expect([0, 39, 40, 41, 280].map((frame) => outAt(own, frame))).toEqual([10, 0, 50, 0, 10]);
});
