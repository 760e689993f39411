/** The group clock: what the ear hears now, in seconds on the axis. The sound hardware's clock is master. */
export class GroupClock {
  private playing = false;
  private axis = 0;
  private since = 0;
  /** Sound time minus page time; the largest seen lately, since sound time is read in steps and late. */
  private lead = -Infinity;
  private leadAge = 0;

  constructor(readonly sound: AudioContext) {}

  get isPlaying() {
    return this.playing;
  }

  /** Sound time now, smooth between the hardware's steps. */
  private soundNow(): number {
    const page = performance.now() / 1000;
    const lead = this.sound.currentTime - page;
    if (lead > this.lead || page - this.leadAge > 2) {
      this.lead = lead;
      this.leadAge = page;
    }
    return page + this.lead;
  }

  /** Seconds on the axis that are being heard. */
  now(): number {
    if (!this.playing) return this.axis;
    const heard = this.soundNow() - (this.sound.outputLatency || 0);
    return this.axis + Math.max(0, heard - this.since);
  }

  /** Starts at `axis`; returns the sound time at which it is to be heard. */
  start(axis: number): number {
    this.axis = axis;
    this.lead = -Infinity;
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
