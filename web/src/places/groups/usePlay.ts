import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useRef, useState } from 'react';
import { groupQuery } from '../../api/queries';
import type { GroupSummary } from '../../api/types';
import { angleOf } from '../../model/angles';
import { stretchAt } from '../../model/line';
import { useGrid } from '../../play/useGrid';
import { useWall } from '../../play/useWall';
import { Wall } from '../../play/wall';

/** Plays the sound of a group by its grid from the playhead on, and takes that along. Seeking elsewhere stops it. */
export function usePlay({ id, group }: GroupSummary, at: number, seek: (frame: number) => void) {
  // Sound alone: pictures are seen where they are cut.
  const [wall] = useState(
    () =>
      new Wall({
        axis_start_s: 0,
        group: { start: group.start, frames: group.frames, angles: [], sound: null },
      }),
  );
  const sound = useGrid(wall, id, 0);
  const playing = useWall(wall, (state) => state.playing);
  const frame = useWall(wall, (state) => state.frame);
  const silent = useWall(wall, (state) => state.silent);
  // Cameras' sound goes with the line where the grid says so.
  const view = useQuery(groupQuery(id)).data;
  const air = useWall(wall, ({ frame }) => {
    const shown = view?.line.switches[stretchAt(view.line.switches, frame)]?.angle;
    return view ? (angleOf(view.group, shown)?.device ?? null) : null;
  });
  useEffect(() => sound.mix?.setAir(air), [sound.mix, air]);
  const opened = useRef(false);
  useEffect(
    () => () => {
      opened.current = false;
      wall.close();
    },
    [wall],
  );
  const taken = useRef(-1);
  const latest = useRef({ seek, at });
  useEffect(() => {
    latest.current = { seek, at };
  });
  useEffect(() => {
    if (!playing) return;
    taken.current = frame;
    latest.current.seek(frame);
  }, [playing, frame]);
  useEffect(() => {
    if (at !== taken.current) wall.pause();
  }, [wall, at]);
  // The same all the time: what draws the grid is not drawn anew for each frame of the playhead.
  const play = useCallback(() => {
    if (wall.isPlaying) {
      wall.pause();
      return;
    }
    // Nothing is opened before somebody listens.
    if (!opened.current) wall.open();
    opened.current = true;
    taken.current = latest.current.at;
    wall.seek(latest.current.at);
    void wall.play();
  }, [wall]);
  return { sound, playing, silent, play };
}
