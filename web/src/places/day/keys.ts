import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of the Day sheet do. */
export type DayHands = {
  sync: () => void;
  doubt: () => void;
  /** Goes so many clips on. */
  step: (by: 1 | -1) => void;
  none: () => void;
  /** Closer, or farther. */
  zoom: (way: 1 | -1) => void;
  whole: () => void;
  round: () => void;
  undo: () => void;
  redo: () => void;
};

export const dayKeys = (hand: DayHands): Key[] => [
  { keys: 'S', does: 'sync the day', on: { S: hand.sync } },
  { keys: 'N', does: 'next doubt', on: { N: hand.doubt } },
  {
    keys: '↑ ↓',
    does: 'clip before, clip after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  {
    keys: '+ −',
    does: 'closer, farther (or the wheel with ctrl)',
    on: { '+': () => hand.zoom(1), '=': () => hand.zoom(1), '-': () => hand.zoom(-1) },
  },
  { keys: 'W', does: 'the whole day', on: { W: hand.whole } },
  { keys: 'R', does: 'the round of doubt, at the Bench', on: { R: hand.round } },
  { keys: 'escape', does: 'choose none', on: { Escape: hand.none } },
  {
    keys: 'ctrl Z',
    does: 'the pass that was shown before; with shift the one after',
    on: turns(hand),
  },
];
