import { steps, tracks, turns, type TrackHands } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of Switch do. */
export type SwitchHands = TrackHands & {
  /** Takes the angle of a number from here on. */
  take: (number: number) => void;
  /** Shows the next angle in the chosen stretch, or the one before. */
  another: (by: 1 | -1) => void;
  play: () => void;
  run: (way: 1 | -1) => void;
  stand: () => void;
  /** Goes so many frames on. */
  step: (frames: number) => void;
  /** Goes so many cuts on. */
  cut: (by: 1 | -1) => void;
  /** Moves the chosen cut. */
  roll: (frames: number) => void;
  remove: () => void;
  grid: () => void;
  undo: () => void;
  redo: () => void;
};

const DIGITS = [1, 2, 3, 4, 5, 6, 7, 8, 9];

export const switchKeys = (hand: SwitchHands): Key[] => [
  {
    keys: '1 … 9',
    does: 'take that angle, playing or standing',
    on: Object.fromEntries(DIGITS.map((digit) => [digit, () => hand.take(digit)])),
  },
  {
    keys: 'A',
    does: 'another angle in the chosen stretch; with shift the one before',
    on: { A: () => hand.another(1), 'shift A': () => hand.another(-1) },
  },
  { keys: 'space', does: 'play, stand still', on: { Space: hand.play } },
  {
    keys: 'J K L',
    does: 'run back, stand, run on',
    on: { J: () => hand.run(-1), K: hand.stand, L: () => hand.run(1) },
  },
  {
    keys: '← →',
    does: 'one frame; with shift ten',
    on: steps(hand.step),
  },
  {
    keys: '↑ ↓',
    does: 'cut before, cut after',
    on: { ArrowUp: () => hand.cut(-1), ArrowDown: () => hand.cut(1) },
  },
  {
    keys: 'E F',
    does: 'the chosen cut a frame earlier, further; with shift ten',
    on: {
      E: () => hand.roll(-1),
      F: () => hand.roll(1),
      'shift E': () => hand.roll(-10),
      'shift F': () => hand.roll(10),
    },
  },
  { keys: 'delete', does: 'take the chosen cut out', on: { Delete: hand.remove, Backspace: hand.remove } },
  tracks(hand),
  { keys: 'G', does: 'the sound grid: which tracks are heard, where and how loud', on: { G: hand.grid } },
  {
    keys: 'ctrl Z',
    does: 'undo; with shift redo',
    on: turns(hand),
  },
];
