import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { centimetres, clock, frameCount, length, offset, signed, speed, timecode } from './format';

const NTSC = { num: 30_000, den: 1001 };

/** Labels counted one by one: two frame numbers are left out at each minute but the tenths. */
function counted(frames: number): string {
  let label = 0;
  for (let i = 0; i < frames; i++) {
    label++;
    if (label % 1800 === 0 && label % 18_000 !== 0) label += 2;
  }
  const two = (n: number) => String(n).padStart(2, '0');
  const seconds = Math.floor(label / 30);
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)};${two(label % 30)}`;
}

describe('timecode', () => {
  test('drops as the standard counts', () => {
    fc.assert(
      fc.property(fc.nat(40_000), (frames) => {
        expect(timecode({ frames, rate: NTSC, drop: true })).toBe(counted(frames));
      }),
      { numRuns: 60 },
    );
  });

  test.each([
    [0, { num: 25, den: 1 }, false, '00:00:00:00'],
    [1_078_920, NTSC, true, '10:00:00;00'],
    [1_078_920, NTSC, false, '09:59:24:00'],
    [119, { num: 120, den: 1 }, false, '00:00:00:119'],
    [99, { num: 100, den: 1 }, false, '00:00:00:99'],
    [90_000 * 24, { num: 25, den: 1 }, false, '00:00:00:00'],
  ])('%d frames', (frames, rate, drop, text) => expect(timecode({ frames, rate, drop })).toBe(text));
});

describe('lengths and clocks', () => {
  test('what rounds to a minute is one', () => {
    expect(length(59.996)).toBe('1:00.00');
    expect(clock(59.9996, 3)).toBe('00:01:00.000');
    expect(clock(86_399.99999, 3)).toBe('00:00:00.000');
    expect(clock(-1)).toBe('23:59:59');
  });

  test('a length says its seconds to a hundredth', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1e5, noNaN: true }), (seconds) => {
        const [minutes, rest] = length(seconds).split(':').map(Number);
        expect(Math.abs((minutes ?? 0) * 60 + (rest ?? 0) - seconds)).toBeLessThan(0.0051);
        expect(rest).toBeLessThan(60);
      }),
    );
  });

  test('frames of a second never reach the next', () => {
    fc.assert(
      fc.property(fc.nat(1e6), fc.constantFrom(24, 25, 30, 50), (count, fps) => {
        const parts = frameCount(count, { num: fps, den: 1 }).split(':').map(Number);
        expect(parts.at(-1)).toBeLessThan(fps);
        const [frames, seconds, minutes] = parts.reverse();
        expect(((minutes ?? 0) * 60 + (seconds ?? 0)) * fps + (frames ?? 0)).toBe(count);
      }),
    );
  });
});

test('what rounds to nothing has no sign', () => {
  expect(signed(-0.0004, 3)).toBe('0.000');
  expect(signed(-1.25, 2)).toBe('−1.25');
  expect(signed(3, 0)).toBe('+3');
});

test('a speed is said where it is no drift', () => {
  expect(speed(120)).toBeNull();
  expect(speed(-200_000)).toBe('fits at 80 %');
});

test('a distance is typed in metres', () => {
  expect(centimetres('12,5 m')).toBe(1250);
  expect(centimetres('  ')).toBeNull();
  expect(centimetres('-3')).toBeUndefined();
  expect(centimetres('far')).toBeUndefined();
});

describe('an offset', () => {
  test('is told in frames and milliseconds near, as a time far off', () => {
    expect(offset(0.04, { num: 25, den: 1 })).toBe('+1.0 f · +40 ms');
    expect(offset(-0.001, { num: 50, den: 1 })).toBe('−0.1 f · −1.00 ms');
    expect(offset(749.932, NTSC)).toBe('+00:12:29.93');
    expect(offset(-22454.645, NTSC)).toBe('−06:14:14.65');
  });
});
