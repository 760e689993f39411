import { VideoSampleSink, type Input, type VideoSample } from 'mediabunny';
import type { Angle, AnglePart } from '../api/types';
import { clipAt } from '../model/axis';
import { opened } from './opened';
import { PictureStream } from './stream';

/** Of light copies so many frames are one that is decoded by itself, and those that build on it. */
const KEY_FRAMES = 12;

/** Which light copy: the one that is seen large, or a smaller one that takes less to decode. */
export type Size = 'full' | 'small';
const FILES = { full: 'proxy.mp4', small: 'small.mp4' } as const;

/** One light copy, opened when it is first needed. */
class Source {
  private readonly input: Input;
  private sink: Promise<VideoSampleSink | null> | undefined;

  constructor(clip: number, size: Size) {
    this.input = opened(`/api/clips/${clip}/${FILES[size]}`);
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
  private readonly sources = new Map<string, Source>();
  private stream: PictureStream | null = null;
  /** Of another size, until its first picture is there. */
  private coming: PictureStream | null = null;
  /** The size of what streams, or of what comes. */
  private size: Size = 'full';
  private shown: VideoSample | null = null;
  private part: AnglePart | null = null;
  private wanted: { part: AnglePart; time: number; size: Size } | undefined;
  private fetching = false;
  /** The time of what {@link glance} asked for last; below zero while it follows every frame. */
  private glanced = -1;
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

  /** Opens a clip's light copy; one that is not there yet is asked for anew the next time. */
  private async open(clip: number, size: Size): Promise<VideoSampleSink | null> {
    const source = this.source(clip, size);
    let sink: VideoSampleSink | null = null;
    let trouble: string | null = 'its light copy has no picture';
    try {
      sink = await source.open();
      if (sink) trouble = null;
    } catch (error) {
      trouble = why(error);
    }
    const key = `${size} ${clip}`;
    if (!sink && this.sources.get(key) === source) {
      this.sources.delete(key);
      source.dispose();
    }
    this.tell(trouble);
    return sink;
  }

  private tell(trouble: string | null) {
    if (this.trouble === trouble) return;
    this.trouble = trouble;
    this.onTrouble();
  }

  private source(clip: number, size: Size): Source {
    const key = `${size} ${clip}`;
    let source = this.sources.get(key);
    if (!source) {
      source = new Source(clip, size);
      this.sources.set(key, source);
    }
    return source;
  }

  private begin(part: AnglePart, time: number, size: Size): PictureStream {
    return new PictureStream(this.open(part.clip, size), time, (error) => this.tell(why(error)));
  }

  /** Nobody looks at it: nothing is decoded. */
  rest() {
    if (!this.part && !this.stream) return;
    this.leave();
    this.part = null;
    this.glanced = -1;
  }

  /** Now and then a picture: the newest of those that are decoded by themselves, when its time comes. */
  glance(frame: number, axis: number, size: Size = 'full') {
    const part = this.partAt(frame);
    const length = part ? (KEY_FRAMES * part.rate.den) / part.rate.num : 1;
    const key = part ? Math.floor(pictureTime(part, axis) / length + 1e-6) * length : -1;
    if (part === this.part && key === this.glanced) return;
    this.seek(frame, axis, size);
    this.glanced = key;
    if (this.wanted) this.wanted.time = key;
  }

  /**
   * The picture for group frame `frame`, whose middle is at `axis`, while playing. Where another size is asked for, what streams
   * is shown until that is there.
   */
  advance(frame: number, axis: number, size: Size = 'full'): VideoSample | null {
    const part = this.partAt(frame);
    const time = part ? pictureTime(part, axis) : 0;
    if (part !== this.part || this.glanced >= 0 || !this.stream) {
      this.glanced = -1;
      this.part = part;
      this.leave();
      this.stream = part && this.begin(part, time, size);
      this.size = size;
    } else if (part && size !== this.size) {
      // Another wish before the last came true: what streams goes on, or what came is left again.
      if (this.coming) this.coming.leave();
      this.coming = this.begin(part, time, size);
      this.size = size;
    }
    if (!part || !this.stream) return null;
    const due = time + 1e-4;
    if (this.coming?.isDue(due)) {
      this.stream.leave();
      this.stream = this.coming;
      this.coming = null;
    }
    const next = this.stream.take(due);
    if (next) this.show(next);
    const isBehind = this.shown && due - this.shown.timestamp > 1;
    if (isBehind && this.stream.isEmpty && !this.stream.ended) {
      // Far behind: begin again where the clock is rather than run after it.
      this.leave();
      this.stream = this.begin(part, due, size);
    }
    return this.shown;
  }

  private show(sample: VideoSample | null) {
    if (this.shown !== sample) this.shown?.close();
    this.shown = sample;
  }

  /** Leaves the running decode and what it made. */
  private leave() {
    this.stream?.leave();
    this.coming?.leave();
    this.stream = null;
    this.coming = null;
  }

  /** Begins to decode at a moment ahead of play, so that the first pictures are ready. */
  prepare(frame: number, axis: number, size: Size = 'full') {
    this.part = this.partAt(frame);
    this.leave();
    this.glanced = -1;
    this.size = size;
    this.stream = this.part && this.begin(this.part, pictureTime(this.part, axis), size);
    this.ready = this.stream?.ready ?? Promise.resolve();
  }

  /** Shows the picture of one frame while standing still; only the last wish is fetched. */
  seek(frame: number, axis: number, size: Size = 'full') {
    this.leave();
    this.glanced = -1;
    this.part = this.partAt(frame);
    if (!this.part) {
      this.show(null);
      this.wanted = undefined;
      this.onPicture();
      return;
    }
    this.wanted = { part: this.part, time: pictureTime(this.part, axis), size };
    if (!this.fetching) void this.fetch();
  }

  private async fetch() {
    this.fetching = true;
    while (this.wanted) {
      const { part, time, size } = this.wanted;
      this.wanted = undefined;
      try {
        const sink = await this.open(part.clip, size);
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
