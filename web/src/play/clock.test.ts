import { describe, expect, test } from 'vitest';
import { Lead } from './clock';

/** A clock read in steps of 20 ms beside a smooth one, some ppm faster. */
const read = (moment: number, ppm = 0) => Math.floor((moment * (1 + ppm * 1e-6)) / 0.02) * 0.02 - moment;

describe('the lead of a clock that is read in steps', () => {
  test('does not jump back by a step', () => {
    const lead = new Lead();
    let last = -Infinity;
    for (let moment = 100; moment < 160; moment += 0.0171) {
      const now = lead.at(moment, read(moment));
      // Half a second shows the most of a step.
      if (moment > 100.5) expect(now).toBeGreaterThan(last - 0.0015);
      last = Math.max(now, moment < 100.5 ? now : last);
    }
    expect(last).toBeGreaterThan(-0.0015);
  });

  test('follows clocks that part', () => {
    const lead = new Lead();
    let now = 0;
    for (let moment = 0; moment < 600; moment += 0.0171) now = lead.at(moment, read(moment, -200));
    // 200 ppm of ten minutes are 0.12 s; what counts is four seconds old at most.
    expect(now).toBeLessThan(-0.117);
    expect(now).toBeGreaterThan(-0.122);
  });

  test('forgets what it knew', () => {
    const lead = new Lead();
    expect(lead.at(0, 5)).toBe(5);
    lead.forget();
    expect(lead.at(0.1, 3)).toBe(3);
    expect(lead.at(60, 1)).toBe(1);
  });
});
