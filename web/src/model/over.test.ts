import { expect, test } from 'vitest';
import { betweenAt, isLayerDevice, layerAt, layerDevice, soundLayerAt, speedSaid } from './over';

test('between the middles of two frames there is a share of the second', () => {
  expect(betweenAt(7.5)).toBe(0);
  expect(betweenAt(8)).toBeCloseTo(0.5);
  expect(betweenAt(8.25)).toBeCloseTo(0.75);
  // Floats that are meant to be a whole frame.
  expect(betweenAt(8.5 - 1e-9)).toBe(0);
  expect(betweenAt(0.25)).toBeCloseTo(0.75);
});

test('a layer covers its frames and no more', () => {
  const own = { clip: 3, from: 0, speed: { num: 5, den: 24 } };
  const layers = [
    { ...own, at: 10, frames: 5 },
    { ...own, at: 15, frames: 5 },
  ];
  expect([9, 10, 14, 15, 19, 20].map((frame) => layerAt(layers, frame))).toEqual([-1, 0, 0, 1, 1, -1]);
  expect(speedSaid(own.speed)).toBe('20.83 %');
  expect(speedSaid({ num: 1, den: 1 })).toBe('100 %');
});

test('a layer is heard where it is to be', () => {
  const layer = { at: 10, frames: 5, clip: 1, from: 0, speed: { num: 1, den: 2 } };
  const heard = { ...layer, at: 20, own_sound: true };
  expect([9, 12, 20, 24, 25].map((frame) => soundLayerAt([layer, heard], frame))).toEqual([-1, -1, 1, 1, -1]);
  expect([0, 1].map(layerDevice).every(isLayerDevice)).toBe(true);
  expect([null, 0, 7].some(isLayerDevice)).toBe(false);
});
