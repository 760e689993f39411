import { useSyncExternalStore } from 'react';
import type { Wall, WallState } from './wall';

/**
 * A part of what the wall says of itself: what is drawn with it is drawn anew only where that part is another, not at
 * each frame. `select` gives a plain value.
 */
export const useWall = <T extends string | number | boolean | null | Readonly<Record<number, string>>>(
  wall: Wall,
  select: (state: WallState) => T,
): T => useSyncExternalStore(wall.subscribe, () => select(wall.shown()));
