/** What will hurt later, clip by clip, in a word or two. */
import type { HealthView } from '../api/types';

const known = new WeakMap<readonly HealthView[], Map<number, string[]>>();

/** The notes of each clip that were not set aside and are more than good to know. */
export function notesOf(health: readonly HealthView[]): Map<number, string[]> {
  const before = known.get(health);
  if (before) return before;
  const found = new Map<number, string[]>();
  for (const { note, aside } of health) {
    if (aside || note.weight === 'know') continue;
    const word = note.kind.replaceAll('_', ' ');
    for (const clip of note.clips) found.set(clip, [...new Set([...(found.get(clip) ?? []), word])]);
  }
  known.set(health, found);
  return found;
}
