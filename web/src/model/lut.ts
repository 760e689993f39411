/** Viewing LUTs: what pictures are seen through, and how colours become others. */
import type { Angle, DeviceView } from '../api/types';

/** The key of what an angle is seen through: its own, else its device's; none where it is seen as recorded. */
export function throughOf(
  devices: readonly DeviceView[],
  { through, device }: Pick<Angle, 'through' | 'device'>,
): string | null {
  if (through === 'nothing') return null;
  if (through) return through.lut;
  return devices.find(({ id }) => id === device)?.lut ?? null;
}

/** Samples along an edge of what the server sends. */
const EDGE = 33;
/** Steps of a colour while pictures run: finer is not seen in motion. */
const STEPS = 64;

/** Samples of a LUT, ready to be applied to pictures. */
export class Lut {
  private coarse: Uint32Array | null = null;

  /** `samples`: red, green, blue and 255 of every colour, 33 along an edge, red changing fastest. */
  constructor(private readonly samples: Uint8Array) {
    if (samples.length !== EDGE ** 3 * 4) throw new Error('a viewing LUT came incomplete');
  }

  /** Writes what a colour of 0 to 255 becomes into `out` at `to`: between the eight samples around it. */
  private mix(r: number, g: number, b: number, out: Uint8ClampedArray, to: number) {
    const { samples } = this;
    const scale = (EDGE - 1) / 255;
    const [x, y, z] = [r * scale, g * scale, b * scale];
    const [x0, y0, z0] = [Math.min(x | 0, EDGE - 2), Math.min(y | 0, EDGE - 2), Math.min(z | 0, EDGE - 2)];
    const [fx, fy, fz] = [x - x0, y - y0, z - z0];
    const at = (x0 + EDGE * (y0 + EDGE * z0)) * 4;
    const [dy, dz] = [EDGE * 4, EDGE * EDGE * 4];
    for (let i = 0; i < 3; i++) {
      const own = at + i;
      const s = (step: number) => samples[own + step] ?? 0;
      const low = s(0) + (s(4) - s(0)) * fx;
      const low1 = s(dy) + (s(dy + 4) - s(dy)) * fx;
      const high = s(dz) + (s(dz + 4) - s(dz)) * fx;
      const high1 = s(dz + dy) + (s(dz + dy + 4) - s(dz + dy)) * fx;
      const near = low + (low1 - low) * fy;
      out[to + i] = near + (high + (high1 - high) * fy - near) * fz;
    }
  }

  private table(): Uint32Array {
    if (this.coarse) return this.coarse;
    const bytes = new Uint8ClampedArray(STEPS ** 3 * 4).fill(255);
    const middle = (step: number) => (step * 255) / (STEPS - 1);
    for (let number = 0; number < STEPS ** 3; number++) {
      const [r, g, b] = [number % STEPS, Math.floor(number / STEPS) % STEPS, Math.floor(number / STEPS ** 2)];
      this.mix(middle(r), middle(g), middle(b), bytes, number * 4);
    }
    this.coarse = new Uint32Array(bytes.buffer);
    return this.coarse;
  }

  /** Gives pixels (red, green, blue, alpha) their colours; quickly in steps of four where they run, else exactly. */
  apply(pixels: Uint8ClampedArray, running: boolean) {
    if (!running) {
      for (let at = 0; at < pixels.length; at += 4) {
        this.mix(pixels[at] ?? 0, pixels[at + 1] ?? 0, pixels[at + 2] ?? 0, pixels, at);
      }
      return;
    }
    const table = this.table();
    const words = new Uint32Array(pixels.buffer, pixels.byteOffset, pixels.length / 4);
    for (let at = 0; at < words.length; at++) {
      const own = words[at] ?? 0;
      // Six bits of each: red is the lowest byte.
      words[at] = table[((own >> 2) & 0x3f) | ((own >> 4) & 0xfc0) | ((own >> 6) & 0x3f000)] ?? 0;
    }
  }
}
