import { turns } from '../../keys/common';
import type { Key } from '../../keys/table';

/** What the keys of Groups do. */
export type GroupHands = {
  step: (by: 1 | -1) => void;
  cut: () => void;
  propose: () => void;
  tick: () => void;
  edge: (by: 1 | -1) => void;
  frame: (by: 1 | -1) => void;
  head: () => void;
  tail: () => void;
  untrim: () => void;
  split: () => void;
  takeOut: () => void;
  putBack: () => void;
  merge: () => void;
  duplicate: () => void;
  remove: () => void;
  angle: (by: 1 | -1) => void;
  moveAngle: (by: 1 | -1) => void;
  nameAngle: () => void;
  hide: () => void;
  nudge: (frames: number) => void;
  blank: () => void;
  aside: () => void;
  takeIn: () => void;
  title: () => void;
  format: () => void;
  through: () => void;
  toCovered: () => void;
  zoom: (way: 1 | -1) => void;
  stretch: (by: 1 | -1) => void;
  nameAll: () => void;
  play: () => void;
  grid: () => void;
  moveGroup: (by: 1 | -1) => void;
  undo: () => void;
  redo: () => void;
};

export const groupKeys = (hand: GroupHands): Key[] => [
  {
    keys: '↑ ↓',
    does: 'group before, group after',
    on: { ArrowUp: () => hand.step(-1), ArrowDown: () => hand.step(1) },
  },
  { keys: 'enter', does: 'cut the group', on: { Enter: hand.cut } },
  { keys: 'P', does: 'propose groups anew', on: { P: hand.propose } },
  {
    keys: '← →',
    does: 'edge before, edge after; with shift one frame',
    on: {
      ArrowLeft: () => hand.edge(-1),
      ArrowRight: () => hand.edge(1),
      'shift ArrowLeft': () => hand.frame(-1),
      'shift ArrowRight': () => hand.frame(1),
    },
  },
  {
    keys: '+ −',
    does: 'closer, farther (or the wheel with ctrl)',
    on: { '+': () => hand.zoom(1), '=': () => hand.zoom(1), '-': () => hand.zoom(-1) },
  },
  { keys: 'I', does: 'trim the head to the playhead', on: { I: hand.head } },
  { keys: 'O', does: 'trim the tail to the playhead', on: { O: hand.tail } },
  { keys: 'U', does: 'untrim: all of it again', on: { U: hand.untrim } },
  { keys: 'C', does: 'trim to the stretch that all angles cover', on: { C: hand.toCovered } },
  {
    keys: 'G, shift G',
    does: 'the next stretch that all angles cover; the one before',
    on: { G: () => hand.stretch(1), 'shift G': () => hand.stretch(-1) },
  },
  { keys: 'S', does: 'split at the playhead', on: { S: hand.split } },
  {
    keys: 'R, shift R',
    does: 'remove a piece of all angles from here, once more up to here; put it back where it was',
    on: { R: hand.takeOut, 'shift R': hand.putBack },
  },
  { keys: 'X', does: 'tick the group, or not', on: { X: hand.tick } },
  { keys: 'M', does: 'make those ticked one; with none, this and the next', on: { M: hand.merge } },
  { keys: 'D', does: 'the same group once more', on: { D: hand.duplicate } },
  { keys: 'delete', does: 'delete those ticked; with none, this one', on: { Delete: hand.remove } },
  {
    keys: 'shift ↑ ↓',
    does: 'move the group up or down',
    on: { 'shift ArrowUp': () => hand.moveGroup(-1), 'shift ArrowDown': () => hand.moveGroup(1) },
  },
  { keys: 'L', does: 'name groups by a pattern: those ticked, or all', on: { L: hand.nameAll } },
  {
    keys: 'A, shift A',
    does: 'next angle, angle before',
    on: { A: () => hand.angle(1), 'shift A': () => hand.angle(-1) },
  },
  { keys: 'N', does: 'name the chosen angle', on: { N: hand.nameAngle } },
  {
    keys: 'ctrl ↑ ↓',
    does: 'move the chosen angle up or down',
    on: { 'ctrl ArrowUp': () => hand.moveAngle(-1), 'ctrl ArrowDown': () => hand.moveAngle(1) },
  },
  { keys: 'H', does: 'set the chosen angle aside, or show it again', on: { H: hand.hide } },
  {
    keys: 'ctrl ← →',
    does: 'its clip at the playhead a frame earlier or later',
    on: { 'ctrl ArrowLeft': () => hand.nudge(-1), 'ctrl ArrowRight': () => hand.nudge(1) },
  },
  { keys: 'B', does: 'blank the chosen angle from here; once more, up to here', on: { B: hand.blank } },
  { keys: 'W', does: 'its clip at the playhead aside, out of the group', on: { W: hand.aside } },
  { keys: 'T, shift T', does: 'take a clip in; a title', on: { T: hand.takeIn, 'shift T': hand.title } },
  { keys: 'space', does: 'play its sound from the playhead, stand still', on: { Space: hand.play } },
  { keys: 'E', does: 'to the sound grid: what is heard (its keys stand below it)', on: { E: hand.grid } },
  { keys: 'F', does: 'the group’s format: rate, size, where it starts', on: { F: hand.format } },
  { keys: 'V', does: 'viewing LUTs: what the angles are seen through', on: { V: hand.through } },
  { keys: 'ctrl Z', does: 'undo what was done to groups; with shift redo', on: turns(hand) },
];
