import fc from 'fast-check';
import { expect, test } from 'vitest';
import { cutNear, roomOf, stretchAt } from './line';

test('a frame is in the last stretch that begins at it or before', () => {
  const starts = fc
    .uniqueArray(fc.nat(5000), { maxLength: 40 })
    .map((at) => [0, ...at.filter(Boolean)].sort((a, b) => a - b));
  fc.assert(
    fc.property(starts, fc.nat(6000), (at, frame) => {
      const switches = at.map((one) => ({ at: one }));
      expect(stretchAt(switches, frame)).toBe(at.findLastIndex((one) => one <= frame));
    }),
  );
  expect(stretchAt([], 5)).toBe(0);
});

test('a cut is taken hold of only near to it, and has room between its neighbours', () => {
  const switches = [0, 20, 60].map((at) => ({ at }));
  expect([3, 17, 23, 26, 57, 63].map((at) => cutNear(switches, at, 4))).toEqual([null, 1, 1, null, 2, 2]);
  expect(roomOf(switches, 1, 100)).toEqual([1, 59]);
  expect(roomOf(switches, 2, 100)).toEqual([21, 99]);
});
