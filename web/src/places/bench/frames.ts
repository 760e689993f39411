/** Single pictures of a clip, exactly the frame that is asked for. */
import { VideoSampleSink, type Input } from 'mediabunny';
import { opened } from '../../play/opened';

/** A picture on screen: when it begins and how long it stands, seconds of the picture's own time. */
export type Shown = { from: number; length: number };

/** Frames of one clip, from its light copy, which has every frame at its own time. */
export class Frames {
  private readonly input: Input;
  private sink: Promise<VideoSampleSink | null> | undefined;
  private wanted: number | null = null;
  private busy = false;

  constructor(
    clip: number,
    private readonly canvas: () => HTMLCanvasElement | null,
    private readonly tell: {
      onShown: (shown: Shown | null) => void;
      /** Why a picture cannot be shown; null where it can. */
      onFault: (why: string | null) => void;
    },
  ) {
    this.input = opened(`/api/clips/${clip}/proxy.mp4`);
  }

  /** Opened anew while its light copy is not there. */
  private async open(): Promise<VideoSampleSink | null> {
    this.sink ??= this.input.getPrimaryVideoTrack().then((track) => track && new VideoSampleSink(track));
    try {
      return await this.sink;
    } catch (error) {
      this.sink = undefined;
      throw error;
    }
  }

  /** Shows the frame at a moment of the picture's own time; of several wishes the last. */
  show(at: number) {
    this.wanted = Math.max(0, at);
    if (!this.busy) void this.fetch();
  }

  private async fetch() {
    this.busy = true;
    while (this.wanted !== null) {
      const at = this.wanted;
      this.wanted = null;
      let fault: string | null = null;
      const sample = await this.open()
        .then((sink) => sink?.getSample(at + 1e-4))
        .catch((error: unknown) => {
          fault = `its picture cannot be shown (${error instanceof Error ? error.message : String(error)})`;
          return null;
        });
      const canvas = this.canvas();
      this.tell.onFault(fault);
      if (!sample || !canvas) {
        sample?.close();
        this.tell.onShown(null);
        continue;
      }
      canvas.width = sample.displayWidth;
      canvas.height = sample.displayHeight;
      sample.draw(canvas.getContext('2d') as CanvasRenderingContext2D, 0, 0);
      this.tell.onShown({ from: sample.timestamp, length: sample.duration });
      sample.close();
    }
    this.busy = false;
  }

  dispose() {
    this.wanted = null;
    this.input.dispose();
  }
}
