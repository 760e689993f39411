import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { post } from '../api/client';
import type { ClipView, DayView, Part } from '../api/types';
import { clock, length, rate, timecode } from '../format';
import { Button } from '../parts/Button';
import { useAsk } from '../parts/message';
import { Stamp } from '../parts/Stamp';

const PART: Record<Part, string> = {
  sync: 'sync',
  no_sync: 'no sync',
  silent: 'silent',
  wild: 'wild',
  playback: 'playback',
};

type Column = {
  name: string;
  width: string;
  text: (clip: ClipView) => string;
  order: (clip: ClipView) => string | number;
  number?: boolean;
};

const COLUMNS: Column[] = [
  { name: 'Clip', width: 'minmax(106px,1fr)', text: (c) => c.file_name, order: (c) => c.file_name },
  { name: 'Part', width: '56px', text: (c) => PART[c.part], order: (c) => c.part },
  {
    name: 'Length',
    width: '64px',
    text: (c) => length(c.facts.duration_s),
    order: (c) => c.facts.duration_s,
    number: true,
  },
  { name: 'Picture', width: '174px', text: picture, order: picture },
  { name: 'Sound', width: '146px', text: sound, order: sound },
  { name: 'Starts at', width: '74px', text: starts, order: (c) => c.own_clock_s ?? -1, number: true },
  {
    name: 'Timecode',
    width: '100px',
    text: (c) => (c.facts.timecode ? timecode(c.facts.timecode) : ''),
    order: (c) => c.facts.timecode?.frames ?? -1,
    number: true,
  },
  {
    name: 'Scene',
    width: '50px',
    text: (c) => [c.facts.scene, c.facts.take].filter(Boolean).join(' / '),
    order: (c) => c.facts.scene ?? '',
  },
  { name: 'State', width: '62px', text: state, order: state },
];
const GRID = `34px ${COLUMNS.map((column) => column.width).join(' ')}`;

function picture({ facts }: ClipView): string {
  if (!facts.picture) return '–';
  const varies = facts.picture.constant_rate ? '' : ' varies';
  return `${facts.picture.width}×${facts.picture.height} · ${rate(facts.picture.rate)}${varies}`;
}

function sound({ facts, channels }: ClipView): string {
  if (!facts.sound) return '–';
  const khz = facts.sound.rate / 1000;
  const timecodeAt = channels?.findIndex((channel) => channel.audio_timecode) ?? -1;
  return `${facts.sound.channels} ch · ${khz} k${timecodeAt >= 0 ? ` · tc ${timecodeAt + 1}` : ''}`;
}

function starts({ own_clock_s }: ClipView): string {
  return own_clock_s === null ? '' : clock(own_clock_s);
}

function state({ proxy, channels, facts }: ClipView): string {
  if (facts.sound && !channels) return 'unheard';
  return proxy ? 'ready' : 'no proxy';
}

/** Clips as a dense table: sorted by a column, chosen by mouse and keyboard. */
export function ClipTable({ day }: { day: DayView }) {
  const ask = useAsk();
  const [sort, setSort] = useState<{ column: number; down: boolean } | null>(null);
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const [anchor, setAnchor] = useState(0);
  const [focus, setFocus] = useState(0);
  const scroller = useRef<HTMLDivElement>(null);
  const clips = useMemo(() => {
    const order = sort && COLUMNS[sort.column]?.order;
    if (!order) return day.clips;
    const sign = sort.down ? -1 : 1;
    return [...day.clips].sort((a, b) => {
      const [x, y] = [order(a), order(b)];
      return (
        sign * (typeof x === 'number' && typeof y === 'number' ? x - y : String(x).localeCompare(String(y)))
      );
    });
  }, [day.clips, sort]);
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: clips.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 28,
    overscan: 12,
  });

  const range = (from: number, to: number) =>
    new Set(clips.slice(Math.min(from, to), Math.max(from, to) + 1).map((clip) => clip.id));
  const pick = (index: number, extend: boolean, toggle: boolean) => {
    const clip = clips[index];
    if (!clip) return;
    setFocus(index);
    rows.scrollToIndex(index);
    if (extend) setChosen(range(anchor, index));
    else {
      setAnchor(index);
      const next = new Set(toggle ? chosen : []);
      if (toggle && chosen.has(clip.id)) next.delete(clip.id);
      else next.add(clip.id);
      setChosen(next);
    }
  };
  const onKey = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
    if (step) pick(Math.max(0, Math.min(clips.length - 1, focus + step)), event.shiftKey, false);
    else if ((event.ctrlKey || event.metaKey) && event.key === 'a') setChosen(range(0, clips.length - 1));
    else if (event.key === 'Escape') setChosen(new Set());
    else return;
    event.preventDefault();
  };
  const ids = [...chosen];
  return (
    <>
      <div className="flex h-9 items-center gap-2 border-b border-line px-4">
        <span className="text-soft">
          {chosen.size === 0 ? 'Choose clips to change their device or part.' : `${chosen.size} chosen`}
        </span>
        <div className="flex-1" />
        <Choice label="Device" disabled={chosen.size === 0}>
          {day.devices.map((device) => (
            <Item
              key={device.id}
              onChoose={() =>
                void ask(post('/clips/device', { clips: ids, device: device.id, new_device: null }))
              }
            >
              <Stamp devices={day.devices} id={device.id} /> {device.name}
            </Item>
          ))}
        </Choice>
        <Choice label="Part" disabled={chosen.size === 0}>
          {(Object.keys(PART) as Part[]).map((part) => (
            <Item key={part} onChoose={() => void ask(post('/clips/part', { clips: ids, part }))}>
              {PART[part]}
            </Item>
          ))}
        </Choice>
      </div>
      <div
        role="grid"
        aria-label="Clips"
        aria-rowcount={clips.length}
        aria-multiselectable
        className="flex min-h-0 flex-1 flex-col"
      >
        <div
          role="row"
          className="grid h-7 shrink-0 items-center border-b border-line px-2 text-soft"
          style={{ gridTemplateColumns: GRID }}
        >
          <span role="columnheader">
            <span className="sr-only">Device</span>
          </span>
          {COLUMNS.map((column, i) => (
            <span
              key={column.name}
              role="columnheader"
              aria-sort={sort?.column === i ? (sort.down ? 'descending' : 'ascending') : 'none'}
              className={column.number ? 'pr-2.5 text-right' : ''}
            >
              <button
                type="button"
                onClick={() =>
                  setSort(
                    sort?.column !== i
                      ? { column: i, down: false }
                      : sort.down
                        ? null
                        : { column: i, down: true },
                  )
                }
              >
                {column.name}
                {sort?.column === i && (sort.down ? ' ↓' : ' ↑')}
              </button>
            </span>
          ))}
        </div>
        <div
          ref={scroller}
          className="min-h-0 flex-1 overflow-y-auto"
          tabIndex={0}
          role="rowgroup"
          aria-label="Clips, one a row"
          onKeyDown={onKey}
        >
          <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
            {rows.getVirtualItems().map(({ index, start }) => {
              const clip = clips[index];
              if (!clip) return null;
              const here = chosen.has(clip.id);
              return (
                <div
                  key={clip.id}
                  role="row"
                  aria-rowindex={index + 1}
                  aria-selected={here}
                  onClick={(event: MouseEvent) => pick(index, event.shiftKey, event.ctrlKey || event.metaKey)}
                  className={`absolute grid h-7 w-full items-center border-b border-line px-2 ${here ? 'bg-band' : ''} ${index === focus ? 'shadow-[inset_2px_0_var(--accent)]' : ''}`}
                  style={{ gridTemplateColumns: GRID, transform: `translateY(${start}px)` }}
                >
                  <span role="gridcell">
                    <Stamp devices={day.devices} id={clip.device} />
                  </span>
                  {COLUMNS.map((column, i) => (
                    <span
                      key={column.name}
                      role="gridcell"
                      title={i === 0 ? clip.relative : undefined}
                      className={`truncate text-[12px] ${i === 1 || i === 8 ? '' : 'num'} ${column.number ? 'pr-2.5 text-right' : ''} ${i > 5 ? 'text-soft' : ''}`}
                    >
                      {column.text(clip)}
                    </span>
                  ))}
                </div>
              );
            })}
          </div>
        </div>
      </div>
    </>
  );
}

function Choice({
  label,
  disabled,
  children,
}: {
  label: string;
  disabled: boolean;
  children: React.ReactNode;
}) {
  return (
    <Menu>
      <MenuButton as={Button} small disabled={disabled}>
        {label}…
      </MenuButton>
      <MenuItems
        anchor="bottom end"
        className="z-50 w-44 rounded-[3px] border border-line bg-sheet py-1 shadow-lg focus:outline-none"
      >
        {children}
      </MenuItems>
    </Menu>
  );
}

function Item({ onChoose, children }: { onChoose: () => void; children: React.ReactNode }) {
  return (
    <MenuItem>
      <button
        type="button"
        className="flex w-full items-center gap-2 px-3 py-1 text-left data-focus:bg-band"
        onClick={onChoose}
      >
        {children}
      </button>
    </MenuItem>
  );
}
