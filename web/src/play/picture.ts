import { ALL_FORMATS, Input, UrlSource, VideoSampleSink, type VideoSample } from 'mediabunny';
import type { Angle, AnglePart } from '../api/types';
import { clipAt } from '../model/axis';

/** Of light copies so many frames are one that is decoded by itself, and those that build on it. */
const KEY_FRAMES = 12;

/** Decoded pictures kept ahead. */
const AHEAD = 8;

/** One proxy, opened when it is first needed. */
class Source {
  private readonly input: Input;
  private sink: Promise<VideoSampleSink | null> | undefined;

  constructor(clip: number) {
    this.input = new Input({ formats: ALL_FORMATS, source: new UrlSource(`/api/clips/${clip}/proxy.mp4`) });
  }

  open(): Promise<VideoSampleSink | null> {
    this.sink ??= this.input.getPrimaryVideoTrack().then((track) => track && new VideoSampleSink(track));
    return this.sink;
  }

  dispose() {
    this.input.dispose();
  }
}

/** The clip's own picture time at an axis time. */
export const pictureTime = ({ stretch, picture_delay_s }: AnglePart, axis: number) =>
  Math.max(0, clipAt(stretch, axis) - picture_delay_s);

/** What went wrong, in its own words. */
export const why = (error: unknown) => (error instanceof Error ? error.message : String(error));

/** Feeds one angle: the picture that is on screen at a moment of the axis. */
export class AngleFeed {
  private readonly sources = new Map<number, Source>();
  private queue: VideoSample[] = [];
  private shown: VideoSample | null = null;
  private part: AnglePart | null = null;
  /** Another number for every run, so that a run that was left ends by itself. */
  private run = 0;
  private wake: (() => void) | undefined;
  private wanted: { part: AnglePart; time: number } | undefined;
  private fetching = false;
  /** The time of what {@link glance} asked for last; below zero while it follows every frame. */
  private glanced = -1;
  /** Nothing comes behind what is shown: its clip ended, or is a still. */
  private ended = false;
  /** Comes true when the first picture after {@link prepare} is decoded, or none can come. */
  ready: Promise<void> = Promise.resolve();
  /** Why its picture cannot be shown, where it cannot. */
  trouble: string | null = null;

  constructor(
    public angle: Pick<Angle, 'id' | 'parts'>,
    private readonly onPicture: () => void,
    private readonly onTrouble: () => void,
  ) {}

  partAt(frame: number): AnglePart | null {
    return this.angle.parts.find((part) => frame >= part.from_frame && frame < part.to_frame) ?? null;
  }

  /** Opens a clip's proxy; one that is not there yet is asked for anew the next time. */
  private async open(clip: number): Promise<VideoSampleSink | null> {
    const source = this.source(clip);
    let sink: VideoSampleSink | null = null;
    try {
      sink = await source.open();
      this.tell(sink ? null : 'its light copy has no picture');
    } catch (error) {
      this.tell(why(error));
    }
    if (!sink && this.sources.get(clip) === source) {
      this.sources.delete(clip);
      source.dispose();
    }
    return sink;
  }

  private tell(trouble: string | null) {
    if (this.trouble === trouble) return;
    this.trouble = trouble;
    this.onTrouble();
  }

  private source(clip: number): Source {
    let source = this.sources.get(clip);
    if (!source) {
      source = new Source(clip);
      this.sources.set(clip, source);
    }
    return source;
  }

  /** Nobody looks at it: nothing is decoded. */
  rest() {
    if (!this.part && this.queue.length === 0) return;
    this.leave();
    this.part = null;
    this.glanced = -1;
  }

  /** Now and then a picture: the newest of those that are decoded by themselves, when its time comes. */
  glance(frame: number, axis: number) {
    const part = this.partAt(frame);
    const length = part ? (KEY_FRAMES * part.rate.den) / part.rate.num : 1;
    const key = part ? Math.floor(pictureTime(part, axis) / length + 1e-6) * length : -1;
    if (part === this.part && key === this.glanced) return;
    this.seek(frame, axis);
    this.glanced = key;
    if (this.wanted) this.wanted.time = key;
  }

  /** The picture for group frame `frame`, whose middle is at `axis`, while playing. */
  advance(frame: number, axis: number): VideoSample | null {
    const part = this.partAt(frame);
    if (part !== this.part || this.glanced >= 0) {
      this.glanced = -1;
      this.part = part;
      this.leave();
      if (part) void this.follow(part, pictureTime(part, axis), ++this.run);
    }
    if (!part) return null;
    const time = pictureTime(part, axis) + 1e-4;
    let next = this.queue[0];
    while (next && next.timestamp <= time) {
      this.queue.shift();
      this.show(next);
      next = this.queue[0];
    }
    if (!next && this.shown && !this.ended && time - this.shown.timestamp > 1) {
      // Far behind: begin again where the clock is rather than run after it.
      this.leave();
      void this.follow(part, time, ++this.run);
    }
    this.wake?.();
    return this.shown;
  }

  private show(sample: VideoSample | null) {
    if (this.shown !== sample) this.shown?.close();
    this.shown = sample;
  }

  /** Decodes from `time` on and keeps a few pictures ready. */
  private async follow(part: AnglePart, time: number, run: number, onFirst?: () => void) {
    const sink = await this.open(part.clip);
    if (!sink) {
      onFirst?.();
      return;
    }
    const samples = sink.samples(time);
    try {
      this.ended = false;
      for await (const sample of samples) {
        if (run !== this.run) {
          sample.close();
          return;
        }
        this.queue.push(sample);
        onFirst?.();
        while (this.queue.length >= AHEAD && run === this.run) {
          await new Promise<void>((resolve) => {
            this.wake = resolve;
          });
        }
      }
      this.ended = run === this.run;
    } catch (error) {
      if (run === this.run) this.tell(why(error));
    } finally {
      onFirst?.();
    }
  }

  /** Leaves the running decode and what it made. */
  private leave() {
    this.run++;
    this.wake?.();
    for (const sample of this.queue) sample.close();
    this.queue = [];
  }

  /** Begins to decode at a moment ahead of play, so that the first pictures are ready. */
  prepare(frame: number, axis: number) {
    this.part = this.partAt(frame);
    this.leave();
    this.ready = new Promise((resolve) => {
      if (!this.part) resolve();
      else void this.follow(this.part, pictureTime(this.part, axis), ++this.run, resolve);
    });
  }

  /** Shows the picture of one frame while standing still; only the last wish is fetched. */
  seek(frame: number, axis: number) {
    this.leave();
    this.glanced = -1;
    this.part = this.partAt(frame);
    if (!this.part) {
      this.show(null);
      this.wanted = undefined;
      this.onPicture();
      return;
    }
    this.wanted = { part: this.part, time: pictureTime(this.part, axis) };
    if (!this.fetching) void this.fetch();
  }

  private async fetch() {
    this.fetching = true;
    while (this.wanted) {
      const { part, time } = this.wanted;
      this.wanted = undefined;
      try {
        const sink = await this.open(part.clip);
        const sample = sink ? await sink.getSample(time + 1e-4) : null;
        if (this.wanted || this.part !== part) sample?.close();
        else {
          this.show(sample);
          this.onPicture();
        }
      } catch (error) {
        this.tell(why(error));
      }
    }
    this.fetching = false;
  }

  get picture(): VideoSample | null {
    return this.shown;
  }

  dispose() {
    this.leave();
    this.wanted = undefined;
    this.part = null;
    this.show(null);
    for (const source of this.sources.values()) source.dispose();
    this.sources.clear();
  }
}
