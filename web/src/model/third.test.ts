import { describe, expect, test } from 'vitest';
import type { Needle } from '../api/types';
import { whoIsOff } from './third';

const left = (later_s: number, clear = true) => ({ later_s, clear, inverted: false }) as Needle;
const between = (both: Needle | null, reference: Needle | null, clip: Needle | null) => ({
  clipAndReference: both,
  thirdAndReference: reference,
  thirdAndClip: clip,
});

describe('who of three is off', () => {
  const [near, far, unclear] = [left(0.003), left(-0.2), left(0.001, false)];
  test.each([
    ['nobody', between(near, near, near)],
    ['clip', between(far, near, far)],
    ['reference', between(far, far, near)],
    ['third', between(near, far, far)],
    // Each two differ, or too little is heard: nobody can tell.
    ['unknown', between(far, far, far)],
    ['unknown', between(near, null, near)],
    ['clip', between(unclear, near, far)],
    ['unknown', between(near, near, unclear)],
  ])('%s', (off, of) => expect(whoIsOff(of, 0.04)).toBe(off));

  test('half a frame is the limit', () => {
    const off = (seconds: number) => whoIsOff(between(left(seconds), near, left(seconds)), 0.04);
    expect(off(0.0199)).toBe('nobody');
    expect(off(0.0201)).toBe('clip');
  });
});
