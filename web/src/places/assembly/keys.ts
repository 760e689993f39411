import { steps, turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of an assembly do. */
export type AssemblyHands = {
  /** Chooses the part before, or the next. */
  choose: (by: 1 | -1) => void;
  /** The chosen part goes to another place. */
  move: (by: 1 | -1) => void;
  play: () => void;
  step: (frames: number) => void;
  add: () => void;
  gap: () => void;
  slow: () => void;
  begin: () => void;
  end: () => void;
  whole: () => void;
  take: () => void;
  cut: () => void;
  film: () => void;
  undo: () => void;
  redo: () => void;
};

export const assemblyKeys = (hand: AssemblyHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'part before, part after; with alt the part goes there',
    on: {
      ArrowUp: () => hand.choose(-1),
      ArrowDown: () => hand.choose(1),
      'alt ArrowUp': () => hand.move(-1),
      'alt ArrowDown': () => hand.move(1),
    },
  },
  { keys: 'space', does: 'play on through all parts, stand still', on: { Space: hand.play } },
  { keys: '← →', does: 'one frame; with shift ten', on: steps(hand.step) },
  { keys: 'A', does: 'add lines behind the chosen part', on: { A: hand.add } },
  { keys: 'G', does: 'a gap of a second behind it', on: { G: hand.gap } },
  { keys: 'U', does: 'put a clip’s pictures behind it: slow motion', on: { U: hand.slow } },
  {
    keys: 'I O W',
    does: 'the line begins here, ends here, is whole again',
    on: { I: hand.begin, O: hand.end, W: hand.whole },
  },
  { keys: 'delete', does: 'take the part out', on: { Delete: hand.take, Backspace: hand.take } },
  { keys: 'enter', does: 'cut its line in Switch', on: { Enter: hand.cut } },
  { keys: 'F', does: 'make a film of it', on: { F: hand.film } },
  { keys: 'ctrl Z', does: 'undo; with shift redo', on: turns(hand) },
];
