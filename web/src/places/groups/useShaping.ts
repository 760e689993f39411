import { useState } from 'react';
import type { Day } from '../../api/day';
import { useCommands, useRefresh } from '../../api/commands';
import type { GroupChange, GroupSummary } from '../../api/types';
import { edgeFrom, edgesOf } from '../../model/edges';
import { useTurned } from '../../parts/Turn';

/** What can be done to the group that is open. */
export type Hands = {
  seek: (frame: number) => void;
  edge: (by: 1 | -1) => void;
  frame: (by: 1 | -1) => void;
  head: () => void;
  tail: () => void;
  untrim: () => void;
  toCovered: () => void;
  split: () => void;
};

/** Shaping of the groups of a day: the playhead in the group that is open, those ticked, and every change. */
export function useShaping(day: Day, group: GroupSummary | undefined) {
  const run = useCommands();
  const refresh = useRefresh();
  const said = useTurned();
  const [head, setHead] = useState<{ group: number; at: number } | null>(null);
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const version = day.groups_turns.version;
  const frames = group?.group.frames ?? 0;
  const at = head && head.group === group?.id ? Math.min(head.at, frames) : 0;
  const seek = (frame: number) =>
    group && setHead({ group: group.id, at: Math.max(0, Math.min(frames, frame)) });

  const shape = async (change: GroupChange) => {
    await run.shape({ version, change });
    await refresh.day();
  };
  /** To frames of what is shown. */
  const trim = (from: number, to: number, stay: number) => {
    if (!group || from >= to) return;
    const first = group.window[0];
    seek(stay);
    void shape({ do: 'trim', group: group.id, window: [first + from, first + to] });
  };
  const hands: Hands = {
    seek,
    edge: (by) => group && seek(edgeFrom(edgesOf(group.group), at, by)),
    frame: (by) => seek(at + by),
    head: () => trim(at, frames, 0),
    tail: () => trim(0, at, at),
    untrim: () => {
      if (!group) return;
      seek(at + group.window[0]);
      void shape({ do: 'trim', group: group.id, window: null });
    },
    toCovered: () => {
      const all = group?.covered_by_all;
      if (all) trim(all[0], all[1], Math.max(0, at - all[0]));
    },
    split: () => group && at > 0 && at < frames && void shape({ do: 'split', group: group.id, at }),
  };

  const chosen = day.groups.filter(({ id }) => ticked.has(id)).map(({ id }) => id);
  const merge = async () => {
    const index = day.groups.findIndex(({ id }) => id === group?.id);
    const pair = day.groups.slice(index, index + 2).map(({ id }) => id);
    const done = await run.merge({ version, groups: chosen.length > 0 ? chosen : pair });
    setTicked(new Set());
    await refresh.day();
    return done?.group ?? null;
  };
  const remove = async () => {
    const groups = chosen.length > 0 ? chosen : group ? [group.id] : [];
    setTicked(new Set());
    await shape({ do: 'delete', groups });
  };
  const turn = async (way: 'undo' | 'redo') => {
    said(way, await run.turnGroups(way));
    await refresh.day();
  };
  const tick = (id: number) => {
    const next = new Set(ticked);
    if (!next.delete(id)) next.add(id);
    setTicked(next);
  };
  return { at, hands, ticked, tick, shape, merge, remove, turn, version };
}
