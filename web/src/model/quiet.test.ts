import { expect, test } from 'vitest';
import { levelsAbout, saved } from './quiet';

test('what is refused is not saved', () => {
  const passages = [
    [10, 40],
    [100, 150],
  ] as const;
  expect(saved(passages, new Set())).toBe(80);
  expect(saved(passages, new Set([100]))).toBe(30);
  expect(saved([], new Set([100]))).toBe(0);
});

test('levels about a passage end with the group', () => {
  const levels = Array.from({ length: 100 }, (_, i) => i);
  expect(levelsAbout(levels, [200, 300], 50, 1000)).toEqual(levels.slice(15, 35));
  expect(levelsAbout(levels, [0, 20], 50, 1000)).toEqual(levels.slice(0, 7));
  expect(levelsAbout(levels, [990, 1000], 50, 1000)).toEqual(levels.slice(94));
});
