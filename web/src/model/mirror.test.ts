import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Placement } from '../api/types';
import { axisOf, extent, heardAt, moved, ownAt, pieces, showing, typedOffset, zoomed } from './mirror';

const seconds = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const placement = (start: number, ppm: number, travel = 0): Placement =>
  ({
    travel_s: travel,
    stretches: [{ clip_start_s: 0, clip_end_s: 600, start_s: start, rate_ppm: ppm }],
  }) as unknown as Placement;

describe('a window', () => {
  const whole = { from: -100, to: 5000 };

  test('keeps the moment under the pointer while it is zoomed, away from the ends', () => {
    fc.assert(
      fc.property(
        seconds(1000, 4000),
        seconds(0.05, 0.95),
        seconds(0.2, 8),
        seconds(0.1, 100),
        (at, share, by, span) => {
          const window = { from: at - share * span, to: at + (1 - share) * span };
          const next = zoomed(window, at, by, whole);
          expect((at - next.from) / (next.to - next.from)).toBeCloseTo(share, 6);
          expect(next.to - next.from).toBeCloseTo(span / by, 6);
        },
      ),
    );
  });

  test('never leaves what there is', () => {
    fc.assert(
      fc.property(seconds(-100, 5000), seconds(0.01, 9000), seconds(-9000, 9000), (at, by, off) => {
        for (const next of [
          zoomed({ from: at, to: at + 10 }, at, by, whole),
          moved({ from: 0, to: 10 }, off, whole),
          showing({ from: 0, to: 10 }, at, whole),
        ]) {
          expect(next.from).toBeGreaterThanOrEqual(whole.from - 1e-9);
          expect(next.to).toBeLessThanOrEqual(whole.to + 1e-6);
        }
      }),
    );
  });

  test('stays where it is while the playhead is in it', () => {
    const window = { from: 0, to: 10 };
    expect(showing(window, 5, whole)).toBe(window);
    expect(showing(window, 60, whole)).toEqual({ from: 55, to: 65 });
  });
});

describe('where a clip is heard', () => {
  test('its own time and the axis go into each other, wherever it is moved', () => {
    fc.assert(
      fc.property(
        seconds(-500, 500),
        seconds(-300, 300),
        seconds(-3, 3),
        seconds(0, 600),
        (start, ppm, shift, own) => {
          const heard = heardAt(placement(start, ppm, 0.058), shift);
          expect(ownAt(heard, axisOf(heard, own))).toBeCloseTo(own, 6);
          expect(extent(heard).from).toBeCloseTo(start + shift - 0.058, 6);
        },
      ),
    );
  });

  test('the pieces that are asked for cover the window, and few of them', () => {
    fc.assert(
      fc.property(seconds(0, 590), seconds(0.01, 600), (from, span) => {
        const heard = heardAt(placement(0, 0));
        const found = pieces(heard, { from, to: from + span }, 600);
        expect(found.length).toBeLessThanOrEqual(4);
        expect(found[0]?.from).toBeLessThanOrEqual(from);
        expect(found.at(-1)?.to).toBeGreaterThanOrEqual(Math.min(from + span, 600) - 1e-9);
      }),
    );
  });
});

test.each([
  ['12 f', 25, 0.48],
  ['-3', 25, -0.12],
  ['−3 frames', 25, -0.12],
  ['40 ms', 25, 0.04],
  ['-1,5 s', 25, -1.5],
  ['00:00:01:12', 25, 1.48],
  ['-1:12', 25, -1.48],
  ['2:01:12', 25, 121.48],
  ['nonsense', 25, null],
  ['12 m', 25, null],
  ['', 25, null],
])('“%s” at %d frames a second', (text, fps, offset) => {
  const typed = typedOffset(text, fps);
  if (offset === null) expect(typed).toBeNull();
  else expect(typed).toBeCloseTo(offset, 9);
});
