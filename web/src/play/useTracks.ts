import { useEffect, useMemo, useState } from 'react';
import type { HeardView } from '../api/types';
import { alone, atFirst, keptFor, nextAlone, said, ticked, together, type Chosen } from '../model/mix';
import { LaidFeed } from './laid';
import { TrackMix } from './mix';
import type { Wall } from './wall';

const NONE: string[] = [];

/** What can be done about the tracks that are heard. */
export type TracksHeard = {
  names: readonly string[];
  chosen: Chosen;
  /** What is heard, in words. */
  said: string;
  tick: (track: number) => void;
  alone: (track: number) => void;
  next: () => void;
  together: () => void;
};

/** Lets a wall sound as `view` will be written, from where its clock has the first sample; any of its tracks, or some. */
export function useTracks(wall: Wall, view: HeardView | undefined, begins: number): TracksHeard {
  const names = useMemo(() => view?.tracks.map(({ name }) => name) ?? NONE, [view]);
  const [wished, setWished] = useState<{ names: readonly string[]; chosen: Chosen } | null>(null);
  const chosen = useMemo(
    () => (wished ? keptFor(wished.chosen, wished.names, names) : atFirst(names)),
    [wished, names],
  );
  const [mix] = useState(() => new TrackMix(chosen));
  useEffect(() => mix.set(chosen), [mix, chosen]);
  // What is the same sound plays on.
  const name = view?.name;
  const [sound, setSound] = useState(view);
  if (view && sound?.name !== name) setSound(view);
  useEffect(() => {
    if (!sound) return;
    wall.hear((context, onTrouble) => [new LaidFeed(context, sound, begins, mix, onTrouble)]);
    return () => wall.hear(undefined);
  }, [wall, sound, begins, mix]);
  return useMemo(() => {
    const wish = (chosen: Chosen) => setWished({ names, chosen });
    return {
      names,
      chosen,
      said: said(chosen, names),
      tick: (track) => wish(ticked(chosen, track)),
      alone: (track) => wish(alone(chosen, track)),
      next: () => wish(nextAlone(chosen)),
      together: () => wish(together(chosen)),
    };
  }, [names, chosen]);
}
