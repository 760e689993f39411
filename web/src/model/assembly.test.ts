import { expect, test } from 'vitest';
import { framesOf, movedTo, plainView, ranged } from './assembly';

test('a gap is played as black at the rate of the lines around it', () => {
  const rate = { num: 24000, den: 1001 };
  const gap = { range: [0, 48] as [number, number], over: null };
  const view = plainView(gap, { frames: 86400, rate, drop: false });
  expect([view.group.frames, view.group.start.rate, view.over]).toEqual([48, rate, []]);
  expect(framesOf(gap)).toBe(48);
});

test('a line is cut to a range and made whole, other parts have none', () => {
  const line = { is: 'line', group: 4 } as const;
  const cut = ranged(line, [5, 9]);
  expect(cut).toEqual({ is: 'line', group: 4, range: [5, 9] });
  expect(ranged(cut, null)).toEqual(line);
  expect(ranged({ is: 'gap', frames: 3 }, [1, 2])).toEqual({ is: 'gap', frames: 3 });
});

test('a part goes no further than the ends', () => {
  expect([movedTo(3, 0, -1), movedTo(3, 0, 1), movedTo(3, 2, 1)]).toEqual([0, 1, 2]);
});
