import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { axisAt, clipAt, end, joined, runs } from './axis';

const seconds = fc.double({ min: -1e5, max: 1e5, noNaN: true });
const piece = fc
  .record({
    clip_start_s: fc.double({ min: 0, max: 4e4, noNaN: true }),
    length: fc.double({ min: 0.01, max: 4e4, noNaN: true }),
    start_s: seconds,
    rate_ppm: fc.double({ min: -500_000, max: 500_000, noNaN: true }),
  })
  .map(({ length, ...rest }) => ({ ...rest, clip_end_s: rest.clip_start_s + length }));

describe('a stretch', () => {
  test('maps there and back to a billionth of the way', () => {
    fc.assert(
      fc.property(piece, seconds, (own, at) => {
        expect(Math.abs(clipAt(own, axisAt(own, at)) - at)).toBeLessThan(1e-6);
      }),
    );
  });

  test('begins and ends where it says', () => {
    fc.assert(
      fc.property(piece, (own) => {
        expect(axisAt(own, own.clip_start_s)).toBeCloseTo(own.start_s, 9);
        expect(clipAt(own, end(own))).toBeCloseTo(own.clip_end_s, 6);
      }),
    );
  });

  test('of a fast clock is short on the axis, as the core has it', () => {
    // Performed at 125 %: sixteen seconds of the clip are twenty of the track.
    const own = { clip_start_s: 0, clip_end_s: 16, start_s: 2, rate_ppm: -200_000 };
    expect(end(own)).toBeCloseTo(22, 9);
    expect(axisAt({ ...own, rate_ppm: 100 }, 10)).toBeCloseTo(2 + 10 / 1.0001, 9);
  });
});

describe('runs', () => {
  /** Pieces that go on into each other but where `gaps` says otherwise. */
  const chain = (gaps: number[]) => {
    let [clip, axis] = [0, 0];
    return gaps.map((gap) => {
      const own = { clip_start_s: clip, clip_end_s: clip + 10, start_s: axis + gap, rate_ppm: gap * 10 };
      [clip, axis] = [own.clip_end_s, end(own)];
      return own;
    });
  };

  test('end at breaks, and only there', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(0, 0, 0, 0.02, -0.5), { maxLength: 12 }), (gaps) => {
        const all = chain(gaps);
        const found = runs(all);
        expect(found.flat()).toEqual(all);
        expect(found).toHaveLength(all.length ? 1 + gaps.slice(1).filter((gap) => gap !== 0).length : 0);
        for (const run of found) {
          run.slice(1).forEach((next, i) => expect(joined(run[i] ?? next, next)).toBe(true));
        }
      }),
    );
  });
});
