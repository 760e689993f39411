import { expect, test } from 'vitest';
import type { AnglePart } from '../api/types';
import { soonOf } from './ends';

const part = (from_frame: number, to_frame: number) => ({ from_frame, to_frame }) as AnglePart;
const angle = { parts: [part(100, 200), part(200, 400), part(460, 500)] };

test('an angle that ends or begins within five seconds says so', () => {
  expect(soonOf(angle, 0, 25)).toEqual({ begins: 100 });
  expect(soonOf({ parts: [part(200, 300)] }, 0, 25)).toBeNull();
  // It goes on in the next file.
  expect(soonOf(angle, 190, 25)).toBeNull();
  expect(soonOf(angle, 300, 25)).toEqual({ ends: 100 });
  expect(soonOf(angle, 399, 25)).toEqual({ ends: 1 });
  expect(soonOf(angle, 400, 25)).toEqual({ begins: 60 });
  expect(soonOf(angle, 500, 25)).toBeNull();
});
