import { expect, test } from 'vitest';
import type { HealthKind, HealthView, Weight } from '../api/types';
import { notesOf } from './notes';

const note = (kind: HealthKind, weight: Weight, clips: number[], aside = false) =>
  ({ note: { kind, weight, clips }, aside }) as HealthView;

test('a clip is told in a word what will hurt it, once, unless that was set aside or is only good to know', () => {
  const health = [
    note('clipped', 'hurts', [1, 2]),
    note('clipped', 'hurts', [1]),
    note('dead_channel', 'fault', [1]),
    note('mixed_rates', 'know', [1]),
    note('wrong_speed', 'hurts', [2], true),
  ];
  expect(notesOf(health).get(1)).toEqual(['clipped', 'dead channel']);
  expect(notesOf(health).get(2)).toEqual(['clipped']);
  expect(notesOf(health)).toBe(notesOf(health));
});
