import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of Turnover do. */
export type TurnoverHands = { step: (by: 1 | -1) => void; save: () => void; sound: () => void };

/** What the keys of its sound do. */
export type SoundHands = {
  step: (by: 1 | -1) => void;
  pictures: () => void;
  groups: () => void;
  write: () => void;
  undo: () => void;
  redo: () => void;
};

export const turnoverKeys = (hand: TurnoverHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'document before, document after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'enter', does: 'save the document', on: { Enter: hand.save } },
  { keys: 'S', does: 'sound onto pictures', on: { S: hand.sound } },
];

export const soundKeys = (hand: SoundHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'file before, file after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'P', does: 'sound of the pictures', on: { P: hand.pictures } },
  { keys: 'G', does: 'sound of the groups', on: { G: hand.groups } },
  { keys: 'W', does: 'write all of them', on: { W: hand.write } },
  { keys: 'ctrl Z', does: 'undo a choice; with shift redo', on: turns(hand) },
];
