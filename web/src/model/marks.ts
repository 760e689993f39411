import type { ClipView, SlateMarkView } from '../api/types';
import { length, signed } from './format';

/** Moments nearer than this are of one clap, microseconds. */
const ONE_CLAP = 1_500_000;

const moment = (mark: SlateMarkView) => mark.picture_us ?? mark.sound_us ?? 0;

/** The place of the mark that is of the clap at a moment of the clip; −1 where there is none. */
export function markAt(marks: SlateMarkView[], us: number): number {
  let best = -1;
  marks.forEach((mark, i) => {
    const far = Math.abs(moment(mark) - us);
    const other = marks[best];
    if (far < ONE_CLAP && (!other || far < Math.abs(moment(other) - us))) best = i;
  });
  return best;
}

/** The marks with a change to the one at a moment, or a new one there. */
export function marked(marks: SlateMarkView[], us: number, change: Partial<SlateMarkView>): SlateMarkView[] {
  const at = markAt(marks, us);
  if (at < 0) return [...marks, { picture_us: null, sound_us: null, label: null, take: null, ...change }];
  return marks.map((mark, i) => (i === at ? { ...mark, ...change } : mark));
}

/** The marks without the one at a moment. */
export function without(marks: SlateMarkView[], us: number): SlateMarkView[] {
  const at = markAt(marks, us);
  return marks.filter((_, i) => i !== at);
}

/** A mark in words. */
export function said({ picture_us, sound_us, label, take }: SlateMarkView): string {
  const parts = [];
  if (picture_us !== null) parts.push(`sticks close at ${length(picture_us / 1e6)}`);
  if (sound_us !== null) parts.push(`peak at ${length(sound_us / 1e6)}`);
  if (picture_us !== null && sound_us !== null) {
    parts.push(`heard ${signed((sound_us - picture_us) / 1e3, 0)} ms after it is seen`);
  }
  if (label) parts.push(`slate reads ${label}`);
  if (take) parts.push(`of ${take}`);
  return parts.join(', ');
}

/** Scene and take of a clip as they are written. */
export const slate = (clip: ClipView) => [clip.scene, clip.take].filter(Boolean).join(' / ');
