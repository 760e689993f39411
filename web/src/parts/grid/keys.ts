import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of the grid do, while it has the focus. */
export type GridHands = {
  go: (down: number, across: number) => void;
  cross: () => void;
  louder: (db: number) => void;
  invert: () => void;
  mute: () => void;
  alone: () => void;
  output: () => void;
  play: () => void;
  undo: () => void;
  redo: () => void;
};

export const gridKeys = (hand: GridHands): Key[] => [
  {
    keys: '← ↑ ↓ →',
    does: 'another place',
    on: {
      ArrowUp: () => hand.go(-1, 0),
      ArrowDown: () => hand.go(1, 0),
      ArrowLeft: () => hand.go(0, -1),
      ArrowRight: () => hand.go(0, 1),
    },
  },
  { keys: 'enter', does: 'goes there, or not', on: { Enter: hand.cross } },
  {
    keys: '+ −',
    does: '1 dB louder, softer',
    on: { '+': () => hand.louder(1), '=': () => hand.louder(1), '-': () => hand.louder(-1) },
  },
  { keys: 'V', does: 'inverted, or not', on: { V: hand.invert } },
  { keys: 'M', does: 'mute', on: { M: hand.mute } },
  { keys: 'A', does: 'alone', on: { A: hand.alone } },
  { keys: 'O', does: 'one more output', on: { O: hand.output } },
  { keys: 'space', does: 'play, stand still', on: { Space: hand.play } },
  { keys: 'ctrl Z', does: 'undo; with shift redo', on: turns(hand) },
];
