import { describe, expect, test } from 'vitest';
import type { Day } from '../api/day';
import type { ClipView, Verdict } from '../api/types';
import { NONE, alike, between, only, pick, scenes } from './chosen';
import type { Slip } from './sheet';

const slip = (id: number, device: number, from: number) =>
  ({ clip: { id, device } as ClipView, from, to: from + 5 }) as Slip;

/** Two devices, three takes: 1 and 2 ran together, then 3 and 4, then 5 and 6. */
const slips = [1, 2, 3, 4, 5, 6].map((id) => slip(id, id % 2 ? 1 : 2, 100 * Math.floor((id + 1) / 2)));
const range = (from: number, to: number) => between(slips, [1, 2], from, to);

describe('choosing', () => {
  test('a press chooses one clip, with ctrl one more or one less', () => {
    let chosen = pick(NONE, 3, {}, range);
    expect([...chosen.all]).toEqual([3]);
    chosen = pick(chosen, 5, { toggle: true }, range);
    expect([...chosen.all]).toEqual([3, 5]);
    chosen = pick(chosen, 5, { toggle: true }, range);
    expect([chosen.lead, ...chosen.all]).toEqual([3, 3]);
    expect(pick(chosen, 3, { toggle: true }, range)).toEqual({ ...NONE });
  });

  test('with shift the rectangle between two clips, from where it began', () => {
    const first = pick(NONE, 1, {}, range);
    const down = pick(first, 5, { extend: true }, range);
    expect([...down.all]).toEqual([1, 3, 5]);
    const both = pick(down, 4, { extend: true }, range);
    expect([...both.all]).toEqual([1, 2, 3, 4]);
    expect(both.lead).toBe(4);
  });

  test('a clip without a place is in a range only by itself', () => {
    expect(between(slips, [1, 2], 1, 99)).toEqual([1]);
  });
});

test('clips of a kind', () => {
  const day = {
    clips: [
      { id: 1, device: 1, scene: '10', part: 'sync' },
      { id: 2, device: 2, scene: '2', part: 'sync' },
      { id: 3, device: 1, scene: null, part: 'no_sync' },
      { id: 4, device: 3, scene: null, part: 'playback' },
    ],
    placements: (['check', 'solid', 'unplaced', 'unplaced'] as Verdict[]).map((verdict, i) => ({
      clip: i + 1,
      placement: { verdict },
    })),
  } as unknown as Day;
  expect(alike(day, { device: 1 })).toEqual([1, 3]);
  expect(alike(day, { verdict: 'check' })).toEqual([1]);
  // What takes no part needs no place.
  expect(alike(day, { verdict: 'unplaced' })).toEqual([]);
  expect(alike(day, { scene: '2' })).toEqual([2]);
  expect(scenes(day)).toEqual(['2', '10']);
  expect(only([]).lead).toBeNull();
});
