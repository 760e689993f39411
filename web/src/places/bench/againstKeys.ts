import { steps, turns } from '../../keys/common';
import type { Key } from '../../keys/table';
import type { Ears } from './ears';

/** What the keys do where a clip is laid against another. */
export type AgainstHands = {
  play: () => void;
  /** The playhead, so many frames on. */
  step: (frames: number) => void;
  /** The clip, so many frames later. */
  nudge: (frames: number) => void;
  milliseconds: (by: number) => void;
  sample: (by: number) => void;
  take: () => void;
  wider: () => void;
  rung: (number: number) => void;
  point: (number: number) => void;
  ears: (ears: Ears) => void;
  zoom: (way: 1 | -1) => void;
  whole: () => void;
  taller: (way: 1 | -1) => void;
  /** Another clip beside the two: the next one, or none. */
  third: (way: 1 | 0) => void;
  /** A break at the playhead: what follows lies as it is laid now, what comes before where it lay. */
  breakHere: () => void;
  /** The nearest break: to the playhead, or out. */
  moveBreak: () => void;
  removeBreak: () => void;
  right: () => void;
  aside: () => void;
  doubt: (by: 1 | -1) => void;
  slate: () => void;
  /** The day is checked. */
  declare: () => void;
  undo: () => void;
  redo: () => void;
};

const digits = (run: (digit: number) => void) =>
  Object.fromEntries(Array.from({ length: 10 }, (_, digit) => [String(digit), () => run(digit)]));

export const againstKeys = (hand: AgainstHands): Key[] => [
  { keys: 'space', does: 'play and stand', on: { Space: hand.play } },
  {
    keys: '← →',
    does: 'a frame back, a frame on, with its sound; with shift ten',
    on: steps(hand.step),
  },
  {
    keys: 'A D',
    does: 'the clip a frame earlier, a frame later; with shift ten, with alt a millisecond, with both a sample',
    on: {
      A: () => hand.nudge(-1),
      D: () => hand.nudge(1),
      'shift A': () => hand.nudge(-10),
      'shift D': () => hand.nudge(10),
      'alt A': () => hand.milliseconds(-1),
      'alt D': () => hand.milliseconds(1),
      'alt shift A': () => hand.sample(-1),
      'alt shift D': () => hand.sample(1),
    },
  },
  { keys: 'T', does: 'take what the needle says', on: { T: hand.take } },
  { keys: 'F', does: 'let the needle look farther', on: { F: hand.wider } },
  { keys: '0 to 9', does: 'as it was placed; another place that would fit', on: digits(hand.rung) },
  {
    keys: 'Q W E',
    does: 'a check point near the start, in the middle, near the end; looped',
    on: { Q: () => hand.point(0), W: () => hand.point(1), E: () => hand.point(2) },
  },
  {
    keys: 'B O R C X',
    does: 'hear both, one in each ear, the reference, the clip, their difference',
    on: {
      B: () => hand.ears('both'),
      O: () => hand.ears('each'),
      R: () => hand.ears('reference'),
      C: () => hand.ears('clip'),
      X: () => hand.ears('difference'),
    },
  },
  {
    keys: '+ −',
    does: 'closer, farther',
    on: { '+': () => hand.zoom(1), '=': () => hand.zoom(1), '-': () => hand.zoom(-1) },
  },
  { keys: 'Z', does: 'the whole clip', on: { Z: hand.whole } },
  {
    keys: '↑ ↓',
    does: 'waveforms taller, lower',
    on: { ArrowUp: () => hand.taller(1), ArrowDown: () => hand.taller(-1) },
  },
  {
    keys: 'K',
    does: 'a break here: only what follows the playhead is laid where it is moved to',
    on: { K: hand.breakHere },
  },
  {
    keys: 'shift K, alt K',
    does: 'the nearest break to the playhead; taken out',
    on: { 'shift K': hand.moveBreak, 'alt K': hand.removeBreak },
  },
  {
    keys: 'H, shift H',
    does: 'another clip beside the two, the next one; none',
    on: { H: () => hand.third(1), 'shift H': () => hand.third(0) },
  },
  { keys: 'Y', does: 'yes, it is right here; next doubt', on: { Y: hand.right } },
  { keys: 'S', does: 'set it aside; next doubt', on: { S: hand.aside } },
  {
    keys: 'N, shift N',
    does: 'next doubt, the one before',
    on: { N: () => hand.doubt(1), 'shift N': () => hand.doubt(-1) },
  },
  { keys: 'V', does: 'declare the day checked, when all is looked at', on: { V: hand.declare } },
  { keys: 'M', does: 'mark its slate', on: { M: hand.slate } },
  {
    keys: 'ctrl Z',
    does: 'take back what was last decided in the round; with shift make it again',
    on: turns(hand),
  },
];
