import { useEffect, useMemo, useState, type RefObject } from 'react';
import type { GroupView } from '../../api/types';
import { holesOf } from '../../model/holes';
import { useThrough } from '../../play/useThrough';
import { Wall } from '../../play/wall';

/** Where a group's playhead stood when its wall was made anew. */
export type Stood = RefObject<{ group: number; frame: number } | null>;

/** The wall of a group while it is cut: open as long as the place is, with what lies over the line, and what it jumps. */
export function useCutWall(view: GroupView, stood: Stood, jumps: boolean): Wall {
  const { group, line, over } = view;
  // What is set aside is opened only where the line shows it.
  const [wall] = useState(() => {
    const inLine = new Set(line.switches.map((one) => one.angle));
    const angles = group.angles.filter((angle) => !angle.hidden || inLine.has(angle.id));
    return new Wall({ ...view, group: { ...group, angles } });
  });
  useEffect(() => {
    wall.open();
    const { current } = stood;
    if (current?.group === view.id) wall.seek(current.frame);
    return () => {
      stood.current = { group: view.id, frame: wall.shownFrame };
      wall.close();
    };
  }, [wall, stood, view.id]);
  useEffect(() => {
    wall.setOver(over.map((own) => ({ ...own, blended: !!line.layers?.[own.layer]?.blended })));
  }, [wall, over, line.layers]);
  useThrough(
    wall,
    group.angles,
    useMemo(() => over.map(({ part }) => part.clip), [over]),
  );
  const { num, den } = group.start.rate;
  useEffect(
    () => wall.setHoles(jumps ? holesOf(group, Math.round(num / den)) : []),
    [wall, jumps, group, num, den],
  );
  return wall;
}
