import type { VideoSample } from 'mediabunny';
import type { Angle, Group } from '../api/types';
import { GroupClock } from './clock';
import { AngleFeed } from './picture';
import { SoundFeed, type HeardFeed, type Voices } from './sound';

/** What the wall says of itself; another object each time something of it is another. */
export type WallState = {
  /** The frame on screen. */
  frame: number;
  playing: boolean;
  /** Share of frames shown late over the last seconds, 0 to 1. */
  late: number;
  /** Why an angle's picture cannot be shown, by its number; and the sound. */
  trouble: Readonly<Record<number, string>>;
  silent: string | null;
};

/** The longest play waits for its first pictures. */
const READY_MS = 400;

const wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** What runs while the wall is open. */
type Running = { context: AudioContext; clock: GroupClock; sounds: HeardFeed[]; feeds: AngleFeed[] };

/** What is shown: angles on one clock, and the sound of the group. */
export type Shown = {
  axis_start_s: number;
  group: Pick<Group, 'start' | 'frames' | 'angles' | 'sound'>;
};

/** All angles of a group in step with its sound: one clock, one frame, every picture of that frame. */
export class Wall {
  private running: Running | null = null;
  private readonly small = new Map<number, HTMLCanvasElement>();
  private readonly drawn = new WeakMap<HTMLCanvasElement, VideoSample>();
  private large: HTMLCanvasElement | null = null;
  private onAir: (frame: number) => number = () => -1;
  private frame = 0;
  private state: WallState = { frame: 0, playing: false, late: 0, trouble: {}, silent: null };
  private readonly listeners = new Set<() => void>();
  private tick = 0;
  private speed = 0;
  /** Another number for every start and stop, so that a start that was overtaken ends by itself. */
  private wish = 0;
  private shuttleFrom = { time: 0, frame: 0 };
  private counted = { shown: 0, missed: 0, since: 0 };
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
    this.say({ trouble: Object.fromEntries(found) });
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
    };
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
    if (canvas) this.small.set(angle, canvas);
    else this.small.delete(angle);
  }

  /** Gives the line its large canvas. */
  setLarge(canvas: HTMLCanvasElement | null) {
    this.large = canvas;
  }

  /** Another rule for which angle is on air. */
  setOnAir(onAir: (frame: number) => number) {
    this.onAir = onAir;
    this.draw();
  }

  private middle(frame: number): number {
    return this.start + (frame + 0.5) / this.fps;
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
    for (const feed of this.feeds) feed.seek(this.frame, this.middle(this.frame));
    this.say({ frame: this.frame });
  }

  /** Plays from the frame on screen. */
  async play() {
    this.halt();
    const { running } = this;
    if (!running) return;
    const from = this.frame >= this.frames - 1 ? 0 : this.frame;
    this.frame = from;
    for (const feed of this.feeds) feed.prepare(from, this.middle(from));
    const wish = ++this.wish;
    const axis = this.start + from / this.fps;
    const sounds = running.sounds.map((sound) => sound.prepare?.(axis));
    await running.context.resume();
    // The sound waits a moment for the first pictures, so that play does not begin behind its clock.
    await Promise.race([Promise.all([...this.feeds.map((feed) => feed.ready), ...sounds]), wait(READY_MS)]);
    if (running !== this.running || wish !== this.wish) return;
    const when = running.clock.start(axis);
    for (const sound of running.sounds) void sound.play(axis, when);
    this.counted = { shown: 0, missed: 0, since: performance.now() };
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
    if (frame !== this.frame || this.counted.shown === 0) {
      this.countLate(frame - this.frame);
      this.frame = frame;
      const axis = this.middle(frame);
      for (const feed of this.feeds) feed.advance(frame, axis);
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
      for (const feed of this.feeds) feed.seek(frame, this.middle(frame));
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
    if (now - this.counted.since > 2000) {
      this.say({ late: this.counted.missed / (this.counted.shown + this.counted.missed) });
      this.counted = { shown: 1, missed: 0, since: now };
    }
  }

  /** Draws what is ready for the frame on screen. */
  draw() {
    const air = this.onAir(this.frame);
    for (const feed of this.feeds) {
      const small = this.small.get(feed.angle.id);
      if (small) this.paint(small, feed.picture);
      if (feed.angle.id === air && this.large) {
        this.large.dataset['frame'] = String(this.frame);
        this.large.dataset['angle'] = String(air);
        this.paint(this.large, feed.picture);
      }
    }
  }

  private paint(canvas: HTMLCanvasElement, picture: VideoSample | null) {
    const context = canvas.getContext('2d', { alpha: false });
    if (!context) return;
    if (!picture) {
      this.drawn.delete(canvas);
      context.fillStyle = '#0e1110';
      context.fillRect(0, 0, canvas.width, canvas.height);
      return;
    }
    if (this.drawn.get(canvas) === picture) return;
    this.drawn.set(canvas, picture);
    const scale = Math.min(canvas.width / picture.displayWidth, canvas.height / picture.displayHeight);
    const width = picture.displayWidth * scale;
    const height = picture.displayHeight * scale;
    picture.draw(context, (canvas.width - width) / 2, (canvas.height - height) / 2, width, height);
  }
}
