import { getBytes } from '../api/client';
import type { HeardView } from '../api/types';
import { Nodes } from './nodes';
import { why } from './picture';
import type { HeardFeed } from './sound';

/** Seconds of sound given to the hardware ahead of its time. */
const AHEAD_S = 1.5;

/** Seconds that are asked for at a time: the first short, so that play begins at once. */
const FIRST_S = 0.25;
const PIECE_S = 1;

/** Of a track that nobody wants. */
const NOTHING = new Float32Array();

/** A piece of every track that is wanted, from a sample on. */
type Piece = { from: number; count: number; tracks: Float32Array<ArrayBuffer>[] };

/** What tracks go through to the ears. */
export interface Mixing {
  connect(context: AudioContext): void;
  disconnect(): void;
  /** Where a track's sound goes. */
  track(number: number): AudioNode;
  /** The tracks that have to be there; all unless it says so. */
  wanted?: readonly number[];
}

/** Plays tracks as they will be written, sample for sample: the server corrects them, here they are mixed. */
export class LaidFeed implements HeardFeed {
  readonly angle = null;
  private run = 0;
  private readonly nodes = new Nodes();
  private first: { from: number; piece: Promise<Piece> } | null = null;

  /** `begins` is where the wall's clock has the first sample. */
  constructor(
    private readonly context: AudioContext,
    private readonly sound: HeardView,
    private readonly begins: number,
    private readonly mix: Mixing,
    private readonly onTrouble: (why: string | null) => void,
  ) {
    mix.connect(context);
  }

  private async fetch(from: number, seconds: number): Promise<Piece> {
    const { name, rate, samples, tracks } = this.sound;
    const count = Math.min(Math.round(seconds * rate), samples - from);
    const wanted = this.mix.wanted ?? tracks.map((_, i) => i);
    const some = wanted.length < tracks.length ? `&tracks=${wanted.join(',')}` : '';
    const all = new Float32Array(await getBytes(`/heard/${name}?from=${from}&count=${count}${some}`));
    const track = (i: number) => {
      const at = wanted.indexOf(i);
      return at < 0 ? NOTHING : all.slice(at * count, (at + 1) * count);
    };
    return { from, count, tracks: tracks.map((_, i) => track(i)) };
  }

  private sampleAt(axis: number): number {
    return Math.max(0, Math.round((axis - this.begins) * this.sound.rate));
  }

  async prepare(axis: number) {
    const from = this.sampleAt(axis);
    if (this.first?.from === from || from >= this.sound.samples) return;
    const piece = this.fetch(from, FIRST_S);
    this.first = { from, piece };
    // What went wrong is said when it is played.
    await piece.catch(() => undefined);
  }

  async play(axis: number, when: number) {
    const run = ++this.run;
    const { rate, samples } = this.sound;
    const from = this.sampleAt(axis);
    if (from >= samples) return;
    const zero = when - (axis - this.begins);
    try {
      let coming = this.first?.from === from ? this.first.piece : this.fetch(from, FIRST_S);
      this.first = null;
      for (;;) {
        const piece = await coming;
        if (run !== this.run) return;
        const next = piece.from + piece.count;
        this.schedule(piece, zero + piece.from / rate);
        this.onTrouble(null);
        if (next >= samples || next === piece.from) return;
        coming = this.fetch(next, PIECE_S);
        // Whatever comes of it is looked at above; until then nobody waits for it.
        coming.catch(() => undefined);
        const wait = zero + next / rate - this.context.currentTime - AHEAD_S;
        if (wait > 0) await new Promise((resolve) => setTimeout(resolve, wait * 1000));
      }
    } catch (error) {
      // The picture runs on in silence, and says so.
      if (run === this.run) this.onTrouble(why(error));
    }
  }

  /** Plays a piece at a moment of the sound's time; what of it is past is left out. */
  private schedule({ tracks }: Piece, at: number) {
    const { context } = this;
    const { rate } = this.sound;
    // On whole samples, so that one piece goes on exactly where the last one ends.
    const start = Math.round(at * context.sampleRate) / context.sampleRate;
    tracks.forEach((samples, i) => {
      if (samples.length === 0) return;
      const buffer = context.createBuffer(1, samples.length, rate);
      buffer.copyToChannel(samples, 0);
      const node = context.createBufferSource();
      node.buffer = buffer;
      node.connect(this.mix.track(i));
      this.nodes.start(node, start, 0, samples.length / rate);
    });
  }

  stop() {
    this.run++;
    this.nodes.stop();
  }

  dispose() {
    this.stop();
    this.mix.disconnect();
  }
}
