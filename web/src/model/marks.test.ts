import { expect, test } from 'vitest';
import { markAt, marked, without } from './marks';

const mark = (picture_us: number) => ({ picture_us, sound_us: null, label: null, take: null });

test('a mark is changed near its clap, and another is made elsewhere', () => {
  const marks = [mark(1_000_000), mark(9_000_000)];
  expect(markAt(marks, 1_400_000)).toBe(0);
  expect(markAt(marks, 5_000_000)).toBe(-1);
  expect(marked(marks, 9_100_000, { sound_us: 9_050_000 })[1]).toEqual({
    ...mark(9_000_000),
    sound_us: 9_050_000,
  });
  expect(marked(marks, 5_000_000, { picture_us: 5_000_000 })).toHaveLength(3);
  expect(without(marks, 8_900_000)).toEqual([mark(1_000_000)]);
  expect(without(marks, 5_000_000)).toEqual(marks);
});
