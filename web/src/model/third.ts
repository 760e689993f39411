/** A third clip beside two: who of the three is off. */
import type { Needle } from '../api/types';

/** What is left between each two of them where they lie; null where one is silent. */
export type Between = {
  clipAndReference: Needle | null;
  thirdAndReference: Needle | null;
  thirdAndClip: Needle | null;
};

export type Off = 'nobody' | 'reference' | 'clip' | 'third' | 'unknown';

/** Who is off: the one from whom the other two differ while they agree within half a frame (seconds). */
export function whoIsOff({ clipAndReference, thirdAndReference, thirdAndClip }: Between, frame: number): Off {
  const agree = (needle: Needle | null) =>
    needle?.clear ? Math.abs(needle.later_s) <= frame / 2 : undefined;
  const [both, reference, clip] = [agree(clipAndReference), agree(thirdAndReference), agree(thirdAndClip)];
  if (both && reference && clip) return 'nobody';
  if (both && reference === false && clip === false) return 'third';
  if (reference && clip === false && !both) return 'clip';
  if (clip && reference === false && !both) return 'reference';
  return 'unknown';
}
