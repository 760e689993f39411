import { levels, type Chosen } from '../model/mix';

/** Seconds in which a track comes and goes: fast for the ear, slow enough not to click. */
const FADE_S = 0.005;

/** From tracks to the ears, to be changed while they play. */
export class TrackMix {
  private context: AudioContext | null = null;
  private gains: GainNode[] = [];

  constructor(private chosen: Chosen) {}

  /** Opens it on a sound. */
  connect(context: AudioContext) {
    this.disconnect();
    this.context = context;
    this.gains = levels(this.chosen).map((level) => {
      const gain = context.createGain();
      gain.gain.value = level;
      gain.connect(context.destination);
      return gain;
    });
  }

  disconnect() {
    for (const gain of this.gains) gain.disconnect();
    this.gains = [];
    this.context = null;
  }

  /** Where a track's sound goes. */
  track(number: number): AudioNode {
    const gain = this.gains[number];
    if (!gain) throw new Error('a track that is not there');
    return gain;
  }

  /** Another choice, heard at once. */
  set(chosen: Chosen) {
    this.chosen = chosen;
    const now = this.context?.currentTime ?? 0;
    levels(chosen).forEach((level, i) => this.gains[i]?.gain.setTargetAtTime(level, now, FADE_S));
  }
}
