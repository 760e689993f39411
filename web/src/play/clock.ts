/** Seconds over which what was read of two clocks counts. */
const COUNTS_S = 2;

/**
 * How far one clock is ahead of another that is smooth. It is read in steps and late, never early: the most that was read
 * lately is right. What was read before the last `COUNTS_S` is forgotten, since clocks part; what was read within is not, or
 * the clock would jump back by a step.
 */
export class Lead {
  private before = -Infinity;
  private now = -Infinity;
  private since = 0;

  /** The lead at a moment of the smooth clock at which `read` was read. */
  at(moment: number, read: number): number {
    if (moment - this.since > COUNTS_S) {
      // After a long pause what was read before it is no longer true.
      this.before = moment - this.since > 2 * COUNTS_S ? -Infinity : this.now;
      this.now = -Infinity;
      this.since = moment;
    }
    this.now = Math.max(this.now, read);
    return Math.max(this.before, this.now);
  }

  forget() {
    this.before = this.now = -Infinity;
  }
}

/** The group clock: what the ear hears now, in seconds on the axis. The sound hardware's clock is master. */
export class GroupClock {
  private playing = false;
  private axis = 0;
  private since = 0;
  private readonly lead = new Lead();

  constructor(readonly sound: AudioContext) {}

  get isPlaying() {
    return this.playing;
  }

  /** The sound time that is being heard now, smooth between the hardware's steps. */
  private heardNow(): number {
    const page = performance.now() / 1000;
    const { contextTime = 0, performanceTime = 0 } = this.sound.getOutputTimestamp();
    if (performanceTime > 0) return contextTime + page - performanceTime / 1000;
    // Before anything was put out nobody knows when it will be heard.
    return page + this.lead.at(page, this.sound.currentTime - page) - (this.sound.outputLatency || 0);
  }

  /** Seconds on the axis that are being heard. */
  now(): number {
    if (!this.playing) return this.axis;
    return this.axis + Math.max(0, this.heardNow() - this.since);
  }

  /** Starts at `axis`; returns the sound time at which it is to be heard. */
  start(axis: number): number {
    this.axis = axis;
    this.lead.forget();
    this.since = this.sound.currentTime + 0.12;
    this.playing = true;
    return this.since;
  }

  /** Stands still at `axis`. */
  stop(axis: number) {
    this.playing = false;
    this.axis = axis;
  }
}
