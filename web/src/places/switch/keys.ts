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
  /** The chosen cut dissolves, or cuts again. */
  dissolve: () => void;
  /** Nothing is shown in the chosen stretch. */
  black: () => void;
  /** Plays about the chosen cut, again and again. */
  loop: () => void;
  /** To where other angles run. */
  change: (by: 1 | -1) => void;
  mark: () => void;
  note: () => void;
  find: () => void;
  marker: (by: 1 | -1) => void;
  zoom: (way: 1 | -1) => void;
  page: (by: 1 | -1) => void;
  size: () => void;
  back: () => void;
  grid: () => void;
  through: () => void;
  /** What number keys switch. */
  what: () => void;
  quiet: () => void;
  lines: () => void;
  /** In point, out point here, or none. */
  begin: () => void;
  end: () => void;
  /** What lies between them goes, or is black. */
  takeOut: () => void;
  hole: () => void;
  /** So many frames before the chosen cut go (below nought), or behind it, through picture and sound. */
  ripple: (frames: number) => void;
  /** The chosen stretch, of another moment. */
  slip: (frames: number) => void;
  layOver: () => void;
  /** As long as the key is held. */
  under: () => void;
  /** Play leaves out where nothing ran, or not. */
  jump: () => void;
  undo: () => void;
  redo: () => void;
};

const DIGITS = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9];

export const switchKeys = (hand: SwitchHands): Key[] => [
  {
    keys: '1 … 9, 0',
    does: 'take that angle, playing or standing; none: black, or the grid’s sound',
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
  { keys: 'shift J', does: 'play jumps where nothing ran, or not', on: { 'shift J': hand.jump } },
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
  {
    keys: 'alt E F',
    does: 'the frame before the chosen cut goes, or the one behind it, and all that follows comes a frame earlier; with shift ten',
    on: {
      'alt E': () => hand.ripple(-1),
      'alt F': () => hand.ripple(1),
      'alt shift E': () => hand.ripple(-10),
      'alt shift F': () => hand.ripple(10),
    },
  },
  {
    keys: 'alt ← →',
    does: 'slip the chosen stretch: both of its cuts a frame earlier, later; with shift ten',
    on: {
      'alt ArrowLeft': () => hand.slip(-1),
      'alt ArrowRight': () => hand.slip(1),
      'alt shift ArrowLeft': () => hand.slip(-10),
      'alt shift ArrowRight': () => hand.slip(10),
    },
  },
  { keys: 'I O', does: 'in point here, out point here; again: none', on: { I: hand.begin, O: hand.end } },
  {
    keys: 'X, shift X',
    does: 'take out from in to out (else the chosen stretch) through picture and sound; leave it black',
    on: { X: hand.takeOut, 'shift X': hand.hole },
  },
  {
    keys: 'U',
    does: 'put something up over the line: another clip, a still, slow motion',
    on: { U: hand.layOver },
  },
  {
    keys: 'Y',
    does: 'held: the line without what lies over it; with a number that angle, nothing is taken',
    on: { Y: hand.under },
  },
  { keys: 'delete', does: 'take the chosen cut out', on: { Delete: hand.remove, Backspace: hand.remove } },
  { keys: 'D', does: 'the chosen cut dissolves, or cuts again', on: { D: hand.dissolve } },
  { keys: 'B', does: 'black in the chosen stretch', on: { B: hand.black } },
  { keys: 'R', does: 'round and round the chosen cut, to hear it while it is moved', on: { R: hand.loop } },
  {
    keys: 'C, shift C',
    does: 'to where coverage changes next; where it did before',
    on: { C: () => hand.change(1), 'shift C': () => hand.change(-1) },
  },
  {
    keys: 'M, shift M',
    does: 'a marker here, or none; its note',
    on: { M: hand.mark, 'shift M': hand.note },
  },
  {
    keys: 'N, shift N',
    does: 'next marker, marker before (of those found)',
    on: { N: () => hand.marker(1), 'shift N': () => hand.marker(-1) },
  },
  { keys: 'H', does: 'hunt for a word in the notes', on: { H: hand.find } },
  {
    keys: '+ −',
    does: 'the strip closer, farther (or the wheel with ctrl)',
    on: { '+': () => hand.zoom(1), '=': () => hand.zoom(1), '-': () => hand.zoom(-1) },
  },
  {
    keys: 'page ↑ ↓',
    does: 'number keys for the angles before, for the next ones',
    on: { PageUp: () => hand.page(-1), PageDown: () => hand.page(1) },
  },
  { keys: 'S', does: 'size of the wall: a row, half, all, none', on: { S: hand.size } },
  tracks(hand),
  { keys: 'G', does: 'the sound grid: which tracks are heard, where and how loud', on: { G: hand.grid } },
  {
    keys: 'Q',
    does: 'quiet passages: found, heard, taken out through picture and sound',
    on: { Q: hand.quiet },
  },
  { keys: 'W', does: 'what keys switch and mend: picture, sound, both', on: { W: hand.what } },
  { keys: 'P', does: 'proposed and kept lines: compared, gone to; a first cut', on: { P: hand.lines } },
  { keys: 'V', does: 'viewing LUTs: what the angles are seen through', on: { V: hand.through } },
  {
    keys: 'ctrl Z',
    does: 'undo, a live run as a whole, or what was just taken out; with shift redo',
    on: turns(hand),
  },
  { keys: 'Z', does: 'one switch of a live run back', on: { Z: hand.back } },
];
