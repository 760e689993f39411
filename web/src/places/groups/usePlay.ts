import { useEffect, useRef, useState } from 'react';
import type { GroupSummary } from '../../api/types';
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
  const opened = useRef(false);
  useEffect(
    () => () => {
      opened.current = false;
      wall.close();
    },
    [wall],
  );
  const taken = useRef(-1);
  const latest = useRef(seek);
  useEffect(() => {
    latest.current = seek;
  });
  useEffect(() => {
    if (!playing) return;
    taken.current = frame;
    latest.current(frame);
  }, [playing, frame]);
  useEffect(() => {
    if (at !== taken.current) wall.pause();
  }, [wall, at]);
  const play = () => {
    if (playing) {
      wall.pause();
      return;
    }
    // Nothing is opened before somebody listens.
    if (!opened.current) wall.open();
    opened.current = true;
    taken.current = at;
    wall.seek(at);
    void wall.play();
  };
  return { sound, playing, silent, play };
}
