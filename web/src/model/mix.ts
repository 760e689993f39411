/** Which tracks of a sound are heard: some together, or one alone. */
export type Chosen = {
  /** For each track whether it is one of those that are heard together. */
  together: readonly boolean[];
  /** The track that is heard alone; null while those are. */
  alone: number | null;
};

/** At first: what was mixed at the recording, where that was; else everything. */
export function atFirst(names: readonly string[]): Chosen {
  const mixed = names.map((name) => /(^|[^a-z])mix([^a-z]|$)/i.test(name));
  return { together: mixed.includes(true) ? mixed : names.map(() => true), alone: null };
}

/** The same choice for other tracks, by their names; what is chosen at first where none of them is the same. */
export function keptFor(chosen: Chosen, were: readonly string[], names: readonly string[]): Chosen {
  const first = atFirst(names);
  if (!names.some((name) => were.includes(name))) return first;
  const was = (name: string, i: number) => chosen.together[were.indexOf(name)] ?? first.together[i] ?? true;
  const alone = names.indexOf(were[chosen.alone ?? -1] ?? '');
  return { together: names.map(was), alone: alone < 0 ? null : alone };
}

/** One more or one less of those heard together; they are heard from then on. */
export const ticked = ({ together }: Chosen, track: number): Chosen => ({
  together: together.map((on, i) => (i === track ? !on : on)),
  alone: null,
});

/** A track alone; the same again: those chosen together. */
export const alone = (chosen: Chosen, track: number): Chosen =>
  track < 0 || track >= chosen.together.length
    ? chosen
    : { ...chosen, alone: chosen.alone === track ? null : track };

/** The next track alone, and behind the last one those chosen together. */
export function nextAlone(chosen: Chosen): Chosen {
  const next = (chosen.alone ?? -1) + 1;
  return { ...chosen, alone: next < chosen.together.length ? next : null };
}

/** Those chosen together. */
export const together = (chosen: Chosen): Chosen => ({ ...chosen, alone: null });

/** Whether a track is heard. */
export const isHeard = (chosen: Chosen, track: number) =>
  chosen.alone === null ? (chosen.together[track] ?? false) : chosen.alone === track;

/** How loud each track is: several together as loud as one, as far as they are not alike. */
export function levels(chosen: Chosen): number[] {
  const count = chosen.together.filter((_, i) => isHeard(chosen, i)).length;
  return chosen.together.map((_, i) => (isHeard(chosen, i) ? 1 / Math.sqrt(count) : 0));
}

/** What is heard, in words. */
export function said(chosen: Chosen, names: readonly string[]): string {
  const heard = names.filter((_, i) => isHeard(chosen, i));
  if (heard.length === 0) return 'no track';
  if (chosen.alone !== null) return `${heard[0] ?? ''} alone`;
  if (heard.length === names.length && heard.length > 2) return `all ${names.length} tracks`;
  return heard.length > 3 ? `${heard.length} of ${names.length} tracks` : heard.join(', ');
}
