import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { ClipView, Verdict } from '../api/types';
import {
  HEADING,
  LEAST,
  anchorAt,
  lay,
  momentAt,
  pack,
  pieces,
  placeOf,
  ruler,
  verdicts,
  wholeIn,
} from './elastic';
import type { Band, Slip } from './sheet';

const slip = (id: number, device: number, from: number, to: number, verdict: Verdict = 'solid') =>
  ({
    clip: { id, device } as ClipView,
    placed: { clip: id, placement: { verdict } },
    part: 0,
    parts: 1,
    from,
    to,
  }) as Slip;

const band = (...slips: Slip[]): Band => ({
  slips,
  from: Math.min(...slips.map(({ from }) => from)),
  to: Math.max(...slips.map(({ to }) => to)),
  name: '',
  scene: '',
  day: '',
  folds: [],
  component: 0,
  island: undefined,
});

/** Days of takes, each a band, one after the other. */
const days = fc
  .array(
    fc.tuple(fc.double({ min: 1, max: 4000, noNaN: true }), fc.double({ min: 2, max: 900, noNaN: true })),
    {
      minLength: 1,
      maxLength: 60,
    },
  )
  .map((takes) => {
    let at = 30_000;
    return takes.map(([pause, length], id) => {
      at += pause;
      const own = band(slip(2 * id, 1, at, at + length), slip(2 * id + 1, 2, at + length / 4, at + length));
      at += length;
      return own;
    });
  });
const scales = fc.double({ min: -3, max: 2.5, noNaN: true }).map((power) => 10 ** power);

describe('rows', () => {
  test('every band is on one row, in order, and no row is too low to be read', () => {
    fc.assert(
      fc.property(days, scales, (bands, scale) => {
        const { rows, height } = lay(bands, scale);
        expect(rows.flatMap((row) => row.bands.map((at) => at.band))).toEqual(bands);
        rows.forEach((row, i) => {
          expect(row.height).toBeGreaterThanOrEqual(64);
          const next = rows[i + 1];
          if (next) expect(next.top).toBeGreaterThan(row.top + row.height);
          else expect(height).toBeCloseTo(row.top + row.height);
        });
      }),
    );
  });

  test('a moment stays where it is while the scale changes', () => {
    fc.assert(
      fc.property(
        days,
        scales,
        scales,
        fc.double({ min: 0, max: 1, noNaN: true }),
        (bands, one, other, share) => {
          const own = bands[Math.floor(share * (bands.length - 1))] as Band;
          const y = placeOf(lay(bands, one), { band: own, share });
          const anchor = anchorAt(lay(bands, one), y + 1e-9);
          expect(anchor?.band).toBeDefined();
          expect(placeOf(lay(bands, other), anchor as NonNullable<typeof anchor>)).toBeLessThanOrEqual(
            lay(bands, other).height,
          );
        },
      ),
    );
  });

  test('the moment at the place of a moment is that moment, and goes on beyond the band', () => {
    fc.assert(
      fc.property(days, scales, fc.double({ min: 0, max: 1, noNaN: true }), (bands, scale, share) => {
        const own = bands[Math.floor(share * (bands.length - 1))] as Band;
        const at = own.from + share * (own.to - own.from);
        const laid = lay(bands, scale);
        const found = momentAt(laid, placeOf(laid, { band: own, share }) + 1e-9);
        if (found?.band === own) expect(found.at).toBeCloseTo(at, 3);
        const above = momentAt(laid, -10);
        expect(above && above.at < (bands[0]?.from ?? 0)).toBe(true);
      }),
    );
  });

  test('each shoot day has its heading, and says its scene anew', () => {
    const of = (day: string, scene: string, id: number) => ({
      ...band(slip(id, 1, 1000 * id, 1000 * id + 60)),
      day,
      scene,
    });
    const bands = [of('Day 1', '1', 0), of('Day 1', '1', 1), of('Day 2', '1', 2), of('Day 2', '', 3)];
    const { rows } = lay(bands, 1);
    expect(rows.map(({ day, scene }) => [day, scene])).toEqual([
      ['Day 1', '1'],
      [null, null],
      ['Day 2', '1'],
      [null, null],
    ]);
    const top = (i: number) => rows[i]?.top ?? 0;
    expect(top(2) - top(1)).toBeGreaterThan(top(3) - top(2));
  });

  test('each scene has its heading where it begins, and room for it', () => {
    const of = (scene: string, id: number) => ({ ...band(slip(id, 1, 1000 * id, 1000 * id + 60)), scene });
    const bands = [of('1', 1), of('1', 2), of('', 3), of('1', 4), of('2', 5), of('1', 6)];
    const { rows } = lay(bands, 2);
    expect(rows.map(({ scene }) => scene)).toEqual(['1', null, null, null, '2', '1']);
    const [plain, headed] = [rows[3], rows[4]].map((row, i) => {
      const before = rows[2 + i];
      return (row?.top ?? 0) - (before ? before.top + before.height : 0);
    });
    expect((headed ?? 0) - (plain ?? 0)).toBe(HEADING);
    expect(rows[0]?.top).toBe(HEADING);
    // Far out, where bands share rows, there are none.
    expect(lay(bands, 0.001).rows.map((row) => row.scene)).toEqual([null]);
  });

  test('far out a day of 400 takes fits a window, near none of them is joined', () => {
    const bands = Array.from({ length: 400 }, (_, i) => band(slip(i, 1, 1000 + 100 * i, 1012 + 100 * i)));
    expect(lay(bands, wholeIn(bands, 4000)).height).toBeLessThanOrEqual(4000);
    expect(lay(bands, 4).rows).toHaveLength(400);
  });
});

describe('the pieces of a tall slip', () => {
  const slips = fc.record({
    seconds: fc.double({ min: 1, max: 20_000, noNaN: true }),
    height: fc.double({ min: 900, max: 2_000_000, noNaN: true }),
    from: fc.double({ min: 0, max: 1, noNaN: true }),
  });

  test('cover what is in sight, one after the other, and are few', () => {
    fc.assert(
      fc.property(slips, ({ seconds, height, from }) => {
        const sight = { from: from * height, to: Math.min(height, from * height + 1200) };
        const own = pieces(seconds, height, sight);
        expect(own.length).toBeLessThanOrEqual(4);
        expect(own[0]?.top ?? sight.from).toBeLessThanOrEqual(sight.from + 1e-6);
        const last = own.at(-1);
        if (last) expect(last.top + last.height).toBeGreaterThanOrEqual(sight.to - 1e-3);
        own.slice(1).forEach((piece, i) => expect(piece.from_s).toBe(own[i]?.to_s));
      }),
    );
  });

  test('are the same while the scale changes a little', () => {
    const at = (height: number) => pieces(1000, height, { from: 0, to: 1e9 }).map((piece) => piece.from_s);
    expect(at(20_000)).toEqual(at(22_000));
    expect(at(80_000).length).toBeGreaterThan(at(20_000).length);
  });
});

describe('the slips of a device', () => {
  test('never lie over one another, and none is lost', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.double({ min: 0, max: 900, noNaN: true }),
            fc.double({ min: 1, max: 300, noNaN: true }),
          ),
          {
            minLength: 1,
            maxLength: 40,
          },
        ),
        scales,
        (takes, scale) => {
          const own = band(...takes.map(([from, length], id) => slip(id, 1, from, from + length)));
          const drawn = lay([own], scale).rows.flatMap((row) => pack(row.bands, 1));
          const shown = drawn.flatMap((item) => ('one' in item ? [item.one] : item.many));
          expect(new Set(shown.map(({ clip }) => clip.id)).size).toBe(takes.length);
          const edges = drawn
            .filter((item) => !('one' in item) || item.lanes === 1)
            .map(({ top, height }) => ({ top, bottom: top + height }))
            .sort((a, b) => a.top - b.top);
          edges.forEach((edge, i) => {
            expect(edge.bottom - edge.top).toBeGreaterThanOrEqual(LEAST - 1e-6);
            const before = edges[i - 1];
            if (before) expect(edge.top).toBeGreaterThanOrEqual(before.bottom - 0.6);
          });
        },
      ),
    );
  });

  test('two that ran at once stand side by side, many short ones are one', () => {
    const [row] = lay([band(slip(1, 1, 0, 100), slip(2, 1, 50, 150))], 2).rows;
    expect(pack(row?.bands ?? [], 1).map((item) => 'one' in item && item.lanes)).toEqual([2, 2]);
    const short = band(
      ...Array.from({ length: 9 }, (_, i) => slip(i, 1, i * 5, i * 5 + 4, i === 3 ? 'check' : 'solid')),
    );
    const [low] = lay([short], 0.5).rows;
    const [item] = pack(low?.bands ?? [], 1);
    expect(item && 'many' in item && verdicts(item.many).get('check')).toBe(1);
  });
});

test('a ruler has marks at round moments, no nearer than they can be read', () => {
  fc.assert(
    fc.property(scales, fc.double({ min: 0, max: 80_000, noNaN: true }), (scale, from) => {
      const marks = ruler(from, from + 600 / scale, scale);
      marks.forEach(({ at, step }, i) => {
        expect(Math.abs(at / step - Math.round(at / step))).toBeLessThan(1e-6);
        const before = marks[i - 1];
        if (before) expect((at - before.at) * scale).toBeGreaterThan(55.5);
      });
    }),
  );
});
