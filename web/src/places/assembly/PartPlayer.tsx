import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { groupQuery, partHeardQuery } from '../../api/queries';
import type { AssemblyPartView, AssemblyView, GroupView } from '../../api/types';
import { plainView } from '../../model/assembly';
import { BLACK, heardAt, only, onAirAt } from '../../model/onAir';
import { turnsOf, useLineSound } from '../../play/useLineSound';
import { useGrid } from '../../play/useGrid';
import { useThrough } from '../../play/useThrough';
import { useTracks } from '../../play/useTracks';
import { useWall } from '../../play/useWall';
import { Wall } from '../../play/wall';

type Props = {
  part: AssemblyPartView;
  start: AssemblyView['start'];
  /** It is the part that is seen; else the one that comes next, made ready. */
  live: boolean;
  playing: boolean;
  /** Of a clip: frames in between are blended. */
  blended: boolean;
  /** Which part of which assembly is heard; null where it is a line, or silent. */
  sound: { assembly: number; part: number; version: number } | null;
  /** The frame of its group to stand at; another object each time it is asked for. At its head where none is. */
  at: { frame: number } | null;
  onFrame: (frame: number) => void;
  onEnd: () => void;
};

/** A part of an assembly, played in its own picture: a line with its sound, a clip, or black. */
export function PartPlayer(props: Props) {
  const { part } = props;
  const view = useQuery(groupQuery(part.group ?? undefined));
  if (part.group === null) return <PlainPlayer {...props} />;
  return view.data ? <LinePlayer {...props} view={view.data} /> : null;
}

function LinePlayer({ view, ...props }: Props & { view: GroupView }) {
  const { group, line, over } = view;
  const [wall] = useState(() => {
    const inLine = new Set(line.switches.map((one) => one.angle));
    // Only what the line shows is opened.
    return new Wall({
      ...view,
      group: { ...group, angles: group.angles.filter(({ id }) => inLine.has(id)) },
    });
  });
  const onAir = useCallback((frame: number) => onAirAt(line.switches, frame), [line]);
  const onEar = useCallback((frame: number) => heardAt(line, frame), [line]);
  useEffect(() => wall.setOnAir(onAir), [wall, onAir]);
  useEffect(() => {
    const layers = line.layers ?? [];
    wall.setOver(over.map((own) => ({ ...own, blended: !!layers[own.layer]?.blended })));
  }, [wall, over, line.layers]);
  useThrough(
    wall,
    group.angles,
    useMemo(() => over.map(({ part }) => part.clip), [over]),
  );
  const turns = useMemo(() => turnsOf(view), [view]);
  const sound = useGrid(wall, view.id, view.axis_start_s, turns);
  useLineSound(wall, view, sound, onAir, onEar);
  return <Picture {...props} wall={wall} />;
}

function PlainPlayer(props: Props) {
  const { part, start, blended, sound } = props;
  const view = useMemo(() => plainView(part, start), [part, start]);
  const [wall] = useState(() => new Wall(view));
  useEffect(() => {
    wall.setOnAir(() => only(BLACK));
    wall.setOver(view.over.map((own) => ({ ...own, blended })));
  }, [wall, view, blended]);
  useThrough(
    wall,
    view.group.angles,
    useMemo(() => view.over.map(({ part }) => part.clip), [view]),
  );
  const heard = useQuery(partHeardQuery(sound));
  useTracks(wall, sound ? heard.data : undefined, 0);
  return <Picture {...props} wall={wall} />;
}

function Picture({ part, wall, live, playing, at, onFrame, onEnd }: Props & { wall: Wall }) {
  useEffect(() => {
    wall.open();
    return () => wall.close();
  }, [wall]);
  const [head] = part.range;
  useEffect(() => {
    wall.seek(at?.frame ?? head);
  }, [wall, at, head]);
  useEffect(() => {
    if (live && playing) void wall.play();
    else wall.pause();
  }, [wall, live, playing]);
  const frame = useWall(wall, (state) => state.frame);
  const stands = useWall(wall, (state) => !state.playing);
  useEffect(() => {
    if (live) onFrame(frame);
  }, [live, frame, onFrame]);
  // The last frame of a group is where its play ends by itself.
  const [, end] = part.range;
  const isOver = frame >= end || (frame === end - 1 && stands);
  useEffect(() => {
    if (live && playing && isOver) onEnd();
  }, [live, playing, isOver, onEnd]);
  return (
    <canvas
      ref={(canvas) => wall.setLarge(canvas)}
      data-testid={live ? 'assembly-picture' : 'assembly-next'}
      width={960}
      height={540}
      role="img"
      aria-label={live ? `${part.name}` : 'what comes next'}
      className={`absolute inset-0 h-full w-full ${live ? '' : 'invisible'}`}
    />
  );
}
