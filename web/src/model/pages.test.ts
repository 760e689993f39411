import fc from 'fast-check';
import { expect, test } from 'vitest';
import { across, ON_A_PAGE, pagesOf } from './pages';

test('every angle is on one page, and no page has more than there are keys', () => {
  fc.assert(
    fc.property(fc.nat(64), (count) => {
      const pages = pagesOf(count);
      expect(pages[0]?.[0]).toBe(0);
      expect(pages.at(-1)?.[1]).toBe(count);
      pages.forEach(([from, to], i) => {
        expect(to - from).toBeLessThanOrEqual(ON_A_PAGE);
        if (i > 0) expect(from).toBe(pages[i - 1]?.[1]);
      });
    }),
  );
  expect(pagesOf(10)).toEqual([
    [0, 5],
    [5, 10],
  ]);
});

test('pictures are as large as the room lets them be', () => {
  expect(across(4, 940, 170, 24)).toBe(4);
  expect(across(4, 940, 560, 24)).toBe(2);
  expect(across(9, 940, 560, 24)).toBe(3);
  expect(across(1, 940, 560, 24)).toBe(1);
  expect(across(0, 940, 560, 24)).toBe(1);
});
