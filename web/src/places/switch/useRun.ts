import { useCallback, useEffect, useRef, useState } from 'react';
import { BLACK, heardAt, only, onAirAt, type OnAir } from '../../model/onAir';
import type { GroupView, LineEdit, Switch } from '../../api/types';
import type { Wall } from '../../play/wall';

/** What a key took: a single one while standing, or the last of a live run. */
type Taken = { frame: number; angle: number; run: number | null; what: What; before: Before };

/** The switches before a run. */
type Before = { picture: Switch[]; sound: Switch[] };

/** What keys switch. */
export const WHATS = ['picture', 'sound', 'both'] as const;
export type What = (typeof WHATS)[number];

/** The longest reaction that can be set, milliseconds. */
export const SLOWEST_MS = 1000;
const REACTION = 'switch-reaction-ms';

/** An edit of the picture, one of what is heard, or both. */
async function edits(
  edit: (edit: LineEdit) => Promise<unknown>,
  what: What,
  { picture, sound }: { picture: LineEdit; sound: LineEdit },
) {
  if (what !== 'sound') await edit(picture);
  if (what !== 'picture') await edit({ do: 'sound', edit: sound });
}

/** Taking angles: at once on screen, then at the server; while it plays, one run until it stands still. */
export function useRun(
  wall: Wall,
  { line, group }: Pick<GroupView, 'line' | 'group'>,
  playing: boolean,
  what: What,
  edit: (edit: LineEdit) => Promise<unknown>,
) {
  const [taken, setTaken] = useState<Taken | null>(null);
  const [reaction, setReaction] = useState(() => Number(localStorage.getItem(REACTION) ?? 0) || 0);
  const fps = group.start.rate.num / group.start.rate.den;
  const { switches } = line;
  const onAir = useCallback(
    (at: number): OnAir =>
      taken && taken.what !== 'sound' && at >= taken.frame ? only(taken.angle) : onAirAt(switches, at),
    [taken, switches],
  );
  /** What is heard: an angle's own sound, or the grid's where that is black. */
  const onEar = useCallback(
    (at: number) =>
      taken && taken.what !== 'picture' && at >= taken.frame
        ? { angle: taken.angle, dissolve: 0 }
        : heardAt(line, at),
    [taken, line],
  );

  // When it stands still, what was taken last holds up to there, and what was there goes on.
  const latest = useRef({ taken, edit });
  useEffect(() => {
    latest.current = { taken, edit };
  });
  const end = useCallback(async () => {
    const { taken, edit } = latest.current;
    if (taken?.run == null) return;
    const { frame, run, what, before } = taken;
    const to = wall.shownFrame;
    const hold = (before: Switch[]): LineEdit => ({ do: 'hold', from: frame, to, run, before });
    if (to > frame) await edits(edit, what, { picture: hold(before.picture), sound: hold(before.sound) });
    setTaken((now) => (now === taken ? null : now));
  }, [wall]);
  useEffect(() => {
    if (!playing) void end();
  }, [playing, end]);
  // Whoever goes to another place while it runs, or closes the page, ends it there.
  useEffect(() => {
    const leave = () => void end();
    addEventListener('pagehide', leave);
    return () => {
      removeEventListener('pagehide', leave);
      leave();
    };
  }, [end]);

  /** The frame that a key press means. */
  const meant = () => {
    const at = wall.shownFrame;
    if (!playing) return at;
    const early = Math.max(0, at - Math.round((reaction / 1000) * fps));
    // Not before what was taken last.
    return taken?.run == null ? early : Math.max(early, Math.min(at, taken.frame + 1));
  };
  const take = async (angle: number) => {
    const frame = meant();
    const isThere = what === 'sound' ? onEar(frame).angle === angle : onAir(frame).angle === angle;
    if (isThere && (what !== 'both' || onEar(frame).angle === angle)) return;
    const last = playing && taken?.run != null ? taken : null;
    // Both are one step to undo, standing as well.
    const run = playing || what === 'both' ? (last?.run ?? Date.now() % 2 ** 31) : null;
    const before = last?.before ?? {
      picture: switches,
      sound: line.sound?.switches ?? [{ at: 0, angle: BLACK }],
    };
    const own: Taken = { frame, angle, run, what, before };
    setTaken(own);
    const put: LineEdit = {
      do: 'take',
      at: frame,
      angle,
      ...(run !== null && { run }),
      ...(last && { since: last.frame }),
    };
    await edits(edit, what, { picture: put, sound: put });
    // What stands alone is the line's now; a run shows what it took until it ends.
    if (!playing) setTaken((now) => (now === own ? null : now));
  };
  return {
    onAir,
    onEar,
    take,
    meant,
    isRunning: taken?.run != null,
    reaction,
    setReaction: (ms: number) => {
      const own = Math.max(0, Math.min(SLOWEST_MS, Math.round(ms)));
      localStorage.setItem(REACTION, String(own));
      setReaction(own);
    },
  };
}
