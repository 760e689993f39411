import { memo, type PointerEvent } from 'react';
import type { Day } from '../../api/day';
import type { ClipView, DeviceView } from '../../api/types';
import type { How } from '../../model/chosen';
import { stem } from '../../model/names';
import { Stamp, hue } from '../../parts/Stamp';
import { VerdictMark } from '../../parts/VerdictMark';
import { columns } from './columns';

type Props = {
  day: Day;
  /** The clips that have no place. */
  clips: ClipView[];
  devices: DeviceView[];
  /** Nothing else is on the sheet. */
  alone: boolean;
  chosen: ReadonlySet<number>;
  onChoose: (clip: number, how: How) => void;
  /** It is taken to be dragged onto the sheet. */
  onGrab: (clip: ClipView, event: PointerEvent) => void;
};

/** Clips without a place, each in the tray of its device: below its column. */
export const Tray = memo(function Tray({ day, clips, devices, alone, chosen, onChoose, onGrab }: Props) {
  if (clips.length === 0) return null;
  return (
    <section
      aria-label="Clips without a place"
      className={`grid overflow-y-auto ${alone ? 'min-h-0 flex-1' : 'max-h-[132px] shrink-0'} border-t border-ink pt-1.5 pr-3 pl-2 [scrollbar-gutter:stable]`}
      style={columns(devices)}
    >
      <h2 className="pr-1 font-semibold">
        {day.pass ? 'No place found' : 'No clock says when'}{' '}
        <span className="num font-normal text-soft">{clips.length}</span>
      </h2>
      {devices.map((device) => (
        <ul
          key={device.id}
          className="flex min-w-0 flex-wrap content-start gap-1 border-l border-line px-1 pb-1.5"
        >
          {clips
            .filter((clip) => clip.device === device.id)
            .map((clip) => (
              <li key={clip.id} className="max-w-full">
                <button
                  type="button"
                  title={clip.relative}
                  onClick={(event) => onChoose(clip.id, { toggle: event.ctrlKey || event.metaKey })}
                  onPointerDown={(event) => event.button === 0 && day.pass && onGrab(clip, event)}
                  aria-pressed={chosen.has(clip.id)}
                  className={`flex max-w-full items-center gap-1.5 border bg-sheet px-1.5 text-[12px] ${chosen.has(clip.id) ? 'outline-2 outline-accent' : 'border-line'}`}
                  style={{ borderLeft: `2px solid ${hue(day.devices, clip.device)}` }}
                >
                  {day.pass && <VerdictMark verdict="unplaced" />}
                  <span className="num text-left wrap-anywhere">{stem(clip)}</span>
                </button>
              </li>
            ))}
        </ul>
      ))}
    </section>
  );
});

type ColumnProps = { devices: DeviceView[]; day: Day; onChoose: (device: number) => void };

/** The heads of the columns; each chooses all clips of its device. */
export const Columns = memo(function Columns({ devices, day, onChoose }: ColumnProps) {
  return (
    <div
      className="grid h-10 shrink-0 items-center overflow-hidden border-b border-ink pr-3 pl-2 [scrollbar-gutter:stable]"
      style={columns(devices)}
    >
      <span />
      {devices.map((device) => (
        <button
          key={device.id}
          type="button"
          title={`Choose all clips of ${device.letter} ${device.name}`}
          onClick={() => onChoose(device.id)}
          className="flex min-w-0 items-center gap-2 border-l border-line pr-1.5 pl-1.5 text-left font-semibold"
        >
          <Stamp devices={day.devices} id={device.id} />
          <span className="truncate">{device.name}</span>
        </button>
      ))}
    </div>
  );
});
