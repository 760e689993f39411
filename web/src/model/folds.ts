/** Long stretches of a band in which no two devices ran, or none with a picture: they are folded, by choice. */

/** A folded stretch, in seconds of the day, and the devices that ran. */
export type Fold = { from: number; to: number; devices: number[] };

/** Shorter ones are not worth it, seconds. */
const LONG = 60;
/** How tall a folded stretch is, and what the names at the head of a band need beside it, pixels. */
export const FOLDED = 24;
export const NAMES = 40;

type Ran = { device: number; picture: boolean; from: number; to: number };

/** The folds of what ran together. */
export function foldsOf(ran: readonly Ran[]): Fold[] {
  const edges = [...new Set(ran.flatMap(({ from, to }) => [from, to]))].sort((a, b) => a - b);
  const folds: Fold[] = [];
  edges.slice(1).forEach((to, i) => {
    const from = edges[i] ?? to;
    const now = ran.filter((one) => one.from < to && one.to > from);
    const devices = [...new Set(now.map(({ device }) => device))].sort((a, b) => a - b);
    if (devices.length > 1 && now.some(({ picture }) => picture)) return;
    const last = folds.at(-1);
    if (last?.to === from) {
      last.to = to;
      last.devices = [...new Set([...last.devices, ...devices])].sort((a, b) => a - b);
    } else folds.push({ from, to, devices });
  });
  return folds.filter(({ from, to }) => to - from >= LONG);
}

type Folding = { from: number; to: number; folds: readonly Fold[] };

/** How tall a fold is where a second is so many pixels: at the head of a band are the names. */
const foldTall = (band: Folding, { from, to }: Fold, scale: number) =>
  Math.min((to - from) * scale, from === band.from ? FOLDED + NAMES : FOLDED);

/** How far below its beginning a moment of a band lies where a second is so many pixels. */
export function depth(band: Folding, moment: number, scale: number): number {
  let y = (moment - band.from) * scale;
  for (const fold of band.folds) {
    const saved = (fold.to - fold.from) * scale - foldTall(band, fold, scale);
    const share = (moment - fold.from) / (fold.to - fold.from);
    y -= saved * Math.min(1, Math.max(0, share));
  }
  return y;
}

/** The moment of a band that lies so far below its beginning; beyond its ends its time goes on. */
export function momentAtDepth(band: Folding, y: number, scale: number): number {
  let [at, rest] = [band.from, y];
  for (const fold of band.folds) {
    const before = (fold.from - at) * scale;
    if (rest <= before) break;
    rest -= before;
    const tall = foldTall(band, fold, scale);
    if (rest <= tall) return fold.from + (rest / tall) * (fold.to - fold.from);
    rest -= tall;
    at = fold.to;
  }
  return at + rest / scale;
}

/** A part of a stretch of a band, folded or not. */
export type Part = { from: number; to: number; folded: boolean };

/** A stretch of a band in parts. */
export function partsOf(band: Folding, from: number, to: number): Part[] {
  const parts: Part[] = [];
  let at = from;
  for (const fold of band.folds) {
    if (fold.to <= from || fold.from >= to) continue;
    if (fold.from > at) parts.push({ from: at, to: fold.from, folded: false });
    at = Math.min(fold.to, to);
    parts.push({ from: Math.max(fold.from, from), to: at, folded: true });
  }
  if (at < to) parts.push({ from: at, to, folded: false });
  return parts;
}
