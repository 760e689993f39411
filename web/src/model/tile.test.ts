import { expect, test } from 'vitest';
import { tileOf } from './tile';

test('a tile holds its view, at most four times as wide, whatever is shown', () => {
  for (const frames of [12, 100, 3550, 1_059_539]) {
    for (const span of [12, 13, 77, 1000, frames / 3, frames]) {
      for (const share of [0, 0.2, 0.5, 0.77, 1]) {
        if (span > frames) continue;
        const from = share * (frames - span);
        const tile = tileOf({ from, to: from + span }, frames);
        expect(tile.from).toBeGreaterThanOrEqual(0);
        expect(tile.to).toBeLessThanOrEqual(frames);
        expect(tile.from).toBeLessThanOrEqual(from + 1e-6);
        expect(tile.to).toBeGreaterThanOrEqual(from + span - 1e-6);
        expect(tile.to - tile.from).toBeLessThanOrEqual(4 * span + 1);
      }
    }
  }
});

test('a view that is moved a little has the same tile', () => {
  expect(tileOf({ from: 300, to: 320 }, 3550)).toEqual(tileOf({ from: 303, to: 323 }, 3550));
});
