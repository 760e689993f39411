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

/** Shows the angles of a wall through what they are seen through. */
export function useThrough(wall: Wall, angles: readonly Angle[]) {
  const devices = useDevices();
  const through = useMemo(
    () => new Map(angles.map((angle) => [angle.id, throughOf(devices ?? [], angle)])),
    [devices, angles],
  );
  const luts = useLuts([...new Set([...through.values()].filter((key) => key !== null))].sort());
  useEffect(() => {
    const own = [...through].flatMap(([angle, key]) => {
      const lut = key === null ? undefined : luts.get(key);
      return lut ? [[angle, lut] as const] : [];
    });
    wall.setThrough(new Map(own));
  }, [wall, through, luts]);
}
