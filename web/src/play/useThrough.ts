import { useQueries, useQuery } from '@tanstack/react-query';
import { useEffect, useMemo } from 'react';
import { dayQuery, lutQuery } from '../api/queries';
import type { Angle } from '../api/types';
import { throughOf, type Lut } from '../model/lut';
import type { Wall } from './wall';

/** The LUTs of these keys that are there, by their keys. */
export function useLuts(keys: readonly string[]): ReadonlyMap<string, Lut> {
  return useQueries({
    queries: keys.map((key) => lutQuery(key)),
    combine: (all) =>
      new Map(all.flatMap(({ data }, i) => (data && keys[i] !== undefined ? [[keys[i], data]] : []))),
  });
}

/** The devices, whatever place it is. */
export const useDevices = () => useQuery({ ...dayQuery, select: (day) => day.devices }).data;

const NONE: readonly number[] = [];

/** Shows the angles of a wall through what they are seen through, and the clips over its line. */
export function useThrough(wall: Wall, angles: readonly Angle[], over: readonly number[] = NONE) {
  const devices = useDevices();
  const clips = useQuery({ ...dayQuery, select: (day) => day.clips, enabled: over.length > 0 }).data;
  const through = useMemo(
    () => new Map(angles.map((angle) => [angle.id, throughOf(devices ?? [], angle)])),
    [devices, angles],
  );
  // What lies over the line is seen as its device's pictures are.
  const throughOver = useMemo(
    () =>
      new Map(
        over.map((id) => {
          const device = clips?.find((clip) => clip.id === id)?.device ?? null;
          return [id, throughOf(devices ?? [], { device })];
        }),
      ),
    [devices, clips, over],
  );
  const luts = useLuts(
    [...new Set([...through.values(), ...throughOver.values()].filter((key) => key !== null))].sort(),
  );
  useEffect(() => {
    const there = (keys: ReadonlyMap<number, string | null>) =>
      new Map(
        [...keys].flatMap(([id, key]) => {
          const lut = key === null ? undefined : luts.get(key);
          return lut ? [[id, lut] as const] : [];
        }),
      );
    wall.setThrough(there(through), there(throughOver));
  }, [wall, through, throughOver, luts]);
}
