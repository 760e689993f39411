import type { VideoSample } from 'mediabunny';
import type { Lut } from '../model/lut';

/** A picture, and what it is seen through. */
type Seen = readonly [VideoSample | null, Lut | undefined];

/** Draws pictures into canvases: what is drawn already is not drawn again. */
export class Painter {
  /** Where pictures are worked on that are seen through something. */
  private scratch: CanvasRenderingContext2D | null = null;
  private readonly drawn = new WeakMap<HTMLCanvasElement, { picture: VideoSample; fine: boolean }>();

  constructor(private readonly isPlaying: () => boolean) {}

  /** What is in a canvas is to be drawn anew. */
  forget(canvas: HTMLCanvasElement) {
    this.drawn.delete(canvas);
  }

  /** One over the other: what goes, and as much as has come of what comes. */
  mix(canvas: HTMLCanvasElement, out: Seen, into: Seen, share: number) {
    this.drawn.delete(canvas);
    this.paint(canvas, ...out);
    this.drawn.delete(canvas);
    this.paint(canvas, ...into, share);
    this.drawn.delete(canvas);
  }

  /** A picture where it fits best, seen through something; nothing is dark. */
  paint(canvas: HTMLCanvasElement, picture: VideoSample | null, lut: Lut | undefined, alpha = 1) {
    const context = canvas.getContext('2d', { alpha: false });
    if (!context) return;
    context.globalAlpha = alpha;
    if (!picture) {
      this.drawn.delete(canvas);
      context.fillStyle = '#0e1110';
      context.fillRect(0, 0, canvas.width, canvas.height);
      return;
    }
    // Worked out finely where it stands: in motion the steps are not seen.
    const fine = !lut || !this.isPlaying();
    const drawn = this.drawn.get(canvas);
    if (drawn?.picture === picture && (drawn.fine || !fine)) return;
    this.drawn.set(canvas, { picture, fine });
    const scale = Math.min(canvas.width / picture.displayWidth, canvas.height / picture.displayHeight);
    const [width, height] = [picture.displayWidth * scale, picture.displayHeight * scale];
    const place = [(canvas.width - width) / 2, (canvas.height - height) / 2, width, height] as const;
    if (!lut) {
      picture.draw(context, ...place);
      return;
    }
    // No larger than it is: a light copy has less than a screen.
    const size = [
      Math.max(1, Math.round(Math.min(width, picture.displayWidth))),
      Math.max(1, Math.round(Math.min(height, picture.displayHeight))),
    ] as const;
    this.scratch ??= document.createElement('canvas').getContext('2d', { willReadFrequently: true });
    if (!this.scratch) return;
    const { canvas: own } = this.scratch;
    if (own.width !== size[0] || own.height !== size[1]) [own.width, own.height] = size;
    picture.draw(this.scratch, 0, 0, ...size);
    const pixels = this.scratch.getImageData(0, 0, ...size);
    lut.apply(pixels.data, !fine);
    this.scratch.putImageData(pixels, 0, 0);
    context.drawImage(own, ...place);
  }
}
