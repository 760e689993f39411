import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { useCommands, useRefresh, useTurned } from '../api/commands';
import { groupGridQuery } from '../api/queries';
import type { GridStep, GridView } from '../api/types';
import { heardOf, nextAlone } from '../model/grid';
import { GridMix } from './gridMix';
import { LaidFeed } from './laid';
import type { Wall } from './wall';

/** The sound of a group by its grid, and what can be done about it. */
export type GridHeard = {
  view: GridView | undefined;
  /** Why there is none. */
  why: string | null;
  /** The track that is listened to alone. */
  alone: number | null;
  mix: GridMix | null;
  step: (step: GridStep) => Promise<void>;
  /** Takes back what was done last to groups, or makes it again. */
  turn: (way: 'undo' | 'redo') => Promise<void>;
  listenAlone: (source: number) => void;
  next: () => void;
  together: () => void;
};

const NONE: readonly number[] = [];

/** Lets a wall sound as the grid of a group says, from where its clock has the group's first frame. */
export function useGrid(
  wall: Wall | null,
  group: number,
  begins: number,
  /** Devices whose own sound is heard at times instead. */
  turns: readonly number[] = NONE,
): GridHeard {
  const client = useQueryClient();
  const run = useCommands();
  const refresh = useRefresh();
  const said = useTurned();
  const query = useMemo(() => groupGridQuery(group), [group]);
  const { data: view, error } = useQuery(query);
  const [wished, setWished] = useState<{ of: string; alone: number | null } | null>(null);
  // What is the same sound plays on, through the same nodes.
  const name = view?.heard.name;
  const alone = wished !== null && wished.of === name ? wished.alone : null;
  const [playing, setPlaying] = useState<{ name: string; view: GridView; mix: GridMix } | null>(null);
  if (view && playing?.name !== view.heard.name) {
    setPlaying({ name: view.heard.name, view, mix: new GridMix(view) });
  }
  const mix = playing && playing.name === name ? playing.mix : null;
  useEffect(() => {
    mix?.setTurns(turns);
    if (view && mix) mix.set(view, alone);
  }, [mix, view, alone, turns]);
  // Tracks that were not there have to be fetched; those that are not wanted any more cost nothing.
  const wanted = view ? [...(alone === null ? [...heardOf(view), ...turns] : [alone])].join(',') : '';
  useEffect(() => {
    if (!wall || !playing) return;
    const { heard } = playing.view;
    wall.hear((context, onTrouble) => [new LaidFeed(context, heard, begins, playing.mix, onTrouble)]);
    return () => wall.hear(undefined);
  }, [wall, playing, begins, wanted]);
  const step = useCallback(
    async (step: GridStep) => {
      const now = await run.grid(group, step);
      if (now) client.setQueryData(query.queryKey, now);
      // It is an edit of the groups, and the next is made on it.
      await refresh.day();
    },
    [run, group, client, query.queryKey, refresh],
  );
  const turn = useCallback(
    async (way: 'undo' | 'redo') => {
      said(way, await run.turnGroups(way));
      await Promise.all([client.invalidateQueries({ queryKey: query.queryKey }), refresh.day()]);
    },
    [run, said, client, query.queryKey, refresh],
  );
  const why = error?.message ?? null;
  return useMemo(() => {
    const listen = (alone: number | null) => setWished(name === undefined ? null : { of: name, alone });
    return {
      view,
      why,
      alone,
      mix,
      step,
      turn,
      listenAlone: (source) => listen(alone === source ? null : source),
      next: () => view && listen(nextAlone(view, alone)),
      together: () => listen(null),
    };
  }, [view, why, alone, mix, step, turn, name]);
}
