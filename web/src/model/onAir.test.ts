import { expect, test } from 'vitest';
import { BLACK, fadesOf, heardAt, onAirAt } from './onAir';

test('a dissolve brings the next out of the one before, half of each in its middle', () => {
  const line = [
    { at: 0, angle: 1 },
    { at: 40, angle: 2, dissolve: 9 },
    { at: 90, angle: BLACK, dissolve: 10 },
  ];
  expect(onAirAt(line, 39)).toEqual({ angle: 1, coming: null });
  expect(onAirAt(line, 44)).toEqual({ angle: 2, coming: { out: 1, share: 0.5 } });
  expect(onAirAt(line, 49)).toEqual({ angle: 2, coming: null });
  expect(onAirAt(line, 99)).toEqual({ angle: BLACK, coming: { out: 2, share: 0.95 } });
  expect(onAirAt([], 3)).toEqual({ angle: BLACK, coming: null });
});

test('a fade is a dissolve from black at the head, and into it at the tail', () => {
  const line = [
    { at: 0, angle: BLACK },
    { at: 1, angle: 1, dissolve: 12 },
    { at: 80, angle: BLACK, dissolve: 20 },
  ];
  expect(fadesOf(line, 100)).toEqual({ head: 12, tail: 20 });
  expect(fadesOf(line, 120)).toEqual({ head: 12, tail: 0 });
  expect(fadesOf([{ at: 0, angle: 1 }], 100)).toEqual({ head: 0, tail: 0 });
});

test('the grid is heard unless an angle’s own sound is', () => {
  const sound = {
    switches: [
      { at: 0, angle: BLACK },
      { at: 30, angle: 2, dissolve: 5 },
      { at: 60, angle: BLACK },
    ],
  };
  expect(heardAt({}, 40)).toEqual({ angle: BLACK, dissolve: 0 });
  expect(heardAt({ sound }, 29).angle).toBe(BLACK);
  expect(heardAt({ sound }, 30)).toEqual({ angle: 2, dissolve: 5 });
  expect(heardAt({ sound }, 60).angle).toBe(BLACK);
});
