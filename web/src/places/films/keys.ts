import type { Key } from '../../keys/table';

/** What the keys of Films do. */
export type FilmHands = {
  step: (by: 1 | -1) => void;
  lines: () => void;
  walls: () => void;
  angles: () => void;
  clips: () => void;
  assemblies: () => void;
  make: () => void;
  /** Stops the chosen one, or goes on with it. */
  rest: () => void;
  /** The chosen one is the next. */
  next: () => void;
  /** Takes it out of the queue. */
  out: () => void;
};

export const filmKeys = (hand: FilmHands): Key[] => [
  { keys: 'L', does: 'a film of each line', on: { L: hand.lines } },
  { keys: 'W', does: 'a wall of each group', on: { W: hand.walls } },
  { keys: 'A', does: 'each angle of each group', on: { A: hand.angles } },
  { keys: 'C', does: 'each clip with its sound', on: { C: hand.clips } },
  { keys: 'B', does: 'each assembly: lines one behind another', on: { B: hand.assemblies } },
  { keys: 'M', does: 'make them', on: { M: hand.make } },
  {
    keys: '↑ ↓',
    does: 'film before, film after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'R', does: 'the chosen film rests, or goes on', on: { R: hand.rest } },
  { keys: 'N', does: 'the chosen film is the next', on: { N: hand.next } },
  { keys: 'delete', does: 'take it out of the queue', on: { Delete: hand.out } },
];
