/** What the same keys do in every place that has them. */
import type { Key } from './table';

/** The arrows step frame by frame, with shift ten at a time. */
export const steps = (step: (frames: number) => void): Key['on'] => ({
  ArrowLeft: () => step(-1),
  ArrowRight: () => step(1),
  'shift ArrowLeft': () => step(-10),
  'shift ArrowRight': () => step(10),
});

/** What was done is taken back, with shift made again. */
export const turns = (hand: { undo: () => void; redo: () => void }): Key['on'] => ({
  'ctrl Z': hand.undo,
  'ctrl shift Z': hand.redo,
});

/** What is done about the tracks that are heard. */
export type TrackHands = { next: () => void; together: () => void };

/** One track after the other is heard alone. */
export const tracks = (hand: TrackHands): Key => ({
  keys: 'T, shift T',
  does: 'the next track alone; those together',
  on: { T: hand.next, 'shift T': hand.together },
});
