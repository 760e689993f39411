/** What is asked for of something long, to show a part of it. */
import type { Window } from './mirror';

/** The frames that are asked for to show a view: wider than it, and the same while it is moved a little. */
export function tileOf({ from, to }: Window, frames: number): Window {
  const span = Math.max(1, to - from);
  const wide = Math.min(frames, Math.ceil(frames / 2 ** (Math.floor(Math.log2(frames / span)) - 1)));
  const step = Math.max(1, Math.floor(wide / 2));
  const first = Math.max(0, Math.min(Math.floor(from / step) * step, frames - wide));
  return { from: first, to: first + wide };
}
