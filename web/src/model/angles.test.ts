import { expect, test } from 'vitest';
import type { Angle, DeviceView } from '../api/types';
import { angleName, seenOf } from './angles';

const angle = (id: number, more: Partial<Angle>): Angle => ({
  id,
  device: 4,
  name: null,
  hidden: false,
  parts: [],
  ...more,
});
const day = { devices: [{ id: 4, letter: 'B', name: 'Bank' } as DeviceView] };

test('angles are called by a person, else as their device, further ones with a number', () => {
  const angles = [
    angle(7, {}),
    angle(4, {}),
    angle(9, { name: 'Crane' }),
    angle(10, {}),
    angle(11, { device: null }),
  ];
  const names = angles.map((own) => angleName(day, { angles }, own));
  expect(names).toEqual(['Bank 2', 'Bank', 'Crane', 'Bank 4', 'Angle 1']);
});

test('what is set aside has no number key', () => {
  const angles = [angle(4, {}), angle(5, { hidden: true }), angle(6, {})];
  expect(seenOf({ angles }).map(({ id }) => id)).toEqual([4, 6]);
});
