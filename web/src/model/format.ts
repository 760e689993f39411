/** How values are written. Display only: nothing is decided by these. */
import type { FrameRate, Timecode } from '../api/types';

const two = (n: number) => String(n).padStart(2, '0');

/** A timecode label, drop-frame by SMPTE ST 12-1. */
export function timecode({ frames, rate, drop }: Timecode): string {
  const nominal = Math.round(rate.num / rate.den);
  let count = frames;
  if (drop) {
    const skip = nominal / 15;
    const ten = 600 * nominal - 9 * skip;
    const rest = count % ten;
    count += 9 * skip * Math.floor(count / ten);
    if (rest >= 60 * nominal) count += skip * (1 + Math.floor((rest - 60 * nominal) / (60 * nominal - skip)));
  }
  const seconds = Math.floor(count / nominal);
  return `${two(Math.floor(seconds / 3600) % 24)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}${drop ? ';' : ':'}${String(count % nominal).padStart(nominal > 100 ? 3 : 2, '0')}`;
}

/** A length as minutes, seconds and hundredths. */
export function length(seconds: number): string {
  // Rounded first: what rounds to a minute is one.
  const hundredths = Math.round(seconds * 100);
  const minutes = Math.floor(hundredths / 6000);
  return `${minutes}:${((hundredths - minutes * 6000) / 100).toFixed(2).padStart(5, '0')}`;
}

/** A time of day. */
export function clock(seconds: number, digits = 0): string {
  const steps = 10 ** digits;
  const rounded = digits ? Math.round(seconds * steps) / steps : seconds;
  const day = ((rounded % 86400) + 86400) % 86400;
  const whole = Math.floor(day);
  const rest = digits ? (day - whole).toFixed(digits).slice(1) : '';
  return `${two(Math.floor(whole / 3600))}:${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}${rest}`;
}

/** A number with its sign; none where it rounds to nothing. */
export function signed(value: number, digits: number): string {
  const text = Math.abs(value).toFixed(digits);
  if (Number(text) === 0) return text;
  return `${value < 0 ? '−' : '+'}${text}`;
}

/** The speed at which a clip fits, in per cent, where it is no clock's drift (see `Stretch::retimed`). */
export function speed(ratePpm: number): string | null {
  if (Math.abs(ratePpm) <= 600) return null;
  return `fits at ${Number((100 + ratePpm * 1e-4).toFixed(3))} %`;
}

/** An offset in frames and milliseconds together; in hours, minutes and seconds where it is far. */
export function offset(seconds: number, rate: FrameRate): string {
  if (Math.abs(seconds) >= 60) return `${seconds < 0 ? '−' : '+'}${clock(Math.abs(seconds), 2)}`;
  return `${signed((seconds * rate.num) / rate.den, 1)} f · ${signed(seconds * 1000, Math.abs(seconds) < 0.01 ? 2 : 0)} ms`;
}

/** A frame rate. */
export const rate = ({ num, den }: FrameRate) =>
  den === 1 ? String(num) : (num / den).toFixed(den === 1001 ? 3 : 2);

/** A pause in words. */
export function pause(seconds: number): string {
  const minutes = Math.round(seconds / 60);
  if (minutes < 1) return `${Math.round(seconds)} s`;
  return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

export const frameSeconds = ({ num, den }: FrameRate) => den / num;

/** A size in the unit that suits it. */
export function bytes(count: number): string {
  if (count < 1e6) return `${Math.max(1, Math.round(count / 1e3))} kB`;
  return count < 1e9 ? `${(count / 1e6).toFixed(1)} MB` : `${(count / 1e9).toFixed(2)} GB`;
}

/** A distance. */
export const metres = (value: number) => `${Number(value.toFixed(2))} m`;

/** A typed distance in centimetres; null where nothing is typed, undefined where it is no distance. */
export function centimetres(text: string): number | null | undefined {
  const typed = text.trim().replace(/\s*m$/, '').replace(',', '.');
  if (typed === '') return null;
  const value = Number(typed);
  return Number.isFinite(value) && value >= 0 ? Math.round(value * 100) : undefined;
}

/** How far two moments lie apart: milliseconds where it is short. */
export function apart(seconds: number): string {
  return Math.abs(seconds) < 1
    ? `${signed(seconds * 1000, Math.abs(seconds) < 0.1 ? 2 : 1)} ms`
    : `${signed(seconds, 3)} s`;
}

/** A length in seconds and frames. */
export function frameCount(count: number, { num, den }: FrameRate): string {
  const nominal = Math.round(num / den);
  const seconds = Math.floor(count / nominal);
  const rest = two(count % nominal);
  return seconds >= 60 ? `${Math.floor(seconds / 60)}:${two(seconds % 60)}:${rest}` : `${seconds}:${rest}`;
}
