import { expect, test } from 'vitest';
import type { Angle, AnglePart } from '../api/types';
import { edgeFrom, edgeSaid, edgesOf } from './edges';

const part = (from_frame: number, to_frame: number) => ({ from_frame, to_frame }) as AnglePart;
const angle = (id: number, ...parts: AnglePart[]): Angle => ({
  id,
  device: id,
  name: null,
  hidden: false,
  parts,
});
const group = {
  frames: 100,
  angles: [angle(1, part(0, 40), part(50, 100)), angle(2, part(40, 80))],
  sound: angle(9, part(5, 80)),
};
const name = ({ device }: Angle) => `D${device}`;

test('every edge is there once, in order', () => {
  expect(edgesOf(group)).toEqual([0, 5, 40, 50, 80, 100]);
});

test('one goes from edge to edge, and stays at the last', () => {
  const edges = edgesOf(group);
  expect(edgeFrom(edges, 0, 1)).toBe(5);
  expect(edgeFrom(edges, 41, 1)).toBe(50);
  expect(edgeFrom(edges, 41, -1)).toBe(40);
  expect(edgeFrom(edges, 100, 1)).toBe(100);
  expect(edgeFrom(edges, 0, -1)).toBe(0);
});

test('an edge says what begins and ends there', () => {
  expect(edgeSaid(group, 0, name)).toBe('head');
  expect(edgeSaid(group, 100, name)).toBe('tail');
  expect(edgeSaid(group, 40, name)).toBe('D1 ends; D2 begins');
  expect(edgeSaid(group, 80, name)).toBe('D2, D9 end');
  expect(edgeSaid(group, 77, name)).toBe('');
});

test('where a piece is taken out is an edge, and says so', () => {
  const cut = { ...group, seams: [{ at: 60, frames: 25 }] };
  expect(edgesOf(cut)).toEqual([0, 5, 40, 50, 60, 80, 100]);
  expect(edgeSaid(cut, 60, name)).toBe('a piece is taken out here');
});
