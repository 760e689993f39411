/** The sound grid as it is shown: what goes where, in words and numbers. */
import type { Crosspoint, GridSource, GridView, TrackKey } from '../api/types';
import { isLayerDevice } from './over';

/** Levels that a crosspoint can have, dB. */
export const LOUDEST = 12;
export const SOFTEST = -60;

const same = (one: TrackKey, other: TrackKey) =>
  one.device === other.device &&
  one.name === other.name &&
  one.channel === other.channel &&
  one.lane === other.lane;

/** Where a track goes to an output, if it ever did. */
export const pointOf = (view: GridView, source: TrackKey, output: number): Crosspoint | undefined =>
  view.grid.points.find((point) => point.output === output && same(point.source, source));

/** Whether a track is silent by choice. */
export const isMuted = (view: GridView, source: TrackKey) => view.grid.muted.some((own) => same(own, source));

/** A level as it is written: with its sign, to a tenth where it is not whole. */
export const levelSaid = (db: number) => {
  const text = Math.abs(db).toFixed(Number.isInteger(db) ? 0 : 1);
  if (db === 0) return '0';
  return `${db < 0 ? '−' : '+'}${text}`;
};

/** Another level, so much louder, within what can be. */
export const louder = (db: number, by: number) =>
  Math.round(Math.max(SOFTEST, Math.min(LOUDEST, db + by)) * 10) / 10;

/** The tracks that can go somewhere; those of layers, which only the line lets be heard, are behind them. */
export const rowsOf = ({ sources }: Pick<GridView, 'sources'>): GridSource[] =>
  sources.filter(({ key }) => !isLayerDevice(key.device));

/** Tracks that go anywhere. */
export const heardOf = ({ factors, sources }: GridView): number[] =>
  sources.flatMap((_, i) => (factors.some((row) => (row[i] ?? 0) !== 0) ? [i] : []));

/** What is heard, in words. */
export function gridSaid(view: GridView, alone: number | null): string {
  if (alone !== null) return `${view.sources[alone]?.name ?? ''} alone`;
  const names = heardOf(view).map((i) => view.sources[i]?.name ?? '');
  if (names.length === 0) return 'nothing: no track goes anywhere';
  const outputs = view.grid.outputs.filter((output) => !output.muted).map(({ name }) => name);
  const heard = names.length > 3 ? `${names.length} tracks` : names.join(', ');
  return outputs.length > 3 ? heard : `${heard} on ${outputs.join(', ')}`;
}

/** Where a grid comes from, in words. */
export const originSaid = ({ origin }: GridView): string =>
  origin.from === 'own'
    ? 'This group’s own.'
    : origin.from === 'usual'
      ? `“${origin.name}”, as all groups that have none of their own.`
      : 'As the recorders mixed it: nobody chose otherwise yet.';

/** A track as a screen reader has it. */
export const sourceSaid = ({ name, device }: GridSource) =>
  name.includes(device) ? name : `${device} ${name}`;

/** The next track alone, and behind the last one all of them by the grid. */
export const nextAlone = (view: GridView, alone: number | null): number | null => {
  const next = (alone ?? -1) + 1;
  return next < rowsOf(view).length ? next : null;
};

/** A height from 0 to 1 for a loudest sample: from −60 dB to full scale. */
export const meterHeight = (peak: number) =>
  peak <= 0 ? 0 : Math.max(0, Math.min(1, 1 + (20 * Math.log10(peak)) / 60));
