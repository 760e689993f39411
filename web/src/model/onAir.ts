/** What a line shows at a frame. */
import type { Switch } from '../api/types';
import { stretchAt } from './line';

/** Of no angle: nothing is shown. */
export const BLACK = 0;

/** What is on, and what it comes out of where it dissolves: how much of the new one is there, 0 to 1. */
export type OnAir = { angle: number; coming: { out: number; share: number } | null };

export const only = (angle: number): OnAir => ({ angle, coming: null });

export function onAirAt(switches: readonly Switch[], frame: number): OnAir {
  const index = stretchAt(switches, frame);
  const own = switches[index];
  if (!own) return only(BLACK);
  const before = switches[index - 1];
  const length = own.dissolve ?? 0;
  if (!before || frame >= own.at + length) return only(own.angle);
  return { angle: own.angle, coming: { out: before.angle, share: (frame - own.at + 0.5) / length } };
}

/** Over how many frames a line comes out of black at its head, and goes into it at its tail. */
export function fadesOf(switches: readonly Switch[], frames: number): { head: number; tail: number } {
  const [first, second, last] = [switches[0], switches[1], switches.at(-1)];
  const isHead = first?.angle === BLACK && second?.at === 1;
  const isTail = last?.angle === BLACK && last.dissolve === frames - last.at;
  return { head: isHead ? (second.dissolve ?? 0) : 0, tail: isTail ? (last.dissolve ?? 0) : 0 };
}

/** What is heard at a frame: an angle's own sound, or the grid's where that is {@link BLACK}; and over how many frames it came. */
export function heardAt(
  line: { sound?: { switches: readonly Switch[] } },
  frame: number,
): { angle: number; dissolve: number } {
  const switches = line.sound?.switches ?? [];
  const own = switches[stretchAt(switches, frame)];
  return { angle: own?.angle ?? BLACK, dissolve: own?.dissolve ?? 0 };
}
