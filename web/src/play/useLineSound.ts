import { useEffect } from 'react';
import type { GroupView } from '../api/types';
import { angleOf } from '../model/angles';
import type { OnAir } from '../model/onAir';
import type { GridHeard } from './useGrid';
import { useWall } from './useWall';
import type { Wall } from './wall';

/** The devices whose own sound a line lets be heard. */
export const turnsOf = ({ group, line }: Pick<GroupView, 'group' | 'line'>): number[] => {
  const heard = (line.sound?.switches ?? []).map(({ angle }) => angleOf(group, angle)?.device ?? null);
  return [...new Set(heard.filter((device) => device !== null))].sort((a, b) => a - b);
};

/**
 * Lets what is heard follow a line: cameras with their picture where the grid says so, and an angle's own sound instead
 * where the line does. The angle that is heard instead, where one is.
 */
export function useLineSound(
  wall: Wall,
  { group }: Pick<GroupView, 'group'>,
  { mix }: GridHeard,
  onAir: (frame: number) => OnAir,
  onEar: (frame: number) => { angle: number; dissolve: number },
): number | null {
  const fps = group.start.rate.num / group.start.rate.den;
  const air = useWall(wall, (state) => onAir(state.frame).angle);
  const shown = angleOf(group, air)?.device ?? null;
  useEffect(() => mix?.setAir(shown), [mix, shown]);
  const ear = useWall(wall, (state) => onEar(state.frame).angle);
  const dissolve = useWall(wall, (state) => onEar(state.frame).dissolve);
  const instead = angleOf(group, ear)?.device ?? null;
  useEffect(() => mix?.setInstead(instead, dissolve / fps), [mix, instead, dissolve, fps]);
  return instead === null ? null : ear;
}
