import { describe, expect, it } from 'vitest';
import { besideSaid, differsSaid } from './proposed';

describe('proposed groups', () => {
  it('say how they differ from what is there', () => {
    const differs = { begins: -14, ends: 3, more: 2, fewer: 1 };
    expect(differsSaid(differs)).toBe(
      'begins 14 f earlier, ends 3 f later, has 2 clips more, has 1 clip fewer',
    );
    expect(differsSaid({ begins: 0, ends: 0, more: 0, fewer: 0 })).toBe('is made up otherwise');
  });
  it('say what they are beside those that are there', () => {
    const start = { frames: 0, rate: { num: 25, den: 1 }, drop: false };
    const own = { name: '1 / 1', start, frames: 100, angles: 1, clips: 1, sound: true, strip: [] };
    const differs = { begins: -14, ends: 0, more: 0, fewer: 0 };
    const like = { group: 7, name: '1 / 1', differs };
    expect(besideSaid({ ...own, there: 7, like: null })).toBe('there already');
    expect(besideSaid({ ...own, there: null, like })).toBe('unlike 1 / 1 it begins 14 f earlier');
    expect(besideSaid({ ...own, there: null, like: null, sound: false })).toBe('new, no recorder');
  });
});
