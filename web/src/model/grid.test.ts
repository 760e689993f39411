import { describe, expect, it } from 'vitest';
import type { GridView } from '../api/types';
import { gridSaid, heardOf, isMuted, levelSaid, louder, meterHeight, nextAlone, pointOf } from './grid';

const key = (name: string) => ({ device: 1, name, channel: 0, lane: 0 });
const source = (name: string) => ({ key: key(name), name, device: 'Recorder', camera: false });
const view: GridView = {
  grid: {
    outputs: [{ name: 'Master', ear: 'both', muted: false, follows: false }],
    points: [{ source: key('Mix'), output: 0, level_db: -6, inverted: false, on: true }],
    muted: [key('Boom')],
  },
  origin: { from: 'first' },
  sources: [source('Mix'), source('Boom')],
  factors: [[0.5, 0]],
  heard: { name: 'n', rate: 48_000, samples: 1, begins_s: 0, tracks: [] },
  kept: [],
  usual: null,
};

describe('the sound grid', () => {
  it('knows where a track goes, and which are silent', () => {
    expect(pointOf(view, key('Mix'), 0)?.level_db).toBe(-6);
    expect(pointOf(view, key('Mix'), 1)).toBeUndefined();
    expect([isMuted(view, key('Mix')), isMuted(view, key('Boom'))]).toEqual([false, true]);
    expect(heardOf(view)).toEqual([0]);
  });
  it('says what is heard', () => {
    expect(gridSaid(view, null)).toBe('Mix on Master');
    expect(gridSaid(view, 1)).toBe('Boom alone');
    expect(gridSaid({ ...view, factors: [[0, 0]] }, null)).toBe('nothing: no track goes anywhere');
  });
  it('goes through the tracks one by one and back to all', () => {
    expect([nextAlone(view, null), nextAlone(view, 0), nextAlone(view, 1)]).toEqual([0, 1, null]);
  });
  it('writes levels with their sign and keeps them within what can be', () => {
    expect([0, -6, 3, -4.8].map(levelSaid)).toEqual(['0', '−6', '+3', '−4.8']);
    expect([louder(11.5, 1), louder(-59.5, -1), louder(-4.8, 1)]).toEqual([12, -60, -3.8]);
  });
  it('draws meters from −60 dB to full scale', () => {
    expect([0, 0.001, 1, 2].map(meterHeight)).toEqual([0, 0, 1, 1]);
    expect(meterHeight(0.0316)).toBeCloseTo(0.5, 2);
  });
});
