/** The playhead of an assembly, known at once: keys come faster than pictures. A store of its own, so that play draws only it. */
export class Place {
  private own: number;
  /** What was asked for and is not seen yet: until then older frames say nothing. */
  private asked: number | null = null;
  private readonly listeners = new Set<() => void>();

  constructor(frame: number) {
    this.own = frame;
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };

  /** Where it is, or will be. */
  readonly frame = () => this.own;

  /** A frame is asked for. */
  ask(frame: number) {
    this.asked = frame;
    this.put(frame);
  }

  /** A frame is seen. */
  seen(frame: number) {
    if (this.asked !== null && this.asked !== frame) return;
    this.asked = null;
    this.put(frame);
  }

  /** Whatever is seen next is where it is: play goes on, or another part begins. */
  free() {
    this.asked = null;
  }

  private put(frame: number) {
    if (this.own === frame) return;
    this.own = frame;
    for (const listener of this.listeners) listener();
  }
}
