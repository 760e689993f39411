import type { Angle } from '../../api/types';
import { SoundFeed, type Voices } from '../../play/sound';

/** How the two are listened to. */
export type Ears = 'both' | 'each' | 'reference' | 'clip' | 'difference';

/** What each way is called. */
export const EARS: Record<Ears, string> = {
  both: 'Both',
  each: 'One in each',
  reference: 'Reference',
  clip: 'Clip',
  difference: 'Difference',
};

/** Loudness of the reference and the clip, and where each is heard: −1 left, 1 right. */
const MIX: Record<Ears, { reference: number; clip: number; apart: number }> = {
  both: { reference: 0.7, clip: 0.7, apart: 0 },
  each: { reference: 1, clip: 1, apart: 1 },
  reference: { reference: 1, clip: 0, apart: 0 },
  clip: { reference: 0, clip: 1, apart: 0 },
  // One from the other: what both have alike goes quiet where they are in step.
  difference: { reference: 1, clip: -1, apart: 0 },
};

/** From the two sounds to the ears, to be changed while they play. */
export class EarMix {
  private nodes: { reference: [GainNode, StereoPannerNode]; clip: [GainNode, StereoPannerNode] } | null =
    null;
  private ears: Ears = 'both';
  private level = 1;

  /** The two voices on a sound that is opened. */
  voices(reference: Angle, clip: Angle): Voices {
    return (context, onTrouble) => {
      const voice = (): [GainNode, StereoPannerNode] => {
        const [gain, place] = [context.createGain(), context.createStereoPanner()];
        gain.connect(place);
        place.connect(context.destination);
        return [gain, place];
      };
      this.nodes = { reference: voice(), clip: voice() };
      this.set(this.ears, this.level);
      return [
        new SoundFeed(context, reference, this.nodes.reference[0], onTrouble),
        new SoundFeed(context, clip, this.nodes.clip[0], onTrouble),
      ];
    };
  }

  /** Another way to listen; `level` makes the clip as loud as the reference, negative where it is inverted. */
  set(ears: Ears, level: number) {
    this.ears = ears;
    this.level = level;
    const { reference, clip, apart } = MIX[ears];
    if (!this.nodes) return;
    const [[gainR, placeR], [gainC, placeC]] = [this.nodes.reference, this.nodes.clip];
    gainR.gain.value = reference;
    gainC.gain.value = clip * level;
    placeR.pan.value = -apart;
    placeC.pan.value = apart;
  }
}

/** How much louder one has to be made to be as loud as the other, from their loudest and usual levels. */
export function levelBetween(reference: Float32Array | number[], clip: Float32Array | number[]): number {
  const power = (all: ArrayLike<number>) => {
    let sum = 0;
    for (let i = 0; i < all.length; i++) sum += (all[i] ?? 0) ** 2;
    return Math.sqrt(sum / Math.max(all.length, 1));
  };
  const [a, b] = [power(reference), power(clip)];
  return a > 0 && b > 0 ? Math.min(30, Math.max(1 / 30, a / b)) : 1;
}
