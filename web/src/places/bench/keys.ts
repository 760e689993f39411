import { steps, turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of the Bench do. */
export type BenchHands = {
  frames: (by: number) => void;
  milliseconds: (by: number) => void;
  nextClap: () => void;
  showSeen: () => void;
  markHere: () => void;
  markBetween: () => void;
  markPeak: () => void;
  type: () => void;
  listen: () => void;
  takeOff: () => void;
  take: (by: 1 | -1) => void;
  undo: () => void;
  redo: () => void;
};

export const benchKeys = (hand: BenchHands): Key[] => [
  {
    keys: '← →',
    does: 'one frame back, on, with its sound; with shift ten, with alt one millisecond',
    on: {
      ...steps(hand.frames),
      'alt ArrowLeft': () => hand.milliseconds(-1),
      'alt ArrowRight': () => hand.milliseconds(1),
    },
  },
  { keys: 'C', does: 'next proposed clap', on: { C: hand.nextClap } },
  { keys: 'V', does: 'go to the frame in which that clap seems to strike', on: { V: hand.showSeen } },
  {
    keys: 'M',
    does: 'mark: in a picture the frame where the sticks close, in a sound the peak',
    on: { M: hand.markHere },
  },
  { keys: 'B', does: 'mark between this frame and the one before', on: { B: hand.markBetween } },
  { keys: 'P', does: 'mark the peak in a picture’s own sound', on: { P: hand.markPeak } },
  { keys: 'T', does: 'type the timecode on the slate', on: { T: hand.type } },
  { keys: 'L', does: 'listen to the second before', on: { L: hand.listen } },
  { keys: 'X', does: 'take the mark off', on: { X: hand.takeOff } },
  { keys: 'N', does: 'next take', on: { N: () => hand.take(1) } },
  { keys: 'E', does: 'earlier take', on: { E: () => hand.take(-1) } },
  { keys: 'ctrl Z', does: 'undo; with shift redo', on: turns(hand) },
];
