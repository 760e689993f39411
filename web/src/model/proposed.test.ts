import { describe, expect, it } from 'vitest';
import { differsSaid } from './proposed';

describe('proposed groups', () => {
  it('say how they differ from what is there', () => {
    const differs = { begins: -14, ends: 3, more: 2, fewer: 1 };
    expect(differsSaid(differs)).toBe('begins 14 f earlier, ends 3 f later, 2 clips more, 1 clip fewer');
    expect(differsSaid({ begins: 0, ends: 0, more: 0, fewer: 0 })).toBe('made up otherwise');
  });
});
