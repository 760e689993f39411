import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FOLDED, NAMES, depth, foldsOf, momentAtDepth, partsOf, type Fold } from './folds';

const ran = (device: number, from: number, to: number, picture = device < 9) => ({
  device,
  picture,
  from,
  to,
});

describe('what is folded', () => {
  test('a recorder that runs on alone, before, between and after the cameras', () => {
    const day = [ran(9, 0, 3600), ran(1, 600, 900), ran(2, 610, 905), ran(1, 1200, 1300)];
    expect(foldsOf(day).map(({ from, to }) => [from, to])).toEqual([
      [0, 600],
      [905, 1200],
      [1300, 3600],
    ]);
    expect(foldsOf(day).every(({ devices }) => devices.length === 1 && devices[0] === 9)).toBe(true);
  });

  test('two recorders without a camera are, a camera with a recorder is not, nor what is short', () => {
    expect(foldsOf([ran(9, 0, 300), ran(10, 100, 300)])).toEqual([{ from: 0, to: 300, devices: [9, 10] }]);
    expect(foldsOf([ran(9, 0, 300), ran(1, 30, 300)])).toEqual([]);
    expect(foldsOf([ran(9, 0, 300), ran(1, 0, 300)])).toEqual([]);
    expect(foldsOf([])).toEqual([]);
  });
});

const folding = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 60, max: 4000 })), { maxLength: 5 })
  .map((pauses) => {
    let at = 1000;
    const folds: Fold[] = pauses.map(([before, length]) => {
      const from = at + before;
      at = from + length;
      return { from, to: at, devices: [9] };
    });
    return { from: 1000, to: at + 50, folds };
  });
const scales = fc.double({ min: -2, max: 2, noNaN: true }).map((power) => 10 ** power);

describe('a folded band', () => {
  test('has its moments in order, and each where it is found again', () => {
    fc.assert(
      fc.property(folding, scales, fc.double({ min: 0, max: 1, noNaN: true }), (band, scale, share) => {
        const moment = band.from + share * (band.to - band.from);
        const y = depth(band, moment, scale);
        expect(depth(band, moment + 1, scale)).toBeGreaterThan(y);
        expect(momentAtDepth(band, y, scale)).toBeCloseTo(moment, 4);
      }),
    );
  });

  test('is no taller than its folds allow, and goes on beyond its ends', () => {
    const band = { from: 0, to: 1100, folds: [{ from: 100, to: 1000, devices: [9] }] };
    expect(depth(band, band.to, 2)).toBeCloseTo(400 + FOLDED);
    // At its head there is room for the names.
    const headed = { from: 0, to: 1100, folds: [{ from: 0, to: 1000, devices: [9] }] };
    expect(depth(headed, headed.to, 2)).toBeCloseTo(200 + FOLDED + NAMES);
    // Far out a fold saves nothing.
    expect(depth(band, band.to, 0.01)).toBeCloseTo(11);
    expect(momentAtDepth(band, -20, 2)).toBe(-10);
    expect(momentAtDepth(band, depth(band, band.to, 2) + 20, 2)).toBeCloseTo(1110);
  });

  test('is cut into parts that cover what was asked for', () => {
    fc.assert(
      fc.property(folding, fc.double({ min: 0, max: 1, noNaN: true }), (band, share) => {
        const from = band.from + share * (band.to - band.from - 1);
        const parts = partsOf(band, from, band.to);
        expect(parts[0]?.from).toBe(from);
        expect(parts.at(-1)?.to).toBe(band.to);
        parts.slice(1).forEach((part, i) => expect(part.from).toBe(parts[i]?.to));
        expect(parts.filter(({ folded }) => folded).length).toBeLessThanOrEqual(band.folds.length);
      }),
    );
  });
});
