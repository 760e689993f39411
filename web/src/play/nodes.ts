/** What is asked for sooner than this from now is heard when it can be, nobody knows when exactly; seconds. */
const SAFE_S = 0.1;

/** Pieces of sound that are heard, or will be soon. */
export class Nodes {
  private readonly all = new Set<AudioBufferSourceNode>();

  /**
   * Starts `length` seconds of a node's buffer from `head` on, at a moment of the sound's time. Of what comes too late the
   * beginning is left out: what is heard is in step all the same.
   */
  start(node: AudioBufferSourceNode, at: number, head: number, length: number) {
    const begin = Math.max(at, node.context.currentTime + SAFE_S);
    const passed = (begin - at) * node.playbackRate.value;
    if (passed >= length) return;
    node.onended = () => this.all.delete(node);
    this.all.add(node);
    node.start(begin, head + passed, length - passed);
  }

  /** Ends them all. */
  stop() {
    for (const node of this.all) node.stop();
    this.all.clear();
  }
}
