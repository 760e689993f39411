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

/** The layer whose own sound is heard at a frame; below nought where that is none. */
export function soundLayerAt(layers: readonly Layer[], frame: number): number {
  const here = layerAt(layers, frame);
  return layers[here]?.own_sound ? here : -1;
}

/** What stands for the device of a layer's own sound. */
export const layerDevice = (layer: number) => -1 - layer;

/** Whether it stands for a layer's own sound. */
export const isLayerDevice = (device: number | null) => device !== null && device < 0;

/** A speed in words: per cent of the clip's own. */
export const speedSaid = ({ num, den }: Layer['speed']) => `${Number(((100 * num) / den).toFixed(2))} %`;
