import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of Groups do. */
export type GroupHands = { step: (by: 1 | -1) => void; cut: () => void; undo: () => void; redo: () => void };

export const groupKeys = (hand: GroupHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'group before, group after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'enter', does: 'cut the group', on: { Enter: hand.cut } },
  {
    keys: 'ctrl Z',
    does: 'undo a name or an order; with shift redo',
    on: turns(hand),
  },
];
