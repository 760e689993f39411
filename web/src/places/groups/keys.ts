import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of Groups do. */
export type GroupHands = {
  step: (by: 1 | -1) => void;
  cut: () => void;
  propose: () => void;
  tick: () => void;
  edge: (by: 1 | -1) => void;
  frame: (by: 1 | -1) => void;
  head: () => void;
  tail: () => void;
  untrim: () => void;
  split: () => void;
  merge: () => void;
  duplicate: () => void;
  remove: () => void;
  undo: () => void;
  redo: () => void;
};

export const groupKeys = (hand: GroupHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'group before, group after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'enter', does: 'cut the group', on: { Enter: hand.cut } },
  { keys: 'P', does: 'propose groups anew', on: { P: hand.propose } },
  {
    keys: '← →',
    does: 'edge before, edge after; with shift one frame',
    on: {
      ArrowLeft: () => hand.edge(-1),
      ArrowRight: () => hand.edge(1),
      'shift ArrowLeft': () => hand.frame(-1),
      'shift ArrowRight': () => hand.frame(1),
    },
  },
  { keys: 'I', does: 'trim the head to the playhead', on: { I: hand.head } },
  { keys: 'O', does: 'trim the tail to the playhead', on: { O: hand.tail } },
  { keys: 'U', does: 'untrim: all of it again', on: { U: hand.untrim } },
  { keys: 'S', does: 'split at the playhead', on: { S: hand.split } },
  { keys: 'X', does: 'tick the group, or not', on: { X: hand.tick } },
  { keys: 'M', does: 'make those ticked one; with none, this and the next', on: { M: hand.merge } },
  { keys: 'D', does: 'the same group once more', on: { D: hand.duplicate } },
  { keys: 'delete', does: 'delete those ticked; with none, this one', on: { Delete: hand.remove } },
  { keys: 'ctrl Z', does: 'undo what was done to groups; with shift redo', on: turns(hand) },
];
