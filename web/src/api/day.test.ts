import { describe, expect, it } from 'vitest';
import { withClips } from './day';
import type { ClipView, DayView } from './types';

const clip = (id: number, proxy = false) => ({ id, proxy }) as ClipView;

describe('a day with some of its clips as they are now', () => {
  const day = { clips: [clip(1), clip(2), clip(3)], health: [], notes: [] } as unknown as DayView;

  it('has those anew, in their place, and all others as they were', () => {
    const now = withClips(day, { clips: [clip(3, true), clip(1, true)], health: [], notes: [] });
    expect(now.clips).toEqual([clip(1, true), clip(2), clip(3, true)]);
    expect(now.clips[1]).toBe(day.clips[1]);
  });

  it('leaves out what the page does not have: it comes with the whole day', () => {
    const now = withClips(day, { clips: [clip(9)], health: [], notes: [] });
    expect(now.clips.map(({ id }) => id)).toEqual([1, 2, 3]);
  });
});
