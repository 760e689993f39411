import { AudioBufferSink, type Input } from 'mediabunny';
import type { Angle } from '../api/types';
import { axisAt, clipAt, end, pace } from '../model/axis';
import { Nodes } from './nodes';
import { opened } from './opened';
import { why } from './picture';

/** Seconds of sound given to the hardware ahead of its time. */
const AHEAD_S = 1.5;

/** Something that is heard while the wall plays. */
export interface HeardFeed {
  /** Whose sound it is, where that is an angle's. */
  angle: Angle | null;
  /** Fetches what is heard first, so that it is there when play begins at `axis`. */
  prepare?(axis: number): Promise<void>;
  /** Begins at `axis`, to be heard at `when` of the sound's time. */
  play(axis: number, when: number): Promise<void>;
  stop(): void;
  dispose(): void;
}

/** Makes what is heard on the sound that is opened; `onTrouble` is told why nothing is, or that there is nothing wrong. */
export type Voices = (context: AudioContext, onTrouble: (why: string | null) => void) => HeardFeed[];

/** Plays an angle's sound from any moment of the axis, exactly at the moments the clock says. */
export class SoundFeed implements HeardFeed {
  private run = 0;
  private readonly nodes = new Nodes();
  private readonly inputs = new Map<number, Input>();

  constructor(
    private readonly context: AudioContext,
    public angle: Angle | null,
    private readonly out: AudioNode,
    private readonly onTrouble: (why: string | null) => void,
  ) {}

  private input(clip: number): Input {
    let input = this.inputs.get(clip);
    if (!input) {
      input = opened(`/api/clips/${clip}/playback.wav`);
      this.inputs.set(clip, input);
    }
    return input;
  }

  async play(axis: number, when: number) {
    const run = ++this.run;
    for (const part of this.angle?.parts ?? []) {
      const { stretch } = part;
      const speed = pace(stretch);
      if (end(stretch) <= axis) continue;
      const from = clipAt(stretch, Math.max(axis, stretch.start_s));
      try {
        const track = await this.input(part.clip).getPrimaryAudioTrack();
        if (!track || run !== this.run) return;
        for await (const { buffer, timestamp } of new AudioBufferSink(track).buffers(
          from,
          stretch.clip_end_s,
        )) {
          if (run !== this.run) return;
          // Buffers reach over the ends of a stretch: what lies beyond belongs to the next one.
          const head = Math.max(0, from - timestamp);
          const length = Math.min(buffer.duration, stretch.clip_end_s - timestamp) - head;
          if (length <= 0) continue;
          const at = when + axisAt(stretch, timestamp + head) - axis;
          this.schedule(buffer, at, speed, head, length);
          const wait = at - this.context.currentTime - AHEAD_S;
          if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait * 1000));
        }
        this.onTrouble(null);
      } catch (error) {
        // The picture runs on in silence, and says so.
        if (run === this.run) this.onTrouble(why(error));
        return;
      }
    }
  }

  /** Plays `length` seconds of a buffer from `head` on, at a moment of the sound's time. */
  private schedule(buffer: AudioBuffer, at: number, speed: number, head: number, length: number) {
    const node = this.context.createBufferSource();
    node.buffer = buffer;
    node.playbackRate.value = speed;
    node.connect(this.out);
    this.nodes.start(node, at, head, length);
  }

  stop() {
    this.run++;
    this.nodes.stop();
  }

  dispose() {
    this.stop();
    for (const input of this.inputs.values()) input.dispose();
    this.inputs.clear();
  }
}
