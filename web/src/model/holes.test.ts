import { expect, test } from 'vitest';
import type { Angle } from '../api/types';
import { holesOf } from './holes';

const angle = (...parts: [number, number][]): Angle => ({
  id: 1,
  device: 1,
  name: null,
  hidden: false,
  parts: parts.map(([from_frame, to_frame]) => ({
    clip: 1,
    from_frame,
    to_frame,
    stretch: {
      clip_start_s: 0,
      clip_end_s: 1,
      start_s: 0,
      rate_ppm: 0,
      start_sigma_s: 0,
      rate_sigma_ppm: 0,
    },
    picture_delay_s: 0,
    rate: { num: 25, den: 1 },
  })),
});

test('a hole is where no angle and no sound ran, if it is long enough', () => {
  const group = { frames: 500, angles: [angle([50, 100], [110, 200]), angle([150, 220])], sound: null };
  expect(holesOf(group, 25)).toEqual([
    { from: 0, to: 50 },
    { from: 220, to: 500 },
  ]);
  expect(holesOf(group, 5)).toHaveLength(3);
  expect(holesOf({ ...group, sound: angle([0, 400]) }, 25)).toEqual([{ from: 400, to: 500 }]);
});

test('an angle that is set aside does not fill a hole', () => {
  const aside = { ...angle([0, 500]), hidden: true };
  expect(holesOf({ frames: 500, angles: [angle([0, 300]), aside], sound: null }, 25)).toEqual([
    { from: 300, to: 500 },
  ]);
});
