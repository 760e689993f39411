import fc from 'fast-check';
import { expect, test } from 'vitest';
import { across, banksOf, NUMBERED, ON_A_PAGE } from './pages';

test('every angle has a number key in one bank, and is seen there', () => {
  fc.assert(
    fc.property(fc.nat(64), (count) => {
      const banks = banksOf(count);
      expect(banks[0]?.keys[0]).toBe(0);
      expect(banks.at(-1)?.keys[1]).toBe(count);
      banks.forEach(({ page, keys }, i) => {
        expect(keys[1] - keys[0]).toBeLessThanOrEqual(NUMBERED);
        expect(page[1] - page[0]).toBeLessThanOrEqual(ON_A_PAGE);
        expect(page[0] <= keys[0] && keys[1] <= page[1]).toBe(true);
        if (i > 0) expect(keys[0]).toBe(banks[i - 1]?.keys[1]);
      });
    }),
  );
  // Sixteen are seen at once, and have their keys eight by eight.
  expect(banksOf(16)).toEqual([
    { page: [0, 16], keys: [0, 8] },
    { page: [0, 16], keys: [8, 16] },
  ]);
  expect(banksOf(9)).toHaveLength(1);
});

test('pictures are as large as the room lets them be', () => {
  expect(across(4, 940, 170, 24)).toBe(4);
  expect(across(4, 940, 560, 24)).toBe(2);
  expect(across(9, 940, 560, 24)).toBe(3);
  expect(across(1, 940, 560, 24)).toBe(1);
  expect(across(0, 940, 560, 24)).toBe(1);
});
