import { describe, expect, test } from 'vitest';
import { benchKeys } from '../places/bench/keys';
import { dayKeys } from '../places/day/keys';
import { groupKeys } from '../places/groups/keys';
import { intakeKeys, tableKeys } from '../places/intake/keys';
import { switchKeys } from '../places/switch/keys';
import { listenKeys, soundKeys, turnoverKeys } from '../places/turnover/keys';
import { idle, pressed, runs, type Key, type Press } from './table';

const press = (key: string, more: Partial<Press> = {}): Press => ({
  key,
  code: /^[a-z]$/i.test(key) ? `Key${key.toUpperCase()}` : '',
  ctrlKey: false,
  metaKey: false,
  altKey: false,
  shiftKey: false,
  ...more,
});

describe('a press', () => {
  test.each([
    ['a letter', press('s'), 'S'],
    ['caps lock', press('S'), 'S'],
    ['shift', press('Z', { shiftKey: true }), 'shift Z'],
    ['ctrl and shift', press('Z', { ctrlKey: true, shiftKey: true }), 'ctrl shift Z'],
    ['cmd is ctrl', press('z', { metaKey: true }), 'ctrl Z'],
    ['a layout without Latin letters', press('ы', { code: 'KeyS' }), 'S'],
    ['a letter where the layout has it', press('a', { code: 'KeyQ' }), 'A'],
    ['a letter that alt makes another of', press('µ', { code: 'KeyM', altKey: true }), 'alt M'],
    ['a digit', press('3', { code: 'Digit3' }), '3'],
    ['a digit where its key says another sign', press('"', { code: 'Digit3' }), '3'],
    ['a digit of the number pad', press('3', { code: 'Numpad3' }), '3'],
    ['an arrow of the number pad', press('ArrowDown', { code: 'Numpad2' }), 'ArrowDown'],
    ['a sign that needs shift', press('?', { code: 'Minus', shiftKey: true }), '?'],
    ['a comma where another layout has a letter', press(',', { code: 'KeyM' }), ','],
    ['space', press(' ', { code: 'Space' }), 'Space'],
    ['an arrow', press('ArrowLeft', { shiftKey: true }), 'shift ArrowLeft'],
  ])('%s', (_, event, name) => expect(pressed(event)).toBe(name));
});

const TABLES: [string, Key[]][] = [
  ['Bench', benchKeys(idle())],
  ['Day sheet', dayKeys(idle())],
  ['Groups', groupKeys(idle())],
  ['Intake', [...tableKeys(idle()), ...intakeKeys(idle())]],
  ['Switch', switchKeys(idle())],
  ['Turnover', turnoverKeys(idle())],
  ['its sound', soundKeys(idle())],
  ['what is listened to', listenKeys(idle())],
];

describe.each(TABLES)('the keys of %s', (_, table) => {
  test('each press does one thing', () => {
    const all = table.flatMap(({ on }) => Object.keys(on));
    expect(all).toHaveLength(new Set(all).size);
  });

  test('every line says its keys and runs something', () => {
    for (const { keys, does, on } of table) {
      expect(keys && does && Object.keys(on).length).toBeTruthy();
    }
  });

  test('none is a pair of punctuation, or a digit with a modifier', () => {
    for (const name of table.flatMap(({ on }) => Object.keys(on))) {
      expect(name).not.toMatch(/[,.[\];']$|^(ctrl|alt|shift) .*\d$/);
    }
  });
});

test('a key runs what its line says, and only that', () => {
  const done: string[] = [];
  const table: Key[] = [
    { keys: 'S', does: 'sync', on: { S: () => done.push('sync') } },
    { keys: 'ctrl S', does: 'keep', on: { 'ctrl S': () => done.push('keep') } },
  ];
  runs(table, press('S'))?.();
  runs(table, press('s', { ctrlKey: true }))?.();
  expect(done).toEqual(['sync', 'keep']);
  expect(runs(table, press('s', { altKey: true }))).toBeUndefined();
  // What every object has is no key.
  expect(runs(table, press('toString'))).toBeUndefined();
});
