import { useCallback, useEffect, useRef, useState } from 'react';
import type { ClipView, FrameRate, Placement } from '../../api/types';
import { extent, heardAt, type Window } from '../../model/mirror';
import { angleOf, clockOf, frameOf } from '../../model/pair';
import { useThrough } from '../../play/useThrough';
import { useWall } from '../../play/useWall';
import { Wall } from '../../play/wall';
import type { EarMix } from './ears';

/** Two clips where they lie: the one that the other is laid against, and how much later than its place the other lies. */
export type Pair = {
  clip: ClipView;
  against: ClipView;
  reference: Placement;
  placed: Placement;
  shift: number;
  rate: FrameRate;
};

/** About a moment that is looped, seconds. */
const LOOP = { before: 0.5, after: 0.9 };
/** A clip at a scale of hours is moved by less than this without the clock beginning anew, seconds. */
const ROOM = 600;

/** From when to when the clock of both runs: in whole pieces, so that moving a clip seldom makes it another one. */
export function clockRange({ from, to }: Window): Window {
  return { from: Math.floor(from / ROOM) * ROOM, to: Math.ceil(to / ROOM) * ROOM };
}

/** Whether there is a moving picture to be shown. */
export const hasPicture = (clip: ClipView) => !!clip.facts.picture && !clip.facts.picture.still;

/** Both clips on one clock: the playhead, play and loops. The clock is that of `range`; another range needs another one. */
export function usePair(pair: Pair, range: Window, mix: EarMix) {
  const { clip, against, reference, placed, shift, rate } = pair;
  const frame = frameOf(rate);
  const [wall] = useState(() => {
    const angles = [
      [against, angleOf(against, reference, range.from, rate, 0)],
      [clip, angleOf(clip, placed, range.from, rate, shift)],
    ] as const;
    const group = {
      start: clockOf(rate),
      frames: Math.ceil((range.to - range.from) / frame),
      angles: angles.filter(([own]) => hasPicture(own)).map(([, angle]) => angle),
      sound: null,
    };
    // What is heard lies where its microphone heard it.
    const heard = [
      angleOf(against, reference, range.from, rate, -reference.travel_s),
      angleOf(clip, placed, range.from, rate, shift - placed.travel_s),
    ] as const;
    return new Wall({ axis_start_s: range.from, group }, mix.voices(...heard));
  });
  const [origin] = useState(range.from);
  const [seen] = useState(() => [clip, against].map((own) => angleOf(own, placed, range.from, rate, 0)));
  useThrough(wall, seen);
  const frameAt = useCallback(
    (moment: number) => Math.floor((moment - origin) / frame + 1e-6),
    [origin, frame],
  );
  const [stood, setStood] = useState(() => {
    const own = extent(heardAt(placed, shift));
    return (own.from + own.to) / 2;
  });
  const [first] = useState(stood);
  const [loop, setLoop] = useState<number | null>(null);
  const opened = useRef(stood);
  useEffect(() => {
    wall.open();
    wall.seek(frameAt(opened.current));
    return () => wall.close();
  }, [wall, frameAt]);
  const begun = useRef(shift);
  useEffect(() => {
    // Opened where it lies: nothing to be laid anew.
    if (begun.current === shift) return;
    begun.current = shift;
    wall.lay(
      [angleOf(clip, placed, origin, rate, shift)],
      [angleOf(clip, placed, origin, rate, shift - placed.travel_s)],
    );
  }, [wall, clip, placed, origin, rate, shift]);
  const playing = useWall(wall, (state) => state.playing);
  const shown = useWall(wall, (state) => state.frame);
  const trouble = useWall(wall, (state) => state.silent ?? Object.values(state.trouble)[0] ?? null);
  const at = playing ? origin + (shown + 0.5) * frame : stood;

  // A loop begins again where it began.
  useEffect(() => {
    if (loop === null || !playing || at < loop + LOOP.after) return;
    wall.seek(frameAt(loop - LOOP.before));
    void wall.play();
  }, [loop, playing, at, wall, frameAt]);

  return {
    wall,
    at,
    playing,
    trouble,
    /** Nobody went anywhere yet. */
    isAsOpened: !playing && stood === first,
    /** The moment that is looped. */
    loop,
    seek: (to: number) => {
      setLoop(null);
      setStood(to);
      wall.seek(frameAt(to));
    },
    /** Plays about a moment, again and again. */
    around: (moment: number) => {
      setLoop(moment);
      setStood(moment);
      wall.seek(frameAt(moment - LOOP.before));
      void wall.play();
    },
    playOrStand: () => {
      if (!playing) return void wall.play();
      setStood(loop ?? at);
      setLoop(null);
      wall.pause();
    },
  };
}
