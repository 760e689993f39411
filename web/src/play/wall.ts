import type { Angle, AnglePart, Group } from '../api/types';
import type { Run } from '../model/coverage';
import type { Lut } from '../model/lut';
import { BLACK, only, type OnAir } from '../model/onAir';
import { takenOut } from '../model/seam';
import { GroupClock } from './clock';
import { OverFeeds, type OverShown } from './over';
import { Painter } from './painter';
import { AngleFeed, pictureTime } from './picture';
import { SoundFeed, type HeardFeed, type Voices } from './sound';

/** What the wall says of itself; another object each time something of it is another. */
export type WallState = {
  /** The frame on screen. */
  frame: number;
  playing: boolean;
  /** Share of frames shown late over the last seconds, 0 to 1. */
  late: number;
  /** Small pictures come from smaller copies, or now and then only: the machine cannot keep up with all of them. */
  light: false | 'smaller' | 'glances';
  /** Why an angle's picture cannot be shown, by its number; and the sound. */
  trouble: Readonly<Record<number, string>>;
  silent: string | null;
};

/** A wall that shows a greater share of its frames late is made lighter, where it does so for longer than a moment. */
const TOO_LATE = 0.1;
const COUNTED_MS = 2000;
const OFTEN = 2;

/** The longest play waits for its first pictures. */
const READY_MS = 400;

const wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** What runs while the wall is open. */
type Running = {
  context: AudioContext;
  clock: GroupClock;
  sounds: HeardFeed[];
  feeds: AngleFeed[];
  over: OverFeeds;
};

/** What is looked at in place of what the line shows: an angle, or the line without what lies over it. */
export type Look = { angle: number | null };

/** What is shown: angles on one clock, and the sound of the group. */
export type Shown = {
  axis_start_s: number;
  group: Pick<Group, 'start' | 'frames' | 'angles' | 'sound' | 'seams'>;
};

/** All angles of a group in step with its sound: one clock, one frame, every picture of that frame. */
export class Wall {
  private running: Running | null = null;
  private readonly small = new Map<number, HTMLCanvasElement>();
  private through: ReadonlyMap<number, Lut> = new Map();
  private readonly painter = new Painter(() => this.isPlaying);
  private large: HTMLCanvasElement | null = null;
  private onAir: (frame: number) => OnAir = () => only(BLACK);
  private over: readonly OverShown[] = [];
  private throughOver: ReadonlyMap<number, Lut> = new Map();
  private look: Look | null = null;
  private holes: readonly Run[] = [];
  private frame = 0;
  private state: WallState = {
    frame: 0,
    playing: false,
    late: 0,
    light: false,
    trouble: {},
    silent: null,
  };
  private readonly listeners = new Set<() => void>();
  private tick = 0;
  private speed = 0;
  /** Another number for every start and stop, so that a start that was overtaken ends by itself. */
  private wish = 0;
  private shuttleFrom = { time: 0, frame: 0 };
  private counted = { shown: 0, missed: 0, since: 0 };
  /** How often in a row too many came late. */
  private lateFor = 0;
  private readonly fps: number;
  private readonly frames: number;
  private readonly start: number;
  private readonly group: Shown['group'];

  /** `voices` makes what is heard of the sound that is opened; the group's own unless given. */
  constructor(
    view: Shown,
    private voices?: Voices,
  ) {
    this.group = view.group;
    this.fps = view.group.start.rate.num / view.group.start.rate.den;
    this.frames = view.group.frames;
    this.start = view.axis_start_s;
  }

  /** Calls `listener` whenever its state is another. */
  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  /** What it says of itself now. */
  readonly shown = () => this.state;

  private say(change: Partial<WallState>) {
    const same = Object.entries(change).every(
      ([name, value]) => this.state[name as keyof WallState] === value,
    );
    if (same) return;
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }

  private sayTrouble() {
    const found = this.feeds.flatMap(({ angle, trouble }) => (trouble ? [[angle.id, trouble] as const] : []));
    this.say({ trouble: Object.fromEntries([...found, ...(this.running?.over.troubles ?? [])]) });
  }

  /** Opens the sound and the pictures, and shows the frame it stands at. */
  open() {
    // At the rate of sound for pictures: its pieces then join sample to sample.
    const context = new AudioContext({ latencyHint: 'interactive', sampleRate: 48_000 });
    this.running = {
      context,
      clock: new GroupClock(context),
      sounds: this.speak(context),
      feeds: this.group.angles.map(
        (angle) =>
          new AngleFeed(
            angle,
            () => this.draw(),
            () => this.sayTrouble(),
          ),
      ),
      over: new OverFeeds(
        this.fps,
        () => this.draw(),
        () => this.sayTrouble(),
      ),
    };
    this.running.over.set(this.over);
    this.stand(this.frame);
  }

  private speak(context: AudioContext): HeardFeed[] {
    const silent = (why: string | null) => this.say({ silent: why });
    return (
      this.voices?.(context, silent) ?? [
        new SoundFeed(context, this.group.sound, context.destination, silent),
      ]
    );
  }

  /** Something else is heard; what plays goes on from where it is. */
  hear(voices: Voices | undefined) {
    this.voices = voices;
    const { running } = this;
    if (!running) return;
    for (const sound of running.sounds) sound.dispose();
    this.say({ silent: null });
    running.sounds = this.speak(running.context);
    if (running.clock.isPlaying) void this.play();
  }

  /** Ends play and lets everything go; can be opened again. */
  close() {
    this.halt();
    for (const feed of this.feeds) feed.dispose();
    this.running?.over.dispose();
    for (const sound of this.running?.sounds ?? []) sound.dispose();
    void this.running?.context.close();
    this.running = null;
  }

  /** Other places for the clips of its angles, by their numbers: what stands stays, what plays goes on from where it is. */
  lay(pictures: readonly Angle[], sounds: readonly Angle[]) {
    const lay = (feeds: (AngleFeed | HeardFeed)[], angles: readonly Angle[]) => {
      for (const feed of feeds) {
        const angle = angles.find(({ id }) => id === feed.angle?.id);
        if (angle) feed.angle = angle;
      }
    };
    lay(this.feeds, pictures);
    lay(this.running?.sounds ?? [], sounds);
    if (this.running?.clock.isPlaying) void this.play();
    else this.refresh();
  }

  private get feeds(): AngleFeed[] {
    return this.running?.feeds ?? [];
  }

  /** The frame on screen: what a key press refers to. */
  get shownFrame(): number {
    return this.frame;
  }

  get isPlaying(): boolean {
    return !!this.running?.clock.isPlaying || this.speed !== 0;
  }

  /** Gives an angle its small canvas. */
  setSmall(angle: number, canvas: HTMLCanvasElement | null) {
    if (canvas) {
      this.small.set(angle, canvas);
      const feed = this.feeds.find((own) => own.angle.id === angle);
      if (feed && !this.isPlaying) feed.seek(this.frame, this.middle(this.frame));
    } else this.small.delete(angle);
  }

  /** Gives the line its large canvas. */
  setLarge(canvas: HTMLCanvasElement | null) {
    this.large = canvas;
    if (canvas) this.draw();
  }

  /** Another rule for which angle is on air. */
  setOnAir(onAir: (frame: number) => OnAir) {
    this.onAir = onAir;
    // What is on air now may be of another page.
    if (!this.isPlaying)
      for (const feed of this.feeds)
        if (this.isOnAir(feed) && !this.small.has(feed.angle.id))
          feed.seek(this.frame, this.middle(this.frame));
    this.draw();
  }

  /** What lies over the line, in order. */
  setOver(over: readonly OverShown[]) {
    this.over = over;
    this.running?.over.set(over);
    if (!this.isPlaying) this.running?.over.seek(this.frame, this.middle(this.frame));
    if (this.large) this.painter.forget(this.large);
    this.draw();
  }

  /** Something else is looked at, as long as it is not `null`: nothing is changed by it. */
  setLook(look: Look | null) {
    if (look?.angle === this.look?.angle && !look === !this.look) return;
    this.look = look;
    if (this.large) this.painter.forget(this.large);
    this.setOnAir(this.onAir);
  }

  private airAt(frame: number): OnAir {
    return this.look?.angle == null ? this.onAir(frame) : only(this.look.angle);
  }

  /** What angles are seen through, by their numbers, and what clips over the line are, by theirs; others as they are. */
  setThrough(through: ReadonlyMap<number, Lut>, over: ReadonlyMap<number, Lut> = new Map()) {
    this.through = through;
    this.throughOver = over;
    for (const canvas of [...this.small.values(), this.large]) if (canvas) this.painter.forget(canvas);
    this.draw();
  }

  private middle(frame: number): number {
    // The clock runs on over a piece that is taken out; clips do not.
    return this.start + (frame + 0.5 + takenOut(this.group, frame)) / this.fps;
  }

  /** The frame of its clip that a part shows at a frame. */
  clipFrame(part: AnglePart, frame: number): number {
    return Math.floor((pictureTime(part, this.middle(frame)) * part.rate.num) / part.rate.den + 1e-6);
  }

  /** Play goes on behind these frames where it comes to them. */
  setHoles(holes: readonly Run[]) {
    this.holes = holes;
  }

  private isOnAir({ angle }: AngleFeed): boolean {
    const { angle: air, coming } = this.airAt(this.frame);
    return angle.id === air || angle.id === coming?.out;
  }

  /** Whether anybody looks at an angle: what is on another page is not decoded. */
  private isSeen(feed: AngleFeed): boolean {
    return this.small.has(feed.angle.id) || (this.large !== null && this.isOnAir(feed));
  }

  /** All pictures at all frames, or small ones from smaller copies, or now and then. */
  setLight(light: WallState['light']) {
    this.say({ light, late: 0 });
    this.lateFor = 0;
    this.counted = { shown: 0, missed: 0, since: performance.now() };
  }

  private clamp(frame: number): number {
    return Math.max(0, Math.min(this.frames - 1, frame));
  }

  /** Stands still at a frame. */
  seek(frame: number) {
    this.halt();
    this.stand(frame);
  }

  /** Fetches the frame on screen again: more proxies are ready. */
  refresh() {
    if (!this.isPlaying) this.stand(this.frame);
  }

  private stand(frame: number) {
    this.frame = this.clamp(frame);
    this.running?.clock.stop(this.start + this.frame / this.fps);
    for (const feed of this.feeds) {
      if (this.isSeen(feed)) feed.seek(this.frame, this.middle(this.frame));
      else feed.rest();
    }
    if (this.large) this.running?.over.seek(this.frame, this.middle(this.frame));
    this.say({ frame: this.frame });
  }

  /** Plays from the frame on screen. */
  async play() {
    this.halt();
    const { running } = this;
    if (!running) return;
    const from = this.frame >= this.frames - 1 ? 0 : this.frame;
    this.frame = from;
    const seen = this.feeds.filter((feed) => this.isSeen(feed));
    for (const feed of seen) {
      feed.prepare(from, this.middle(from), this.state.light && !this.isOnAir(feed) ? 'small' : 'full');
    }
    const wish = ++this.wish;
    const axis = this.start + from / this.fps;
    const sounds = running.sounds.map((sound) => sound.prepare?.(axis));
    const over = this.large ? running.over.prepare(from, this.middle(from)) : null;
    await running.context.resume();
    // The sound waits a moment for the first pictures, so that play does not begin behind its clock.
    const first = [...seen.map((feed) => feed.ready), ...sounds, over];
    await Promise.race([Promise.all(first), wait(READY_MS)]);
    if (running !== this.running || wish !== this.wish) return;
    const when = running.clock.start(axis);
    for (const sound of running.sounds) void sound.play(axis, when);
    this.counted = { shown: 0, missed: 0, since: performance.now() };
    this.lateFor = 0;
    this.say({ playing: true });
    this.tick = requestAnimationFrame(this.step);
  }

  /** Runs silently at a multiple of the speed; negative runs back. */
  shuttle(speed: number) {
    this.halt();
    this.speed = speed;
    this.shuttleFrom = { time: performance.now(), frame: this.frame };
    this.say({ playing: true });
    this.tick = requestAnimationFrame(this.stepShuttle);
  }

  get shuttleSpeed(): number {
    return this.speed || (this.running?.clock.isPlaying ? 1 : 0);
  }

  pause() {
    if (!this.isPlaying) return;
    this.halt();
    this.stand(this.frame);
  }

  private halt() {
    this.wish++;
    const was = this.isPlaying;
    cancelAnimationFrame(this.tick);
    for (const sound of this.running?.sounds ?? []) sound.stop();
    this.speed = 0;
    this.running?.clock.stop(this.start + this.frame / this.fps);
    if (was) this.say({ playing: false });
  }

  private readonly step = () => {
    if (!this.running) return;
    const now = this.running.clock.now();
    const due = Math.floor((now - this.start) * this.fps + 1e-6);
    if (due >= this.frames) {
      this.halt();
      this.stand(this.frames - 1);
      return;
    }
    const frame = this.clamp(due);
    const hole = this.holes.find(({ from, to }) => frame >= from && frame < to);
    if (hole) {
      if (hole.to >= this.frames) this.pause();
      else {
        this.seek(hole.to);
        void this.play();
      }
      return;
    }
    if (frame !== this.frame || this.counted.shown === 0) {
      this.countLate(frame - this.frame);
      this.frame = frame;
      const axis = this.middle(frame);
      for (const feed of this.feeds) {
        if (!this.isSeen(feed)) feed.rest();
        else if (this.isOnAir(feed)) feed.advance(frame, axis);
        else if (this.state.light === 'glances') feed.glance(frame, axis, 'small');
        else feed.advance(frame, axis, this.state.light ? 'small' : 'full');
      }
      if (this.large) this.running.over.advance(frame, (own) => this.middle(own));
      this.draw();
      this.say({ frame });
    }
    if (this.large) {
      this.large.dataset['clock'] = String(((now - this.start) * this.fps).toFixed(3));
    }
    this.tick = requestAnimationFrame(this.step);
  };

  private readonly stepShuttle = (time: number) => {
    const moved = ((time - this.shuttleFrom.time) / 1000) * this.fps * this.speed;
    const frame = this.clamp(Math.round(this.shuttleFrom.frame + moved));
    if (frame !== this.frame) {
      this.frame = frame;
      for (const feed of this.feeds) if (this.isSeen(feed)) feed.seek(frame, this.middle(frame));
      if (this.large) this.running?.over.seek(frame, this.middle(frame));
      this.say({ frame });
    }
    if ((frame === 0 && this.speed < 0) || (frame === this.frames - 1 && this.speed > 0)) {
      this.pause();
      return;
    }
    this.tick = requestAnimationFrame(this.stepShuttle);
  };

  private countLate(step: number) {
    this.counted.shown++;
    this.counted.missed += Math.max(0, step - 1);
    const now = performance.now();
    if (now - this.counted.since > COUNTED_MS) {
      const late = this.counted.missed / (this.counted.shown + this.counted.missed);
      this.lateFor = late > TOO_LATE ? this.lateFor + 1 : 0;
      // The large picture and the sound never starve for the small ones.
      const lighter = this.lateFor >= OFTEN && this.small.size > 1;
      if (lighter) this.lateFor = 0;
      const { light } = this.state;
      this.say({ late, light: lighter ? (light ? 'glances' : 'smaller') : light });
      this.counted = { shown: 1, missed: 0, since: now };
    }
  }

  /** Draws what is ready for the frame on screen. */
  draw() {
    for (const feed of this.feeds) {
      const small = this.small.get(feed.angle.id);
      if (small) this.painter.paint(small, feed.picture, this.through.get(feed.angle.id));
    }
    const { large } = this;
    if (!large) return;
    const { angle, coming } = this.airAt(this.frame);
    large.dataset['frame'] = String(this.frame);
    large.dataset['angle'] = String(angle);
    large.dataset['out'] = coming ? String(coming.out) : '';
    const over = this.look ? null : (this.running?.over.at(this.frame, this.middle(this.frame)) ?? null);
    large.dataset['over'] = over ? String(over.layer) : '';
    if (over) {
      const lut = this.throughOver.get(over.clip);
      if (over.share === 0) this.painter.paint(large, over.lower, lut);
      else this.painter.mix(large, [over.lower, lut], [over.upper, lut], over.share);
      return;
    }
    const picture = (id: number) => this.feeds.find((feed) => feed.angle.id === id)?.picture ?? null;
    if (!coming) {
      this.painter.paint(large, picture(angle), this.through.get(angle));
      return;
    }
    const one = (id: number) => [picture(id), this.through.get(id)] as const;
    this.painter.mix(large, one(coming.out), one(angle), coming.share);
  }
}
