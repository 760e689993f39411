import fc from 'fast-check';
import { expect, test } from 'vitest';
import { stretchAt } from './line';

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
