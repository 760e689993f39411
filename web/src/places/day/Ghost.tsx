import type { Day } from '../../api/day';
import type { DeviceView } from '../../api/types';
import { yIn } from '../../model/elastic';
import { clock } from '../../model/format';
import { stem } from '../../model/names';
import { columns } from './columns';
import type { Rough } from './useRough';
import type { SheetView } from './useSheet';

type Props = { day: Day; view: SheetView; devices: DeviceView[]; rough: Rough };

/** A clip where a hand put it: an outline over the sheet, in the column of its device. */
export function Ghost({ day, view, devices, rough }: Props) {
  const clip = day.clips.find(({ id }) => id === rough.clip);
  const row = view.laid.rows.find(({ bands }) => bands.some(({ band }) => band === rough.band));
  const own = row?.bands.find(({ band }) => band === rough.band);
  const column = devices.findIndex(({ id }) => id === clip?.device);
  if (!clip || !row || !own || column < 0) return null;
  const height = yIn(own, rough.at + clip.facts.duration_s) - yIn(own, rough.at);
  return (
    <div
      className="pointer-events-none absolute right-0 left-0 z-20 grid pr-3 pl-2"
      style={{ ...columns(devices), top: row.top + yIn(own, rough.at), height: Math.max(height, 20) }}
      data-testid="rough"
    >
      <div
        className="mr-1.5 ml-1 overflow-hidden border-2 border-dashed border-accent bg-sheet/80 pl-1 text-[12px]"
        style={{ gridColumn: column + 2 }}
      >
        <span className="num block truncate">{stem(clip)}</span>
        <span className="num block truncate text-[11px]">{clock(rough.at, 2)}</span>
      </div>
    </div>
  );
}
