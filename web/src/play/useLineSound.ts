import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { groupGridQuery } from '../api/queries';
import type { GroupView } from '../api/types';
import { angleOf } from '../model/angles';
import type { OnAir } from '../model/onAir';
import { layerDevice, soundLayerAt } from '../model/over';
import type { GridHeard } from './useGrid';
import { useWall } from './useWall';
import type { Wall } from './wall';

/** The devices whose own sound a line lets be heard, and what stands for those of layers. */
export const turnsOf = ({ group, line }: Pick<GroupView, 'group' | 'line'>): number[] => {
  const heard = (line.sound?.switches ?? []).map(({ angle }) => angleOf(group, angle)?.device ?? null);
  const over = (line.layers ?? []).flatMap(({ own_sound }, layer) => (own_sound ? [layerDevice(layer)] : []));
  return [...new Set([...heard.filter((device) => device !== null), ...over])].sort((a, b) => a - b);
};

/**
 * Lets what is heard follow a line: cameras with their picture where the grid says so, and an angle's own sound instead
 * where the line does. The angle that is heard instead, or the layer.
 */
export function useLineSound(
  wall: Wall,
  { id, group, line }: Pick<GroupView, 'id' | 'group' | 'line'>,
  { mix }: GridHeard,
  onAir: (frame: number) => OnAir,
  onEar: (frame: number) => { angle: number; dissolve: number },
): { angle: number | null; layer: number | null } {
  const fps = group.start.rate.num / group.start.rate.den;
  const air = useWall(wall, (state) => onAir(state.frame).angle);
  const shown = angleOf(group, air)?.device ?? null;
  useEffect(() => mix?.setAir(shown), [mix, shown]);
  const ear = useWall(wall, (state) => onEar(state.frame).angle);
  const dissolve = useWall(wall, (state) => onEar(state.frame).dissolve);
  const layers = line.layers ?? [];
  const layer = useWall(wall, (state) => soundLayerAt(layers, state.frame));
  const angle = angleOf(group, ear)?.device ?? null;
  const instead = layer >= 0 ? layerDevice(layer) : angle;
  useEffect(
    () => mix?.setInstead(instead, layer < 0 ? dissolve / fps : 0),
    [mix, instead, layer, dissolve, fps],
  );
  // Their sound is among what is fetched: others, or the same elsewhere, are another sound.
  const client = useQueryClient();
  const owned = JSON.stringify(layers.filter(({ own_sound }) => own_sound));
  useEffect(
    () => () => {
      void client.invalidateQueries({ queryKey: groupGridQuery(id).queryKey });
    },
    [client, id, owned],
  );
  return { angle: layer < 0 && angle !== null ? ear : null, layer: layer < 0 ? null : layer };
}
