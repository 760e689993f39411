/** The mirror view: a window on the axis, and what of two clips lies in it. */
import type { Placement } from '../api/types';
import { axisAt, clipAt, end } from './axis';

/** A window on the axis, seconds. */
export type Window = { from: number; to: number };

/** Shortest and longest window, seconds. */
const NARROWEST = 0.004;

/** A window about `at` by so much narrower (more than 1) or wider, no wider than `whole`. */
export function zoomed({ from, to }: Window, at: number, by: number, whole: Window): Window {
  const span = Math.min(Math.max((to - from) / by, NARROWEST), whole.to - whole.from);
  const share = (at - from) / (to - from);
  return kept({ from: at - share * span, to: at + (1 - share) * span }, whole);
}

/** A window moved by so many seconds. */
export const moved = ({ from, to }: Window, by: number, whole: Window): Window =>
  kept({ from: from + by, to: to + by }, whole);

/** A window with a moment in it: as it is, or moved so that the moment is in its middle. */
export function showing(window: Window, at: number, whole: Window): Window {
  const span = window.to - window.from;
  const edge = 0.04 * span;
  if (at >= window.from + edge && at <= window.to - edge) return window;
  return kept({ from: at - span / 2, to: at + span / 2 }, whole);
}

/** Not outside of the whole. */
function kept({ from, to }: Window, whole: Window): Window {
  const span = to - from;
  const begin = Math.min(Math.max(from, whole.from), Math.max(whole.to - span, whole.from));
  return { from: begin, to: begin + span };
}

/** Where a clip's sound lies: its stretches, without the time that sound needed to reach it, moved by `shift`. */
export type Heard = { stretches: Placement['stretches']; later: number };

/** How a placement is heard. */
export const heardAt = ({ stretches, travel_s }: Placement, shift = 0): Heard => ({
  stretches,
  later: shift - travel_s,
});

/** The clip's own time that is heard at a moment of the axis; beyond its ends as its ends go on. */
export function ownAt({ stretches, later }: Heard, axis: number): number {
  const moment = axis - later;
  const piece = stretches.find((one) => moment < end(one)) ?? stretches.at(-1);
  return piece ? clipAt(piece, moment) : moment;
}

/** The moment of the axis at which the clip's own time is heard. */
export function axisOf({ stretches, later }: Heard, own: number): number {
  const piece = stretches.find((one) => own < one.clip_end_s) ?? stretches.at(-1);
  return (piece ? axisAt(piece, own) : own) + later;
}

/** From when to when a clip is heard. */
export function extent({ stretches, later }: Heard): Window {
  const [first, last] = [stretches[0], stretches.at(-1)];
  return first && last ? { from: first.start_s + later, to: end(last) + later } : { from: 0, to: 1 };
}

/** A piece of a clip that is asked for at once: pieces of one length, so that moving asks for few anew. */
export type Piece = { from: number; to: number };

/** The pieces of a clip that a window needs, of its own time. */
export function pieces(heard: Heard, window: Window, duration: number): Piece[] {
  const [a, b] = [ownAt(heard, window.from), ownAt(heard, window.to)];
  const length = 2 ** Math.ceil(Math.log2(Math.max(b - a, NARROWEST)));
  const found: Piece[] = [];
  for (let i = Math.floor(Math.max(0, a) / length); i * length < Math.min(b, duration); i++) {
    found.push({ from: i * length, to: Math.min((i + 1) * length, duration) });
  }
  return found.slice(0, 4);
}

/** An offset as it is typed: frames (`12 f`), milliseconds (`-480 ms`), seconds (`1.5 s`), or `00:00:01:12`. */
export function typedOffset(text: string, fps: number): number | null {
  const plain = text.trim().replace('−', '-').replace(',', '.');
  const label = /^([+-]?)(?:(\d+):)?(?:(\d+):)?(\d+):(\d+)$/.exec(plain);
  if (label) {
    const [hours, minutes] =
      label[2] !== undefined && label[3] === undefined ? [0, label[2]] : [label[2], label[3]];
    const seconds = Number(hours ?? 0) * 3600 + Number(minutes ?? 0) * 60 + Number(label[4]);
    const value = seconds + Number(label[5]) / fps;
    return label[1] === '-' ? -value : value;
  }
  const number = /^([+-]?\d+(?:\.\d+)?)\s*(f|frames?|ms|s)?$/i.exec(plain);
  if (!number) return null;
  const value = Number(number[1]);
  const unit = (number[2] ?? 'f').toLowerCase();
  return unit === 'ms' ? value / 1000 : unit === 's' ? value : value / fps;
}
