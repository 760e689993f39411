import { expect, test } from 'vitest';
import type { Angle, AnglePart } from '../api/types';
import { changesOf } from './changes';

const part = (from_frame: number, to_frame: number) => ({ from_frame, to_frame }) as AnglePart;
const angle = (hidden: boolean, ...parts: AnglePart[]) =>
  ({ id: 1, device: 1, name: null, hidden, parts }) as Angle;

test('it changes where an angle begins or ends, not where a file does', () => {
  const angles = [
    angle(false, part(0, 40), part(40, 100)),
    angle(false, part(20, 80)),
    angle(true, part(10, 30)),
  ];
  expect(changesOf({ angles, frames: 100 })).toEqual([20, 80]);
  expect(changesOf({ angles, frames: 100, seams: [{ at: 55, frames: 9 }] })).toEqual([20, 55, 80]);
});
