import { expect, test } from 'vitest';
import { outline } from './Strip';

const points = (path: string) =>
  path
    .slice(1, -1)
    .split('L')
    .map((point) => point.split(' ').map(Number));

test('a waveform lies about its middle line, loudest as wide as there is room, and is seen where it is quiet', () => {
  const drawn = points(outline([0, 100, 40], true));
  expect(drawn).toHaveLength(6);
  expect(Math.max(...drawn.map(([across]) => across ?? 0))).toBe(40);
  const quiet = drawn.filter(([, along]) => along === 0.5).map(([across]) => across ?? 0);
  expect(Math.max(...quiet) - Math.min(...quiet)).toBeGreaterThan(1);
  drawn.forEach(([across], i) => expect((across ?? 0) + (drawn[5 - i]?.[0] ?? 0)).toBeCloseTo(40));
});

test('time runs down or to the right, and nothing is drawn of nothing', () => {
  expect(points(outline([8, 8], false))[1]?.[0]).toBe(1.5);
  expect(points(outline([8, 8], true))[1]?.[1]).toBe(1.5);
  expect(outline([], true)).toBe('');
});
