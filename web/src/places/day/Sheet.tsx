import { useMemo, type PointerEvent } from 'react';
import type { Day } from '../../api/day';
import type { DeviceView } from '../../api/types';
import {
  HEADING,
  momentIn,
  pack,
  paceOf,
  placeOf,
  ruler,
  yIn,
  type BandAt,
  type Row,
} from '../../model/elastic';
import type { How } from '../../model/chosen';
import { FOLDED, type Fold } from '../../model/folds';
import type { Slip } from '../../model/sheet';
import { clock, pause } from '../../model/format';
import { lies, margin } from '../../model/island';
import { columns } from './columns';
import { Ghost } from './Ghost';
import type { Rough } from './useRough';
import { ManyCard, STAYS, SlipCard } from './Slip';
import { NOTCH, type SheetView } from './useSheet';

type Props = {
  day: Day;
  view: SheetView;
  devices: DeviceView[];
  /** Seconds by which clips moved since the pass that is compared. */
  moved: Map<number, number>;
  chosen: ReadonlySet<number>;
  onChoose: (clip: number, how: How) => void;
  onGrab: (slip: Slip, top: number, event: PointerEvent) => void;
  onScene: (scene: string) => void;
};

/** The rows that are in sight, each where it belongs on the sheet. */
export function Rows({ view, rough, ...props }: Props & { rough: Rough | null }) {
  return (
    <div className="relative" style={{ height: view.laid.height }}>
      {rough && <Ghost day={props.day} view={view} devices={props.devices} rough={rough} />}
      {view.rows.map((row) => (
        <SheetRow
          key={`${row.bands[0]?.band.component} ${row.bands[0]?.band.from}`}
          view={view}
          row={row}
          {...props}
        />
      ))}
    </div>
  );
}

function SheetRow({
  day,
  view,
  row,
  devices,
  moved,
  chosen,
  onChoose,
  onGrab,
  onScene,
}: Props & { row: Row }) {
  const { scale, inSight, zoomTo, box } = view;
  const sight = useMemo(
    () => ({ from: inSight.from - row.top, to: inSight.to - row.top }),
    [inSight, row.top],
  );
  const drawn = useMemo(
    () => devices.map((device) => ({ device, items: pack(row.bands, device.id) })),
    [devices, row.bands],
  );
  const [first] = row.bands;
  if (!first) return null;
  const isHeaded = row.scene !== null || row.day !== null;
  const closer = (y: number) => {
    const top = box?.scrollTop ?? 0;
    zoomTo(scale * NOTCH ** 6, row.top + y - top);
  };
  return (
    <>
      {row.seam !== null && <Seam top={row.top - (isHeaded ? HEADING : 0)} seconds={row.seam} />}
      {isHeaded && <Heading row={row} onScene={onScene} />}
      <div
        className="absolute right-0 left-0 grid bg-band pr-3 pl-2"
        style={{ ...columns(devices), top: row.top, height: row.height }}
      >
        <Margin day={day} row={row} sight={sight} />
        {drawn.map(({ device, items }) => (
          <div key={device.id} className="relative border-l border-line">
            {items
              .filter(({ top, height }) => top + height > sight.from && top < sight.to)
              .map((item) =>
                'one' in item ? (
                  <SlipCard
                    key={`${item.one.clip.id} ${item.one.part}`}
                    day={day}
                    slip={item.one}
                    top={item.top}
                    height={item.height}
                    lane={item.lane}
                    lanes={item.lanes}
                    parts={item.parts}
                    sight={sight}
                    moved={moved.get(item.one.clip.id) ?? 0}
                    scale={scale}
                    chosen={chosen.has(item.one.clip.id)}
                    onChoose={onChoose}
                    onGrab={(slip, top, event) => onGrab(slip, row.top + top, event)}
                  />
                ) : (
                  <ManyCard
                    key={`many ${item.many[0]?.clip.id}`}
                    day={day}
                    item={item}
                    chosen={chosen}
                    onChoose={onChoose}
                    onCloser={() => closer(item.top)}
                  />
                ),
              )}
          </div>
        ))}
        {row.bands.length === 1 &&
          first.band.folds.map((fold) => <FoldSeam key={fold.from} day={day} at={first} fold={fold} />)}
      </div>
    </>
  );
}

/** What is folded of a band, and who ran meanwhile. */
function FoldSeam({ day, at, fold }: { day: Day; at: BandAt; fold: Fold }) {
  const bottom = yIn(at, fold.to);
  const top = Math.max(yIn(at, fold.from), bottom - FOLDED);
  if (bottom - top < 18) return null;
  const letters = day.devices.filter(({ id }) => fold.devices.includes(id)).map(({ letter }) => letter);
  return (
    <div
      className="pointer-events-none absolute right-0 left-0 z-10 flex items-center justify-center border-y border-dashed border-soft bg-band/85 text-[12px] text-soft"
      style={{ top, height: bottom - top }}
      data-testid="fold"
    >
      {pause(fold.to - fold.from)}, only {letters.join(', ')}
    </div>
  );
}

type MarginProps = { day: Day; row: Row; sight: { from: number; to: number } };

/** The left margin of a row: what it is, when it began, and where it is tall a ruler. */
function Margin({ day, row, sight }: MarginProps) {
  const [first, last] = [row.bands[0], row.bands.at(-1)];
  if (!first || !last) return null;
  const { band } = first;
  const names = [...new Set([band.name, last.band.name].filter(Boolean))];
  const knows = band.island?.by !== null;
  const alone = row.bands.length === 1;
  const from = momentIn(first, Math.max(sight.from, 0));
  const to = momentIn(first, Math.min(sight.to, row.height));
  // A mark is written below its line.
  const isFolded = (y: number) =>
    band.folds.some((fold) => yIn(first, fold.from) - 16 < y && y < yIn(first, fold.to));
  const marks =
    alone && knows && row.height > 150
      ? ruler(Math.max(band.from, from), Math.min(band.to, to), paceOf(first)).filter(
          ({ at }) => yIn(first, at) > 62 && yIn(first, at) < row.height - 16 && !isFolded(yIn(first, at)),
        )
      : [];
  return (
    <div className="relative min-w-0">
      <div className={`${row.height > STAYS ? 'sticky top-0 z-10' : ''} bg-band py-1.5 pr-1`}>
        <div className="truncate font-semibold" title={names.join(' to ')}>
          {names.join(' – ')}
        </div>
        {knows && (
          <div className="num text-[12px] text-soft">
            {alone ? clock(band.from) : `${clock(band.from).slice(0, 5)}–${clock(last.band.to).slice(0, 5)}`}
          </div>
        )}
        {alone && band.island && (
          <div className="num text-[12px] text-soft italic" title={lies(day, band.island)}>
            {margin(band.island)}
          </div>
        )}
      </div>
      {marks.map(({ at, step }) => (
        <div
          key={at}
          aria-hidden
          className="num absolute right-0 left-0 border-t border-line pr-1 text-right text-[11px] text-soft"
          style={{ top: yIn(first, at) }}
        >
          {clock(at, step < 1 ? 2 : 0)}
        </div>
      ))}
    </div>
  );
}

function Seam({ top, seconds }: { top: number; seconds: number }) {
  return (
    <div
      className="absolute right-0 left-0 flex h-[21px] items-center justify-center border-y border-dashed border-soft text-[12px] text-soft"
      style={{ top: top - 31 }}
    >
      {pause(seconds)}, nothing ran
    </div>
  );
}

/** The heading of a shoot day, and of a scene; that chooses all its clips. */
function Heading({ row, onScene }: { row: Row; onScene: (scene: string) => void }) {
  const { day, scene } = row;
  return (
    <h2
      className="absolute right-3 left-2 flex items-end gap-3 border-b border-ink text-[14px]"
      style={{ top: row.top - HEADING, height: HEADING - 2 }}
    >
      {day !== null && <span className="num font-semibold">{day}</span>}
      {scene !== null && (
        <button
          type="button"
          title={`Choose all clips of scene ${scene}`}
          onClick={() => onScene(scene)}
          className="font-semibold"
        >
          Scene {scene}
        </button>
      )}
    </h2>
  );
}

/** Where a clip lies on the sheet, to bring it into sight. */
export function anchorOf({ laid }: SheetView, clip: number) {
  for (const row of laid.rows) {
    for (const { band } of row.bands) {
      const slip = band.slips.find((one) => one.clip.id === clip);
      if (slip) return { band, share: (slip.from - band.from) / Math.max(band.to - band.from, 1e-3) };
    }
  }
  return null;
}

/** How far down the window a clip begins, where it is in sight. */
export function inWindow(view: SheetView, clip: number | null): number | undefined {
  const [anchor, element] = [clip === null ? null : anchorOf(view, clip), view.box];
  if (!anchor || !element) return undefined;
  const y = placeOf(view.laid, anchor) - element.scrollTop;
  return y >= 0 && y < element.clientHeight ? y : undefined;
}
