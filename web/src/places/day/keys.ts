import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of the Day sheet do. */
export type DayHands = {
  sync: () => void;
  doubt: () => void;
  /** Goes so many clips on, or takes those too. */
  step: (by: 1 | -1, extend: boolean) => void;
  none: () => void;
  all: () => void;
  /** All that have it in common with the chosen clip. */
  device: () => void;
  verdict: () => void;
  scene: () => void;
  /** Places the chosen clips anew. */
  anew: () => void;
  /** Moves the chosen clip roughly, so many pixels. */
  shift: (by: number) => void;
  near: () => void;
  lay: () => void;
  /** Closer, or farther. */
  zoom: (way: 1 | -1) => void;
  whole: () => void;
  /** The shoot day after, or before. */
  dayAt: (by: 1 | -1) => void;
  /** Folds what only some ran through, or unfolds it. */
  fold: () => void;
  round: () => void;
  /** The chosen clip at the Bench. */
  bench: () => void;
  undo: () => void;
  redo: () => void;
};

export const dayKeys = (hand: DayHands): Key[] => [
  { keys: 'S', does: 'sync the day', on: { S: hand.sync } },
  { keys: 'N', does: 'next doubt', on: { N: hand.doubt } },
  {
    keys: '↑ ↓',
    does: 'clip before, clip after; with shift those too',
    on: {
      ArrowUp: () => hand.step(-1, false),
      ArrowDown: () => hand.step(1, false),
      'shift ArrowUp': () => hand.step(-1, true),
      'shift ArrowDown': () => hand.step(1, true),
    },
  },
  {
    keys: 'D V C A',
    does: 'choose all of its device, of its verdict, of its scene; all clips',
    on: { D: hand.device, V: hand.verdict, C: hand.scene, A: hand.all, 'ctrl A': hand.all },
  },
  { keys: 'P', does: 'place the chosen clips anew', on: { P: hand.anew } },
  {
    keys: 'alt ↑ ↓',
    does: 'move the chosen clip roughly (or drag it); with shift farther',
    on: {
      'alt ArrowUp': () => hand.shift(-4),
      'alt ArrowDown': () => hand.shift(4),
      'alt shift ArrowUp': () => hand.shift(-40),
      'alt shift ArrowDown': () => hand.shift(40),
    },
  },
  {
    keys: 'L',
    does: 'look near where it was put; with shift lay it there',
    on: { L: hand.near, 'shift L': hand.lay },
  },
  {
    keys: '+ −',
    does: 'closer, farther (or the wheel with ctrl)',
    on: { '+': () => hand.zoom(1), '=': () => hand.zoom(1), '-': () => hand.zoom(-1) },
  },
  { keys: 'W', does: 'the whole day', on: { W: hand.whole } },
  {
    keys: 'G',
    does: 'the shoot day after, then all of them; with shift the one before',
    on: { G: () => hand.dayAt(1), 'shift G': () => hand.dayAt(-1) },
  },
  {
    keys: 'F',
    does: 'fold stretches in which only some devices ran, or unfold them',
    on: { F: hand.fold },
  },
  { keys: 'B', does: 'the chosen clip at the Bench, against what it ran with', on: { B: hand.bench } },
  { keys: 'R', does: 'the round of doubt, at the Bench', on: { R: hand.round } },
  { keys: 'escape', does: 'choose none, put back what was moved', on: { Escape: hand.none } },
  {
    keys: 'ctrl Z',
    does: 'the pass that was shown before; with shift the one after',
    on: turns(hand),
  },
];
