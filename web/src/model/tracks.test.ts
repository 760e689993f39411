import { describe, expect, test } from 'vitest';
import type { Day } from '../api/day';
import { tracksOf } from './tracks';

type Piece = [clipStart: number, start: number, length: number];

const day = (clips: { device: number; part?: string; at?: number; pieces: Piece[] }[], origin = 0) =>
  ({
    clips: clips.map(({ device, part = 'sync', at = null }, id) => ({ id, device, part, own_clock_s: at })),
    devices: [{ id: 7 }, { id: 3 }, { id: 9 }],
    placements: clips.map(({ pieces }, clip) => ({
      clip,
      placement: {
        stretches: pieces.map(([clip_start_s, start_s, length]) => ({
          clip_start_s,
          clip_end_s: clip_start_s + length,
          start_s,
          rate_ppm: 0,
        })),
      },
    })),
    pass: { origin },
  }) as unknown as Day;

describe('performances to a track', () => {
  const track = { device: 9, part: 'playback', pieces: [[0, 0, 100]] as Piece[] };

  test('a pass of a day that ran once has none', () => {
    expect(tracksOf(day([{ device: 7, pieces: [[0, 0, 10]] }]))).toBeNull();
    expect(tracksOf({ ...day([track]), pass: null })).toBeNull();
  });

  test('takes stand under their track, by device and by when they were made', () => {
    const found = tracksOf(
      day([
        track,
        { device: 3, at: 500, pieces: [[0, 10, 50]] },
        { device: 3, at: 400, pieces: [[0, 20, 50]] },
        { device: 7, at: 900, pieces: [[0, 5, 50]] },
        { device: 7, at: 100, pieces: [] },
      ]),
    );
    expect(found?.map(({ length, takes }) => [length, takes.map(({ clip }) => clip.id)])).toEqual([
      [100, [3, 2, 1]],
    ]);
  });

  test('a take that was stopped and started again has several parts, and one that rolled on is cut', () => {
    const [only] = tracksOf(
      day([
        track,
        {
          device: 7,
          pieces: [
            [0, -60, 90],
            [95, 50, 70],
          ],
        },
      ]),
    ) as NonNullable<ReturnType<typeof tracksOf>>;
    const parts = only?.takes[0]?.parts ?? [];
    expect(parts).toHaveLength(2);
    expect(parts[0]).toEqual({ from: -4, to: 30, clipFrom: 56, clipTo: 90, before: true, after: false });
    expect(parts[1]).toEqual({ from: 50, to: 104, clipFrom: 95, clipTo: 149, before: false, after: true });
  });

  test('what was not made to a track is not under it', () => {
    const two = day([
      track,
      { device: 9, part: 'playback', pieces: [[0, 1000, 40]] },
      { device: 7, pieces: [[0, 1010, 10]] },
      { device: 3, pieces: [[0, 103, 10]] },
    ]);
    expect(tracksOf(two)?.map(({ clip, takes }) => [clip.id, takes.map((take) => take.clip.id)])).toEqual([
      [0, []],
      [1, [2]],
    ]);
  });
});
