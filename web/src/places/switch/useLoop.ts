import { useEffect, useState } from 'react';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';

/** Played before a cut and behind it, seconds. */
const BEFORE_S = 1;
const BEHIND_S = 1.2;

/** Plays about a cut, again and again: the cut may be moved meanwhile. */
export function useLoop(wall: Wall, at: number, frames: number, fps: number) {
  const [on, setOn] = useState(false);
  const from = Math.max(0, Math.round(at - BEFORE_S * fps));
  const to = Math.min(frames - 1, Math.round(at + BEHIND_S * fps));
  const playing = useWall(wall, (state) => state.playing);
  const isOver = useWall(wall, (state) => state.frame >= to || state.frame < from - 1);
  useEffect(() => {
    if (!on || !playing || !isOver) return;
    wall.seek(from);
    void wall.play();
  }, [on, playing, isOver, from, wall]);
  return {
    isOn: on && playing,
    turn: () => {
      if (on && playing) {
        setOn(false);
        wall.pause();
        return;
      }
      setOn(true);
      wall.seek(from);
      void wall.play();
    },
    /** Play that is begun otherwise goes on. */
    end: () => setOn(false),
  };
}
