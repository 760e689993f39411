import { describe, expect, test } from 'vitest';
import { alone, atFirst, isHeard, keptFor, levels, nextAlone, said, ticked, together } from './mix';

const names = ['Mix L', 'Mix R', 'Boom', 'Lav 1'];
const heard = (chosen: ReturnType<typeof atFirst>) => names.filter((_, i) => isHeard(chosen, i));

describe('at first', () => {
  test('what was mixed is heard', () => expect(heard(atFirst(names))).toEqual(['Mix L', 'Mix R']));
  test('everything, where nothing was', () =>
    expect(atFirst(['Boom', 'Mixer desk']).together).toEqual([true, true]));
});

describe('one track alone', () => {
  test('and again those together', () => {
    const boom = alone(atFirst(names), 2);
    expect(heard(boom)).toEqual(['Boom']);
    expect(heard(alone(boom, 2))).toEqual(['Mix L', 'Mix R']);
    expect(heard(together(boom))).toEqual(['Mix L', 'Mix R']);
  });
  test('one after the other, then those together', () => {
    let chosen = atFirst(names);
    const found = names.map(() => {
      chosen = nextAlone(chosen);
      return heard(chosen);
    });
    expect(found).toEqual(names.map((name) => [name]));
    expect(heard(nextAlone(chosen))).toEqual(['Mix L', 'Mix R']);
  });
  test('one that is not there changes nothing', () =>
    expect(alone(atFirst(names), 7)).toEqual(atFirst(names)));
});

test('a tick is heard at once', () => {
  expect(heard(ticked(alone(atFirst(names), 3), 2))).toEqual(['Mix L', 'Mix R', 'Boom']);
  expect(heard(ticked(atFirst(names), 0))).toEqual(['Mix R']);
});

test('several are as loud as one', () => {
  const power = levels(atFirst(names)).reduce((sum, level) => sum + level ** 2, 0);
  expect(power).toBeCloseTo(1);
  expect(levels(alone(atFirst(names), 1))).toEqual([0, 1, 0, 0]);
  expect(levels({ together: [false, false], alone: null })).toEqual([0, 0]);
});

test('a choice is kept by the names of the tracks', () => {
  const boom = alone(atFirst(names), 2);
  expect(keptFor(boom, names, names)).toEqual(boom);
  expect(keptFor(boom, names, ['A', 'B'])).toEqual(atFirst(['A', 'B']));
  // In another order, with one that is new: by their names.
  const others = ['Boom', 'Lav 2', 'Mix L'];
  expect(keptFor(boom, names, others)).toEqual({ together: [false, false, true], alone: 0 });
  expect(keptFor(alone(boom, 3), names, others).alone).toBeNull();
});

test('what is heard is said', () => {
  expect(said(atFirst(names), names)).toBe('Mix L, Mix R');
  expect(said(alone(atFirst(names), 2), names)).toBe('Boom alone');
  expect(said({ together: [true, true, true, true], alone: null }, names)).toBe('all 4 tracks');
  expect(said({ together: [false, false, false, false], alone: null }, names)).toBe('no track');
});
