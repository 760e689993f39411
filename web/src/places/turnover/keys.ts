import type { Key } from '../../keys/table';

/** What the keys of Turnover do. */
export type TurnoverHands = { step: (by: 1 | -1) => void; save: () => void };

export const turnoverKeys = (hand: TurnoverHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'document before, document after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'enter', does: 'save the document', on: { Enter: hand.save } },
];
