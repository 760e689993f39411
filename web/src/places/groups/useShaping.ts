import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import type { Day } from '../../api/day';
import { useCommands, useRefresh, useTurned } from '../../api/commands';
import { passQuery } from '../../api/queries';
import type { GroupChange, GroupSummary } from '../../api/types';
import { seenOf } from '../../model/angles';
import { nextRun, runAt, runsOf, type Run, type Wanted } from '../../model/coverage';
import { edgeFrom, edgesOf } from '../../model/edges';
import { outAt, wholeFrame, wholeRange } from '../../model/seam';
import { useView } from '../../parts/useView';

/** Does work in its turn, on the newest version of the groups: keys may be pressed faster than the server answers. */
export type InTurn = <T>(work: (version: number) => Promise<T>) => Promise<T>;

/** What can be done to the group that is open. */
export type Hands = {
  seek: (frame: number) => void;
  edge: (by: 1 | -1) => void;
  frame: (by: 1 | -1) => void;
  head: () => void;
  tail: () => void;
  untrim: () => void;
  toCovered: () => void;
  /** To the next stretch of those that are looked for. */
  stretch: (by: 1 | -1) => void;
  split: () => void;
  /** A piece out of all angles: from here; once more, up to here. */
  takeOut: () => void;
  /** What is out at the playhead is there again. */
  putBack: () => void;
};

/** Shaping of the groups of a day: the playhead in the group that is open, those ticked, and every change. */
export function useShaping(day: Day, group: GroupSummary | undefined) {
  const run = useCommands();
  const refresh = useRefresh();
  const said = useTurned();
  const [head, setHead] = useState<{ group: number; at: number } | null>(null);
  const [out, setOut] = useState<{ group: number; at: number } | null>(null);
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const version = day.groups_turns.version;
  const frames = group?.group.frames ?? 0;
  const at = head && head.group === group?.id ? Math.min(head.at, frames) : 0;
  const view = useView(group?.id, frames);
  const seek = (frame: number) => {
    if (!group) return;
    const to = Math.max(0, Math.min(frames, frame));
    setHead({ group: group.id, at: to });
    view.show(to);
  };

  const all = group ? seenOf(group.group).length : 0;
  // All angles, unless something else is looked for.
  const [looked, setWanted] = useState<Wanted | null>(null);
  const wanted = typeof looked === 'number' ? Math.min(looked, all) : (looked ?? all);
  const runs: Run[] = group ? runsOf(group.coverage, wanted) : [];
  const client = useQueryClient();
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const inTurn: InTurn = (work) => {
    const next = last.current.then(async () => {
      const newest = client.getQueryData(passQuery.queryKey)?.groups_turns.version ?? version;
      const done = await work(newest);
      await refresh.day();
      return done;
    });
    last.current = next.catch(() => null);
    return next;
  };
  const shape = async (change: GroupChange) => {
    await inTurn((newest) => run.shape({ version: newest, change }));
  };
  /** To frames of what is shown. */
  const trim = (from: number, to: number, stay: number) => {
    if (!group || from >= to) return;
    seek(stay);
    void shape({ do: 'trim', group: group.id, window: wholeRange(group, from, to) });
  };
  const outFrom = out && out.group === group?.id && out.at <= frames ? out.at : null;
  const hands: Hands = {
    seek,
    edge: (by) => group && seek(edgeFrom(edgesOf(group.group), at, by)),
    frame: (by) => seek(at + by),
    head: () => trim(at, frames, 0),
    tail: () => trim(0, at, at),
    untrim: () => {
      if (!group) return;
      seek(at + wholeFrame(group, 0));
      void shape({ do: 'trim', group: group.id, window: null });
    },
    toCovered: () => {
      const run = runAt(runs, at);
      if (run) trim(run.from, run.to, Math.max(0, at - run.from));
    },
    stretch: (by) => {
      const next = nextRun(runs, at, by);
      if (next !== undefined) seek(next);
    },
    takeOut: () => {
      if (!group) return;
      if (outFrom === null || outFrom === at) {
        return setOut(outFrom === null ? { group: group.id, at } : null);
      }
      setOut(null);
      const [from, to] = [Math.min(outFrom, at), Math.max(outFrom, at)];
      seek(from);
      void shape({ do: 'take_out', group: group.id, pieces: [[from, to]] });
    },
    putBack: () => {
      if (group && outAt(group, at) > 0) void shape({ do: 'put_back', group: group.id, at });
    },
    split: () => group && at > 0 && at < frames && void shape({ do: 'split', group: group.id, at }),
  };

  const chosen = day.groups.filter(({ id }) => ticked.has(id)).map(({ id }) => id);
  const merge = async () => {
    const index = day.groups.findIndex(({ id }) => id === group?.id);
    const pair = day.groups.slice(index, index + 2).map(({ id }) => id);
    const groups = chosen.length > 0 ? chosen : pair;
    const done = await inTurn((newest) => run.merge({ version: newest, groups }));
    setTicked(new Set());
    return done?.group ?? null;
  };
  const remove = async () => {
    const groups = chosen.length > 0 ? chosen : group ? [group.id] : [];
    setTicked(new Set());
    await shape({ do: 'delete', groups });
  };
  const turn = async (way: 'undo' | 'redo') => {
    said(way, await inTurn(() => run.turnGroups(way)));
  };
  const tick = (id: number) => {
    const next = new Set(ticked);
    if (!next.delete(id)) next.add(id);
    setTicked(next);
  };
  const stretches = { wanted, runs, setWanted };
  return { at, outFrom, view, stretches, hands, ticked, tick, inTurn, shape, merge, remove, turn, version };
}

export type Shaping = ReturnType<typeof useShaping>;
