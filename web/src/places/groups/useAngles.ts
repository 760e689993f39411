import { useState } from 'react';
import { useCommands } from '../../api/commands';
import type { Arrange, GroupChange, GroupSummary } from '../../api/types';
import { covers } from '../../model/line';
import { frameSeconds } from '../../model/format';
import type { InTurn } from './useShaping';

/** What can be done to the angles of the group that is open. */
export type AngleHands = {
  /** The chosen angle. */
  chosen: number | null;
  /** Its clip at the playhead. */
  clip: number | null;
  /** The frame from which it is to be blanked, where that is said. */
  blankFrom: number | null;
  choose: (angle: number) => void;
  next: (by: 1 | -1) => void;
  move: (by: 1 | -1) => void;
  name: (name: string) => void;
  hide: () => void;
  remove: () => void;
  add: () => void;
  nudge: (frames: number) => void;
  blank: () => void;
  aside: () => void;
  relay: (clips: number[]) => void;
  /** At a frame, or where it lies; `instead` of the clip at the playhead, which goes. */
  takeIn: (clip: number, at: number | null, instead?: boolean) => Promise<boolean>;
};

/** The angles of a group: the chosen one, and every change of them. */
export function useAngles(
  group: GroupSummary | undefined,
  at: number,
  inTurn: InTurn,
  shape: (change: GroupChange) => Promise<void>,
): AngleHands {
  const run = useCommands();
  const [held, setHeld] = useState<{ group: number; angle: number } | null>(null);
  const [moved, setMoved] = useState<{ clip: number; angle: number; at: number } | null>(null);
  const [blankFrom, setBlankFrom] = useState<{ angle: number; at: number } | null>(null);
  const angles = group?.group.angles ?? [];
  const index = Math.max(
    0,
    angles.findIndex(({ id }) => held?.group === group?.id && held?.angle === id),
  );
  const angle = angles[index];
  const part = angle?.parts.find((own) => covers(own, Math.min(at, (group?.group.frames ?? 1) - 1)));
  // What was moved away from the playhead is still what is moved.
  const still = moved && moved.at === at && moved.angle === angle?.id ? moved.clip : null;
  const clip = still ?? part?.clip ?? null;
  const from = blankFrom && blankFrom.angle === angle?.id ? blankFrom.at : null;
  const choose = (id: number) => group && setHeld({ group: group.id, angle: id });
  const arrange = (how: Arrange) => void (group && shape({ do: 'arrange', group: group.id, how }));
  const ofAngle = (how: (id: number) => Arrange) => () => angle && arrange(how(angle.id));
  return {
    chosen: angle?.id ?? null,
    clip,
    blankFrom: from,
    choose,
    next: (by) => {
      const next = angles[(index + by + angles.length) % angles.length];
      if (next) choose(next.id);
    },
    move: (by) => {
      const to = index + by;
      if (!group || !angle || to < 0 || to >= angles.length) return;
      choose(angle.id);
      void shape({ do: 'move_angle', group: group.id, from: index, to });
    },
    name: (name) => ofAngle((id) => ({ do: 'name', angle: id, name: name || null }))(),
    hide: ofAngle((id) => ({ do: 'hide', angle: id, hidden: !angle?.hidden })),
    remove: ofAngle((id) => ({ do: 'remove', angle: id })),
    add: () => arrange({ do: 'add', name: null }),
    nudge: (frames) => {
      if (!group || !angle || clip === null) return;
      setMoved({ clip, angle: angle.id, at });
      const by_s = frames * frameSeconds(group.group.start.rate);
      void inTurn((version) => run.nudge(group.id, { version, clip, by_s }));
    },
    blank: () => {
      if (!angle) return;
      if (from === null || from === at) return setBlankFrom(from === null ? { angle: angle.id, at } : null);
      setBlankFrom(null);
      arrange({ do: 'blank', angle: angle.id, from: Math.min(from, at), to: Math.max(from, at) });
    },
    aside: () => {
      if (clip === null) return;
      setMoved(null);
      arrange({ do: 'set_aside', clip });
    },
    relay: (clips) => {
      if (group) void inTurn((version) => run.relay(group.id, { version, clips }));
    },
    takeIn: async (taken, begins, instead = false) => {
      if (!group) return false;
      const gone = instead ? clip : null;
      const first = angle?.parts.find((own) => own.clip === gone);
      const at = gone === null ? begins : (first?.from_frame ?? begins);
      const body = { clip: taken, angle: null, at, instead: gone };
      const done = await inTurn((version) => run.takeClipIn(group.id, { ...body, version }));
      return done !== undefined;
    },
  };
}
