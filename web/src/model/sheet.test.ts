import { describe, expect, test } from 'vitest';
import type { Day } from '../api/day';
import type { ClipView, PlacementView } from '../api/types';
import { bands, firstPlaces, without } from './sheet';

/** The parts of a day that the sheet looks at. */
function day(
  clips: Partial<ClipView>[],
  placements: [clip: number, from: number, length: number, component?: number][] | null,
) {
  const placed = (placements ?? []).map(([clip, start_s, length, component = 0]) => ({
    clip,
    placement: {
      verdict: length > 0 ? 'solid' : 'unplaced',
      component,
      stretches: length > 0 ? [{ clip_start_s: 0, clip_end_s: length, start_s, rate_ppm: 0 }] : [],
    },
  })) as unknown as PlacementView[];
  return {
    clips: clips.map((clip, id) => ({
      id,
      part: 'sync',
      own_clock_s: null,
      facts: { duration_s: 10 },
      ...clip,
    })),
    placements: placed,
    pass: placements && { axis_zero: 0, islands: [] },
    groups: [],
  } as unknown as Day;
}

describe('before a pass', () => {
  const shown = day(
    [{ own_clock_s: 100 }, { own_clock_s: 105 }, {}, { own_clock_s: 400 }, { part: 'no_sync' }],
    null,
  );

  test('clips stand by their clocks, silence folded', () => {
    expect(bands(shown).map((band) => band.slips.map(({ clip }) => clip.id))).toEqual([[0, 1], [3]]);
  });

  test('those that no clock places are without a place, not nowhere', () => {
    expect(without(shown).map((clip) => clip.id)).toEqual([2]);
    const none = day([{}, {}, {}], null);
    expect(bands(none)).toEqual([]);
    expect(without(none)).toHaveLength(3);
  });
});

describe('after a pass', () => {
  const shown = day(
    [{}, {}, {}, {}, { part: 'playback' }],
    [
      [0, 0, 50],
      [1, 20, 50],
      [2, 0, 0],
      [3, 30, 20, 1],
      [4, 0, 0],
    ],
  );

  test('a band holds what ran together of one component', () => {
    expect(bands(shown).map((band) => [band.component, band.slips.map(({ clip }) => clip.id)])).toEqual([
      [0, [0, 1]],
      [1, [3]],
    ]);
  });

  test('what takes part and has no place is in its tray', () => {
    expect(without(shown).map((clip) => clip.id)).toEqual([2]);
  });
});

test('clips that came after a pass stand by their clocks, or in the tray', () => {
  const shown = day([{}, { own_clock_s: 300 }, {}, { own_clock_s: 12 }], [[0, 10, 10]]);
  expect(bands(shown).map((band) => band.slips.map(({ clip }) => clip.id))).toEqual([[0], [3], [1]]);
  expect(without(shown).map(({ id }) => id)).toEqual([2]);
});

describe('while a pass runs', () => {
  const arriving = (clip: number, at_s: number | null) => ({ clip, start_s: 0, at_s, sure: false });
  const first = firstPlaces([arriving(1, 180), arriving(2, 150), arriving(2, 300), arriving(3, null)]);

  test('clips move to where they are found first, and say so', () => {
    const shown = day([{ own_clock_s: 100 }, { own_clock_s: 105 }, {}, {}], null);
    const slips = bands(shown, false, first).flatMap((band) => band.slips);
    expect(slips.map(({ clip, from, isFirst }) => [clip.id, from, isFirst])).toEqual([
      [0, 100, false],
      [1, 180, true],
      [2, 300, true],
    ]);
    // Where no clock says when, the tray still has it.
    expect(without(shown, first).map(({ id }) => id)).toEqual([3]);
  });

  test('what a pass has placed stays there until the next one is done', () => {
    const shown = day(
      [{}, {}, {}],
      [
        [0, 10, 10],
        [1, 20, 10],
        [2, 0, 0],
      ],
    );
    const slips = bands(shown, false, first).flatMap((band) => band.slips);
    expect(slips.map(({ clip, from, isFirst }) => [clip.id, from, isFirst])).toEqual([
      [0, 10, false],
      [1, 20, false],
      [2, 300, true],
    ]);
  });
});
