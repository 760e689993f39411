import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of Intake do: those of the whole place. */
export type IntakeHands = { filter: () => void; detail: () => void; undo: () => void; redo: () => void };

/** What the keys of the table of clips do, while it has the focus. */
export type TableHands = {
  /** Goes so many rows on, or to the first or last; `extend` chooses all between. */
  step: (by: number, extend: boolean) => void;
  page: (by: 1 | -1, extend: boolean) => void;
  toggle: () => void;
  all: () => void;
  none: () => void;
  edit: () => void;
  open: () => void;
};

export const tableKeys = (hand: TableHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'clip before, clip after',
    on: { ArrowUp: () => hand.step(-1, false), ArrowDown: () => hand.step(1, false) },
  },
  {
    keys: 'page ↑ ↓, home, end',
    does: 'further',
    on: {
      PageUp: () => hand.page(-1, false),
      PageDown: () => hand.page(1, false),
      Home: () => hand.step(-Infinity, false),
      End: () => hand.step(Infinity, false),
    },
  },
  {
    keys: 'shift ↑ ↓',
    does: 'choose several',
    on: {
      'shift ArrowUp': () => hand.step(-1, true),
      'shift ArrowDown': () => hand.step(1, true),
      'shift PageUp': () => hand.page(-1, true),
      'shift PageDown': () => hand.page(1, true),
      'shift Home': () => hand.step(-Infinity, true),
      'shift End': () => hand.step(Infinity, true),
    },
  },
  { keys: 'space', does: 'choose one more, or one less', on: { Space: hand.toggle } },
  { keys: 'ctrl A', does: 'choose all', on: { 'ctrl A': hand.all } },
  { keys: 'escape', does: 'choose none', on: { Escape: hand.none } },
  { keys: 'E', does: 'edit scene, take, notes; tab goes on', on: { E: hand.edit } },
  { keys: 'O', does: 'open or close a span', on: { O: hand.open } },
];

export const intakeKeys = (hand: IntakeHands): Key[] => [
  { keys: 'F', does: 'show only clips with some words', on: { F: hand.filter } },
  { keys: 'D', does: 'detail of the clip', on: { D: hand.detail } },
  {
    keys: 'ctrl Z, ctrl shift Z',
    does: 'undo, redo',
    on: turns(hand),
  },
];
