/** A clip's own time on the axis, as the core has it (`Stretch` there): one map for every place. */
import type { PassView, Stretch } from '../api/types';

type Piece = Pick<Stretch, 'clip_start_s' | 'clip_end_s' | 'start_s' | 'rate_ppm'>;

/** Ticks in a second. */
const TICKS = 705_600_000;

/** How fast a piece's clock runs against the axis. */
export const pace = ({ rate_ppm }: Piece) => 1 + rate_ppm * 1e-6;

/** Axis time of a moment of the clip's own time. */
export const axisAt = (piece: Piece, clip: number) =>
  piece.start_s + (clip - piece.clip_start_s) / pace(piece);

/** The clip's own time at a moment of the axis. */
export const clipAt = (piece: Piece, axis: number) =>
  piece.clip_start_s + (axis - piece.start_s) * pace(piece);

/** Where a stretch ends on the axis, in seconds. */
export const end = (piece: Piece) => axisAt(piece, piece.clip_end_s);

/** How much longer a clip's own time is than the axis's over all its pieces, in seconds. */
export const late = (pieces: readonly Piece[]) =>
  pieces.reduce((sum, own) => sum + own.clip_end_s - own.clip_start_s - (end(own) - own.start_s), 0);

/** Joints of a bending clock lie nearer than this; breaks do not. */
const JOINED_S = 1e-4;

/** Whether `next` goes on where `last` ends. */
export const joined = (last: Piece, next: Piece) =>
  Math.abs(next.start_s - end(last)) < JOINED_S && Math.abs(next.clip_start_s - last.clip_end_s) < JOINED_S;

/** Stretches that go on into each other, as they do where a clock bends, are one run; a break begins another. */
export function runs<P extends Piece>(stretches: readonly P[]): P[][] {
  const found: P[][] = [];
  for (const stretch of stretches) {
    const last = found.at(-1)?.at(-1);
    if (last && joined(last, stretch)) found.at(-1)?.push(stretch);
    else found.push([stretch]);
  }
  return found;
}

/** Time of day at the axis's zero of a pass, seconds. */
export const zeroOf = (pass: PassView | null) => (pass?.axis_zero ?? 0) / TICKS;
