import type { VideoSample, VideoSampleSink } from 'mediabunny';

/** Decoded pictures kept ahead. */
const AHEAD = 8;

/** Pictures of one clip from a moment on, decoded a little ahead of being shown. */
export class PictureStream {
  private queue: VideoSample[] = [];
  private left = false;
  private wake: (() => void) | undefined;
  /** Nothing comes behind what was taken last: its clip ended, or is a still. */
  ended = false;
  /** Comes true when the first picture is decoded, or none can come. */
  readonly ready: Promise<void>;

  constructor(sink: Promise<VideoSampleSink | null>, time: number, onFault: (error: unknown) => void) {
    this.ready = new Promise((resolve) => {
      void this.run(sink, time, resolve).catch((error: unknown) => {
        if (!this.left) onFault(error);
        resolve();
      });
    });
  }

  private async run(opened: Promise<VideoSampleSink | null>, time: number, onFirst: () => void) {
    const sink = await opened;
    if (sink && !this.left) {
      for await (const sample of sink.samples(time)) {
        if (this.left) {
          sample.close();
          return;
        }
        this.queue.push(sample);
        onFirst();
        while (this.queue.length >= AHEAD && !this.left) {
          await new Promise<void>((resolve) => {
            this.wake = resolve;
          });
        }
      }
      this.ended = !this.left;
    }
    onFirst();
  }

  /** Whether a picture is there that is due at `time`. */
  isDue(time: number): boolean {
    const first = this.queue[0];
    return first !== undefined && first.timestamp <= time;
  }

  /** Whether nothing is there for `time` or behind. */
  get isEmpty(): boolean {
    return this.queue.length === 0;
  }

  /** The newest picture that is due at `time`, whoever takes it closes it; `null` where that was taken before. */
  take(time: number): VideoSample | null {
    let newest: VideoSample | null = null;
    while (this.isDue(time)) {
      newest?.close();
      newest = this.queue.shift() ?? null;
    }
    this.wake?.();
    return newest;
  }

  /** Leaves the running decode and what it made. */
  leave() {
    this.left = true;
    this.wake?.();
    for (const sample of this.queue) sample.close();
    this.queue = [];
  }
}
