import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { DeviceView } from '../api/types';
import { Lut, throughOf } from './lut';

/** What the server would send of a rule. */
function samples(of: (r: number, g: number, b: number) => [number, number, number]): Uint8Array {
  const all = new Uint8Array(33 ** 3 * 4).fill(255);
  for (let b = 0; b < 33; b++)
    for (let g = 0; g < 33; g++)
      for (let r = 0; r < 33; r++) {
        const own = of(r / 32, g / 32, b / 32).map((value) => Math.round(value * 255));
        all.set(own, (r + 33 * (g + 33 * b)) * 4);
      }
  return all;
}

const colour = fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255));
const applied = (lut: Lut, own: readonly number[], running: boolean) => {
  const pixels = new Uint8ClampedArray([...own, 255]);
  lut.apply(pixels, running);
  return [...pixels];
};

test('what changes nothing leaves colours as they are, to a step where they run', () => {
  const lut = new Lut(samples((r, g, b) => [r, g, b]));
  fc.assert(
    fc.property(colour, (own) => {
      const [exact, quick] = [applied(lut, own, false), applied(lut, own, true)];
      own.forEach((value, i) => {
        expect(Math.abs((exact[i] ?? 0) - value)).toBeLessThanOrEqual(1);
        expect(Math.abs((quick[i] ?? 0) - value)).toBeLessThanOrEqual(4);
      });
      expect([exact[3], quick[3]]).toEqual([255, 255]);
    }),
  );
});

test('each colour goes its own way', () => {
  const lut = new Lut(samples((r, g, b) => [1 - r, g / 2, b * b]));
  fc.assert(
    fc.property(colour, ([r, g, b]) => {
      const expected = [255 - r, g / 2, (b * b) / 255];
      applied(lut, [r, g, b], false)
        .slice(0, 3)
        .forEach((value, i) => expect(Math.abs(value - (expected[i] ?? 0))).toBeLessThanOrEqual(1.6));
    }),
  );
  expect(applied(lut, [0, 0, 0], true).slice(0, 3)).toEqual([255, 0, 0]);
});

test('samples that are not all there are refused', () => {
  expect(() => new Lut(new Uint8Array(12))).toThrow('incomplete');
});

test('an angle is seen through its own, else through its device’s', () => {
  const devices = [
    { id: 1, lut: 'hlg' },
    { id: 2, lut: null },
  ] as unknown as DeviceView[];
  expect(throughOf(devices, { device: 1 })).toBe('hlg');
  expect(throughOf(devices, { device: 2 })).toBeNull();
  expect(throughOf(devices, { device: 1, through: 'nothing' })).toBeNull();
  expect(throughOf(devices, { device: 2, through: { lut: 'pq' } })).toBe('pq');
  expect(throughOf(devices, { device: null })).toBeNull();
});
