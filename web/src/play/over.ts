import type { VideoSample } from 'mediabunny';
import type { AnglePart, OverPart } from '../api/types';
import { pace } from '../model/axis';
import { betweenAt } from '../model/over';
import { AngleFeed, pictureTime } from './picture';

/** A layer of the line, and what it says of itself. */
export type OverShown = OverPart & { blended: boolean };

/** A layer that is played: its pictures, and of those in between two. */
type Seat = { shown: OverShown; key: string; lower: AngleFeed; upper: AngleFeed | null; ready: boolean };

/** What is to be seen of a layer: one picture, or one over another with a share of it. */
export type OverSeen = {
  layer: number;
  clip: number;
  lower: VideoSample | null;
  upper: VideoSample | null;
  share: number;
};

/** A clip's frame earlier or later, as a part of its own. */
const shifted = (part: AnglePart, frames: number): AnglePart => ({
  ...part,
  picture_delay_s: part.picture_delay_s - (frames * part.rate.den) / part.rate.num,
});

/** The layers of a line: decoded where they are seen, and a little before. */
export class OverFeeds {
  private seats: Seat[] = [];

  constructor(
    private readonly fps: number,
    private readonly onPicture: () => void,
    private readonly onTrouble: () => void,
  ) {}

  /** Other layers; those that are the same stay open. */
  set(all: readonly OverShown[]) {
    const before = new Map(this.seats.map((seat) => [seat.key, seat]));
    this.seats = all.map((shown) => {
      const { layer, ...own } = shown;
      const key = JSON.stringify(own);
      const kept = before.get(key);
      before.delete(key);
      return kept ? { ...kept, shown: { ...own, layer } } : this.open(shown, key);
    });
    for (const seat of before.values()) this.close(seat);
  }

  private open(shown: OverShown, key: string): Seat {
    const { part } = shown;
    const step = (pace(part.stretch) * part.rate.num) / part.rate.den / this.fps;
    const feed = (frames: number) =>
      new AngleFeed({ id: -1 - shown.layer, parts: [shifted(part, frames)] }, this.onPicture, this.onTrouble);
    const between = shown.blended && step < 1 && !part.still;
    return {
      shown,
      key,
      lower: feed(between ? -0.5 : 0),
      upper: between ? feed(0.5) : null,
      ready: false,
    };
  }

  private close({ lower, upper }: Seat) {
    lower.dispose();
    upper?.dispose();
  }

  private readonly covers = ({ shown: { part } }: Seat, frame: number) =>
    frame >= part.from_frame && frame < part.to_frame;

  /** Whether something lies over a frame. */
  has(frame: number): boolean {
    return this.seats.some((seat) => this.covers(seat, frame));
  }

  /** What is to be seen at a frame, whose middle is at `axis`. */
  at(frame: number, axis: number): OverSeen | null {
    const seat = this.seats.find((own) => this.covers(own, frame));
    if (!seat) return null;
    const { shown, lower, upper } = seat;
    const { part, layer } = shown;
    const position = (pictureTime(part, axis) * part.rate.num) / part.rate.den;
    return {
      layer,
      clip: part.clip,
      lower: lower.picture,
      upper: upper?.picture ?? null,
      share: upper ? betweenAt(position) : 0,
    };
  }

  /** For frame `frame` while playing; what comes within a second is made ready. */
  advance(frame: number, middle: (frame: number) => number) {
    for (const seat of this.seats) {
      const feeds = [seat.lower, seat.upper];
      const { from_frame } = seat.shown.part;
      if (this.covers(seat, frame)) {
        for (const feed of feeds) feed?.advance(frame, middle(frame));
      } else if (frame < from_frame && from_frame - frame <= this.fps) {
        if (!seat.ready) for (const feed of feeds) feed?.prepare(from_frame, middle(from_frame));
        seat.ready = true;
      } else {
        for (const feed of feeds) feed?.rest();
        seat.ready = false;
      }
    }
  }

  /** For a frame while standing. */
  seek(frame: number, axis: number) {
    for (const seat of this.seats) {
      seat.ready = false;
      for (const feed of [seat.lower, seat.upper]) {
        if (this.covers(seat, frame)) feed?.seek(frame, axis);
        else feed?.rest();
      }
    }
  }

  /** Before play begins at a frame; comes true when the first pictures are there. */
  async prepare(frame: number, axis: number) {
    const here = this.seats.filter((seat) => this.covers(seat, frame));
    const feeds = here.flatMap(({ lower, upper }) => (upper ? [lower, upper] : [lower]));
    for (const feed of feeds) feed.prepare(frame, axis);
    await Promise.all(feeds.map((feed) => feed.ready));
  }

  /** Why a layer's picture cannot be shown, by {@link AngleFeed.angle}'s number. */
  get troubles(): [number, string][] {
    return this.seats.flatMap(({ lower }) =>
      lower.trouble ? [[lower.angle.id, lower.trouble] as [number, string]] : [],
    );
  }

  dispose() {
    for (const seat of this.seats) this.close(seat);
    this.seats = [];
  }
}
