import { steps, tracks, turns, type TrackHands } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of Turnover do. */
export type TurnoverHands = {
  step: (by: 1 | -1) => void;
  save: () => void;
  /** The same with its media. */
  whole: () => void;
  sound: () => void;
  films: () => void;
  assembly: () => void;
};

/** What the keys of its sound do. */
export type SoundHands = {
  step: (by: 1 | -1) => void;
  pictures: () => void;
  groups: () => void;
  write: () => void;
  /** Which tracks go out, and what they are called. */
  order: () => void;
  /** Plays the picture with its sound. */
  hear: () => void;
  undo: () => void;
  redo: () => void;
};

export const turnoverKeys = (hand: TurnoverHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'document before, document after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'enter', does: 'save the document', on: { Enter: hand.save } },
  { keys: 'W', does: 'save it with the media that it names', on: { W: hand.whole } },
  { keys: 'S', does: 'sound onto pictures', on: { S: hand.sound } },
  { keys: 'F', does: 'films: lines, walls, angles and clips as files', on: { F: hand.films } },
  { keys: 'A', does: 'assembly: several lines one behind another', on: { A: hand.assembly } },
];

export const soundKeys = (hand: SoundHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'file before, file after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'P', does: 'sound of the pictures', on: { P: hand.pictures } },
  { keys: 'G', does: 'sound of the groups', on: { G: hand.groups } },
  { keys: 'W', does: 'write all of them', on: { W: hand.write } },
  { keys: 'N', does: 'tracks: names, order, which go out', on: { N: hand.order } },
  { keys: 'space', does: 'play the picture with its sound, stand still', on: { Space: hand.hear } },
  { keys: 'ctrl Z', does: 'undo a choice; with shift redo', on: turns(hand) },
];

/** What the keys do while a picture is listened to. */
export type ListenHands = TrackHands & {
  play: () => void;
  step: (frames: number) => void;
  head: () => void;
  middle: () => void;
  tail: () => void;
  /** A track alone, from 0. */
  alone: (track: number) => void;
};

const DIGITS = [1, 2, 3, 4, 5, 6, 7, 8, 9];

export const listenKeys = (hand: ListenHands): Key[] => [
  { keys: 'space', does: 'play, stand still', on: { Space: hand.play } },
  { keys: '← →', does: 'one frame; with shift ten', on: steps(hand.step) },
  {
    keys: 'home M end',
    does: 'from the head, from the middle, near the tail',
    on: { Home: hand.head, M: hand.middle, End: hand.tail },
  },
  {
    keys: '1 … 9',
    does: 'that track alone; again those together',
    on: Object.fromEntries(DIGITS.map((digit) => [digit, () => hand.alone(digit - 1)])),
  },
  tracks(hand),
];
