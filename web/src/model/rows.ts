/** Clips as rows: filtered, sorted, spans as one row unless they are opened. */
import type { Day } from '../api/day';
import type { ClipView } from '../api/types';
import { COLUMNS, matches } from './columns';

export type Sort = { column: string; down: boolean } | null;

/** A row: a clip, the first of a closed span with all its files, or a file of an open one. */
export type Row = { clip: ClipView; span: ClipView[] | null; inside: boolean };

export function rowsOf(day: Day, filter: string, sort: Sort, open: ReadonlySet<number>): Row[] {
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const called = new Map(day.devices.map((device) => [device.id, `${device.letter} ${device.name}`]));
  const byId = new Map(day.clips.map((clip) => [clip.id, clip]));
  const spanOf = new Map<number, ClipView[]>();
  for (const span of day.spans) {
    const clips = span.clips.flatMap((id) => byId.get(id) ?? []);
    for (const clip of clips) spanOf.set(clip.id, clips);
  }
  const kept = day.clips.filter((clip) => matches(clip, called.get(clip.device) ?? '', words));
  const order = COLUMNS.find((column) => column.name === sort?.column)?.order;
  if (order) {
    const sign = sort?.down ? -1 : 1;
    kept.sort((a, b) => {
      const [x, y] = [order(a), order(b)];
      const less =
        typeof x === 'number' && typeof y === 'number'
          ? x - y
          : String(x).localeCompare(String(y), undefined, { numeric: true });
      return sign * less;
    });
  }
  const rows: Row[] = [];
  const seen = new Set<number>();
  for (const clip of kept) {
    const span = spanOf.get(clip.id);
    const first = span?.[0];
    if (!span || !first) rows.push({ clip, span: null, inside: false });
    else if (!seen.has(first.id)) {
      seen.add(first.id);
      rows.push({ clip: first, span, inside: false });
      if (open.has(first.id)) {
        for (const part of span) rows.push({ clip: part, span: null, inside: true });
      }
    }
  }
  return rows;
}
