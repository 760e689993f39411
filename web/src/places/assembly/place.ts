/** Where the playhead is meant to be, known at once: keys come faster than pictures. */
export class Place {
  private own: number;

  constructor(frame: number) {
    this.own = frame;
  }

  get frame(): number {
    return this.own;
  }

  stand(frame: number) {
    this.own = frame;
  }
}
