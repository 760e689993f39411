import { expect, test } from 'vitest';
import type { JobSummary } from '../api/types';
import { further, leftSaid, secondsLeft, type Course } from './left';

const pass = (done: number, open = 1) => ({ kind: 'pass', done, total: 400, open }) as JobSummary;

/** A job that did so many steps at each second. */
const course = (...steps: number[]) =>
  steps.reduce<Course>((known, done, second) => further(known, [pass(done)], 1000 * second), {});

test('what is left is foretold by how fast it went lately', () => {
  expect(secondsLeft(course(0, 10, 20, 30, 40), pass(40))).toBeCloseTo(36);
  // Fast for long, slow of late.
  const slow = Array.from({ length: 80 }, (_, i) => (i < 40 ? 8 * i : 320 + (i - 40)));
  expect(secondsLeft(course(...slow), pass(359))).toBeCloseTo(41, 0);
});

test('nothing is foretold of what has hardly begun, stands still or began anew', () => {
  expect(secondsLeft(course(0, 10), pass(10))).toBeNull();
  expect(secondsLeft(course(7, 7, 7, 7, 7), pass(7))).toBeNull();
  expect(secondsLeft(course(0, 100, 200, 300, 5), pass(5))).toBeNull();
  expect(further(course(0, 10, 20), [pass(400, 0)], 3000)).toEqual({});
});

test('it is said no more exactly than it is known', () => {
  expect([null, 4, 31, 61, 3700, 60 * 125].map(leftSaid)).toEqual([
    '',
    'a few s left',
    '40 s left',
    '2 min left',
    '1 h 2 min left',
    '2 h 5 min left',
  ]);
});
