import { describe, expect, it } from 'vitest';
import { linesOf, titlePath } from './title';

const letters = (line: string) => line.length;

describe('titles', () => {
  it('are broken between words, and where a person broke them', () => {
    expect(linesOf('The bell is cast\nDay one', letters, 8)).toEqual(['The bell', 'is cast', 'Day one']);
    expect(linesOf('Glockengiesserei', letters, 8)).toEqual(['Glockengiesserei']);
    expect(linesOf('', letters, 8)).toEqual(['']);
  });
  it('are kept under names that any disk takes', () => {
    const now = new Date('2026-05-14T09:14:02.500Z');
    expect(titlePath('Scene 1/2: "Pour"', now)).toBe('Titles/Scene 1 2 Pour 20260514-091402.png');
    expect(titlePath('العريضة', now)).toBe('Titles/العريضة 20260514-091402.png');
    expect(titlePath('???', now)).toBe('Titles/Title 20260514-091402.png');
    expect(titlePath('x'.repeat(300), now).length).toBeLessThan(70);
  });
});
