/** The sheet's time is elastic: a row is as tall as it needs to be read, and zoom stretches all. */
import type { Verdict } from '../api/types';
import { depth, momentAtDepth, partsOf } from './folds';
import type { Band, Slip } from './sheet';

/** A band on its row: where it begins there and how tall it is, in pixels; a second of it is so many, before it is stretched. */
export type BandAt = { band: Band; top: number; height: number; scale: number };

/** One row of the sheet: a band, or several that are too short to stand alone. */
export type Row = {
  /** Its upper edge, without the seam before it. */
  top: number;
  height: number;
  bands: BandAt[];
  /** Seconds in which nothing ran before it, where a seam says so. */
  seam: number | null;
  /** The scene that begins with it. */
  scene: string | null;
  /** The shoot day that begins with it, where there are several. */
  day: string | null;
};

export type Laid = { rows: Row[]; height: number };

/** Slips of one device where they are drawn: one by one, side by side, or many as one. */
export type Drawn =
  | { one: Slip; top: number; height: number; lane: number; lanes: number; parts: DrawnPart[] }
  | { many: Slip[]; top: number; height: number };

/** A part of a slip: folded, or seconds of it from its beginning, and where it is drawn on it. */
export type DrawnPart = { from_s: number; to_s: number; top: number; height: number; folded: boolean };

/** Pixels a second: from weeks in a window to single frames. */
export const SCALES = { least: 0.0005, most: 800 } as const;

/** The lowest row, and the space above and below its slips. */
const ROW = 64;
export const PAD = 6;
/** A band lower than this joins the next ones. */
const LOW = 20;
/** The least a band takes of a row it shares. */
const SHARE = 3;
/** A seam with its margins; where nothing is said, the gap between rows. */
export const SEAM = 41;
const GAP = 8;
/** The heading of a shoot day, or a scene. */
export const HEADING = 30;
/** A slip is no lower than its name. */
export const LEAST = 20;
/** Slips of one device that ran at once stand side by side, so many. */
const LANES = 3;

const span = (band: Band) => Math.max(band.to - band.from, 1e-3);
/** How tall a band is, before it is stretched to its row. */
const tallOf = (band: Band, scale: number) => Math.max(depth(band, band.to, scale), 1e-3 * scale);

/** Lays bands out at so many pixels a second. */
export function lay(bands: readonly Band[], scale: number): Laid {
  const rows: Row[] = [];
  let [y, before] = [0, null as number | null];
  let [scene, day] = ['', ''];
  let open: { bands: Band[]; inner: number; low: boolean } | null = null;
  const close = () => {
    if (!open) return;
    const inner = Math.max(ROW - 2 * PAD, open.inner);
    const stretch = inner / open.inner;
    const first = open.bands[0] as Band;
    const pause = before === null ? null : first.from - before;
    // Far out, where rows hold hours, what lay between them says nothing.
    const shared = open.bands.length > 1 || (rows.at(-1)?.bands.length ?? 0) > 1;
    const seam = pause !== null && Math.abs(pause) >= 1 && !shared ? pause : null;
    if (rows.length > 0) y += seam === null ? GAP : SEAM;
    // Far out a row says itself which scenes it holds.
    const dawns = !shared && first.day !== '' && first.day !== day ? first.day : null;
    const isOther = dawns !== null || first.scene !== scene;
    const begins = !shared && first.scene !== '' && isOther ? first.scene : null;
    if (begins !== null || dawns !== null) y += HEADING;
    day = open.bands.findLast((band) => band.day !== '')?.day ?? day;
    scene = open.bands.findLast((band) => band.scene !== '')?.scene ?? scene;
    let top = PAD;
    const laid = open.bands.map((band) => {
      const height = Math.max(tallOf(band, scale), open?.low ? SHARE : 0) * stretch;
      const at = { band, top, height, scale };
      top += height;
      return at;
    });
    rows.push({
      top: y,
      height: inner + 2 * PAD,
      bands: laid,
      seam: rows.length > 0 ? seam : null,
      scene: begins,
      day: dawns,
    });
    y += inner + 2 * PAD;
    before = Math.max(...open.bands.map((band) => band.to));
    open = null;
  };
  for (const band of bands) {
    const height = tallOf(band, scale);
    const low = height < LOW;
    if (open && low && open.low && open.inner < ROW - 2 * PAD) {
      open.bands.push(band);
      open.inner += Math.max(height, SHARE);
      continue;
    }
    close();
    open = { bands: [band], inner: Math.max(height, low ? SHARE : 0), low };
  }
  close();
  return { rows, height: y };
}

/** How far down its row a moment of a band lies. */
export const yIn = ({ band, top, height, scale }: BandAt, moment: number) =>
  top + (depth(band, moment, scale) / tallOf(band, scale)) * height;

/** The moment of a band that lies so far down its row; above and below it its time goes on. */
export const momentIn = ({ band, top, height, scale }: BandAt, y: number) =>
  momentAtDepth(band, ((y - top) / Math.max(height, 1e-6)) * tallOf(band, scale), scale);

/** Pixels a second of a band, where it is not folded. */
export const paceOf = ({ band, height, scale }: BandAt) => (height / tallOf(band, scale)) * scale;

/** A moment of a band, for keeping it where it is while the scale changes. */
export type Anchor = { band: Band; share: number };

/** What lies so far down the sheet. */
export function anchorAt({ rows }: Laid, y: number): Anchor | null {
  const row = rows.findLast((one) => one.top <= y) ?? rows[0];
  if (!row) return null;
  const inner = y - row.top;
  const at = row.bands.findLast((one) => one.top <= inner) ?? row.bands[0];
  if (!at) return null;
  const share = (momentIn(at, inner) - at.band.from) / span(at.band);
  return { band: at.band, share: Math.min(1, Math.max(0, share)) };
}

/** The moment that lies so far down the sheet; above and below a band its time goes on. */
export function momentAt({ rows }: Laid, y: number): { band: Band; at: number; scale: number } | null {
  const row = rows.findLast((one) => one.top <= y) ?? rows[0];
  if (!row) return null;
  const own = row.bands.findLast((one) => one.top <= y - row.top) ?? row.bands[0];
  if (!own) return null;
  return { band: own.band, at: momentIn(own, y - row.top), scale: paceOf(own) };
}

/** How far down the sheet an anchor lies. */
export function placeOf({ rows }: Laid, anchor: Anchor): number {
  for (const row of rows) {
    const at = row.bands.find(({ band }) => band === anchor.band);
    if (at) return row.top + yIn(at, at.band.from + anchor.share * span(at.band));
  }
  return 0;
}

/** Draws the slips of one device in a row: none over another. In a row that bands share they are one. */
export function pack(bands: readonly BandAt[], device: number): Drawn[] {
  const last = bands.at(-1);
  if (last && bands.length > 1) {
    const many = bands.flatMap(({ band }) => band.slips.filter(({ clip }) => clip.device === device));
    return many.length > 0 ? [{ many, top: PAD, height: last.top + last.height - PAD }] : [];
  }
  const placed = bands
    .flatMap((at) =>
      at.band.slips
        .filter(({ clip }) => clip.device === device)
        .map((slip) => ({ slip, at, top: yIn(at, slip.from), bottom: yIn(at, slip.to) })),
    )
    .sort((a, b) => a.top - b.top);
  type Open = { slips: typeof placed; bottom: number };
  const found: Open[] = [];
  for (const own of placed) {
    const before = found.at(-1);
    // A long one can begin a little later than it did, so that the short one before it has its name.
    const room =
      before !== undefined && own.bottom - before.bottom >= LEAST && !atOnce(before.slips, own.slip);
    if (!before || own.top >= before.bottom - 0.5 || room) {
      const top = Math.max(own.top, before?.bottom ?? -Infinity);
      found.push({ slips: [{ ...own, top }], bottom: Math.max(own.bottom, top + LEAST) });
    } else {
      before.slips.push(own);
      before.bottom = Math.max(before.bottom, own.bottom);
    }
  }
  return found.flatMap(({ slips, bottom }): Drawn[] => {
    const [first] = slips;
    if (!first) return [];
    const tall = slips.every((one) => one.bottom - one.top >= LEAST);
    if (slips.length === 1 || (tall && slips.length <= LANES)) {
      return slips.map(({ slip, at, top, bottom: end }, lane) => ({
        one: slip,
        top,
        height: Math.max(end - top, LEAST),
        parts: drawnParts(at, slip, top),
        lane,
        lanes: slips.length,
      }));
    }
    return [{ many: slips.map(({ slip }) => slip), top: first.top, height: bottom - first.top }];
  });
}

/** The parts of a slip that begins so far down its row; none where nothing of it is folded. */
function drawnParts(at: BandAt, slip: Slip, top: number): DrawnPart[] {
  const parts = partsOf(at.band, slip.from, slip.to);
  if (parts.every(({ folded }) => !folded)) return [];
  return parts.map(({ from, to, folded }) => ({
    from_s: from - slip.from,
    to_s: to - slip.from,
    top: yIn(at, from) - top,
    height: yIn(at, to) - yIn(at, from),
    folded,
  }));
}

/** Whether one of these ran when the other did. */
function atOnce(slips: { slip: Slip }[], { from }: Slip): boolean {
  return slips.some(({ slip }) => slip.to - from > 0.1);
}

/** A scale at which half of the slips are tall enough to be read. */
export function readable(bands: readonly Band[]): number {
  const lengths = bands.flatMap(({ slips }) => slips.map(({ from, to }) => to - from)).sort((a, b) => a - b);
  const middle = lengths[Math.floor(lengths.length / 2)] ?? 60;
  return Math.min(4, Math.max(0.02, 72 / Math.max(middle, 1)));
}

/** A scale at which all of the sheet is about so tall. */
export function wholeIn(bands: readonly Band[], height: number): number {
  let [low, high]: [number, number] = [SCALES.least, SCALES.most];
  for (let i = 0; i < 24; i++) {
    const middle = Math.sqrt(low * high);
    if (lay(bands, middle).height > height) high = middle;
    else low = middle;
  }
  return low;
}

const STEPS = [0.04, 0.2, 1, 2, 5, 10, 30, 60, 120, 300, 600, 1800, 3600, 7200, 14_400];

/** Moments for a ruler between two, at least so many pixels apart. */
export function ruler(from: number, to: number, scale: number, apart = 56): { at: number; step: number }[] {
  const step = STEPS.find((one) => one * scale >= apart) ?? 86_400 * Math.ceil(apart / scale / 86_400);
  const marks = [];
  for (let at = Math.ceil(from / step) * step; at <= to && marks.length < 400; at += step)
    marks.push({ at, step });
  return marks;
}

/** A piece of a tall slip: seconds from its beginning, and where it is drawn. */
export type Piece = { from_s: number; to_s: number; top: number; height: number };

/** A piece is no taller than this, and no lower than half of it, pixels. */
const PIECE = 800;

/**
 * The pieces of a slip of so many seconds and pixels that lie between two heights of it. Their lengths are powers of two of a
 * second, so that the same ones serve while the scale changes a little.
 */
export function pieces(seconds: number, height: number, sight: { from: number; to: number }): Piece[] {
  const scale = height / Math.max(seconds, 1e-3);
  const length = 2 ** Math.floor(Math.log2(PIECE / scale));
  const first = Math.max(0, Math.floor(sight.from / scale / length));
  const past = Math.ceil(Math.min(sight.to / scale, seconds) / length);
  return Array.from({ length: Math.max(0, past - first) }, (_, i) => {
    const from_s = (first + i) * length;
    const to_s = Math.min(seconds, from_s + length);
    return { from_s, to_s, top: from_s * scale, height: (to_s - from_s) * scale };
  });
}

/** How many of some slips have each verdict. */
export function verdicts(slips: readonly Slip[]): Map<Verdict, number> {
  const counts = new Map<Verdict, number>();
  for (const { placed } of slips) {
    if (placed) counts.set(placed.placement.verdict, (counts.get(placed.placement.verdict) ?? 0) + 1);
  }
  return counts;
}
