/** Layers: what lies over the line. */
import type { Layer } from '../api/types';

/** How much is there of the second of two frames, between whose middles `position` (in frames of the clip) lies. */
export function betweenAt(position: number): number {
  const share = position - 0.5 - Math.floor(position - 0.5);
  // What is counted in floats is never quite a whole.
  return share > 1 - 1e-6 || share < 1e-6 ? 0 : share;
}

/** The first frame of the line that a layer covers no longer. */
export const endOf = ({ at, frames }: Pick<Layer, 'at' | 'frames'>) => at + frames;

/** The layer over a frame; below nought where there is none. */
export const layerAt = (layers: readonly Layer[], frame: number) =>
  layers.findIndex((own) => frame >= own.at && frame < endOf(own));

/** A speed in words: per cent of the clip's own. */
export const speedSaid = ({ num, den }: Layer['speed']) => `${Number(((100 * num) / den).toFixed(2))} %`;
