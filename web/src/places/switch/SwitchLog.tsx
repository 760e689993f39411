import { useVirtualizer } from '@tanstack/react-virtual';
import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react';
import { memo, useEffect, useRef, type MouseEvent, type ReactNode } from 'react';
import type { Day } from '../../api/day';
import type { GroupView, LineEdit, Switch as Switched, Timecode } from '../../api/types';
import { angleName, angleOf, rankOf } from '../../model/angles';
import { BLACK, fadesOf } from '../../model/onAir';
import { frameCount, timecode } from '../../model/format';
import { Button } from '../../parts/Button';
import { Stamp } from '../../parts/Stamp';
import { Frames } from '../../parts/Frames';

/** Height of a row, pixels. */
const ROW = 33;

type Props = {
  day: Day;
  view: GroupView;
  chosen: number;
  onChoose: (index: number) => void;
  onEdit: (edit: LineEdit) => void;
  /** All that belongs together, or one switch of a live run. */
  onUndo: (whole: boolean) => void;
  onRedo: () => void;
  /** Below the log. */
  children?: ReactNode;
};

/** The switch log: every stretch of the line, and what can be done to the chosen one. */
export function SwitchLog({ day, view, chosen, onChoose, onEdit, onUndo, onRedo, children }: Props) {
  const { group, line, labels } = view;
  const current = line.switches[chosen];
  const fades = fadesOf(line.switches, group.frames);
  const shown = (id: number) => <Shown day={day} group={group} id={id} />;
  return (
    <aside
      aria-label="Switch log"
      className="flex w-[292px] shrink-0 flex-col border-l border-line bg-sheet px-4 py-3"
    >
      <h2 className="pb-2 text-[14px] font-semibold">
        Switch log{' '}
        <span className="font-normal text-soft">
          {line.switches.length === 1 ? 'no cuts yet' : `${line.switches.length} stretches`}
        </span>
      </h2>
      <Rows
        day={day}
        group={group}
        switches={line.switches}
        labels={labels}
        chosen={chosen}
        onChoose={onChoose}
      />
      <div className="border-t border-line pt-2.5">
        <div className="flex items-center gap-2 pb-2">
          <span className="text-soft">Stretch {chosen + 1} shows</span>
          {current && (
            <Listbox
              value={current.angle}
              onChange={(angle) => onEdit({ do: 'change_angle', index: chosen, angle })}
            >
              <ListboxButton className="flex min-w-0 flex-1 items-center gap-2 rounded-[3px] border border-line px-2 py-0.5 text-left">
                <span className="sr-only">Angle of the chosen stretch: </span>
                {shown(current.angle)}
              </ListboxButton>
              <ListboxOptions
                anchor="top"
                className="z-50 w-48 rounded-[3px] border border-line bg-sheet py-1 shadow-lg focus:outline-none"
              >
                {[...group.angles, { id: BLACK }].map((angle) => (
                  <ListboxOption
                    key={angle.id}
                    value={angle.id}
                    className="flex items-center gap-2 px-2 py-1 data-focus:bg-band"
                  >
                    {shown(angle.id)}
                  </ListboxOption>
                ))}
              </ListboxOptions>
            </Listbox>
          )}
        </div>
        <div className="flex flex-wrap gap-1.5">
          <Button small disabled={chosen === 0} onClick={() => onEdit({ do: 'roll', index: chosen, by: -1 })}>
            Roll −1 f
          </Button>
          <Button small disabled={chosen === 0} onClick={() => onEdit({ do: 'roll', index: chosen, by: 1 })}>
            Roll +1 f
          </Button>
          <Button small disabled={chosen === 0} onClick={() => onEdit({ do: 'remove', index: chosen })}>
            Take cut out
          </Button>
          <Button
            small
            disabled={chosen >= line.switches.length - 1}
            onClick={() => onEdit({ do: 'clear_after', at: current?.at ?? 0 })}
          >
            Clear after
          </Button>
          <Frames
            label="Dissolve"
            value={current?.dissolve ?? 0}
            disabled={chosen === 0}
            onSet={(frames) => onEdit({ do: 'dissolve', index: chosen, frames })}
          />
          <Frames
            label="Fade in"
            value={fades.head}
            onSet={(frames) => onEdit({ do: 'fade', head: true, frames })}
          />
          <Frames
            label="Fade out"
            value={fades.tail}
            onSet={(frames) => onEdit({ do: 'fade', head: false, frames })}
          />
          <Button small disabled={!view.can_undo} onClick={() => onUndo(true)}>
            Undo
          </Button>
          <Button
            small
            disabled={!view.can_undo}
            title="of a live run the last switch only"
            onClick={() => onUndo(false)}
          >
            One switch back
          </Button>
          <Button small disabled={!view.can_redo} onClick={onRedo}>
            Redo
          </Button>
        </div>
        <p className="pt-2 text-[12px] text-soft">
          <span className="num">1…9</span> take · <span className="num">space</span> play ·{' '}
          <span className="num">?</span> all keys
        </p>
      </div>
      {children}
    </aside>
  );
}

type RowsProps = Pick<Props, 'day' | 'chosen' | 'onChoose'> &
  Pick<GroupView, 'group' | 'labels'> &
  Pick<GroupView['line'], 'switches'>;

/** The stretches: of thousands only those in sight are there, and while they are scrolled nothing else is worked out. */
const Rows = memo(function Rows({ day, group, switches, labels, chosen, onChoose }: RowsProps) {
  const list = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: switches.length,
    getScrollElement: () => list.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  useEffect(() => rows.scrollToIndex(chosen), [chosen, rows]);
  const click = (event: MouseEvent) => {
    const row = event.target instanceof Element ? event.target.closest('li') : null;
    if (row) onChoose(Number(row.dataset.index));
  };
  return (
    <div ref={list} className="min-h-0 flex-1 overflow-y-auto">
      <ol
        className="relative"
        style={{ height: rows.getTotalSize() }}
        data-testid="switch-log"
        onClick={click}
      >
        {rows.getVirtualItems().map(({ index, start }) => {
          const one = switches[index];
          return (
            one && (
              <Row
                key={`${one.at}-${index}`}
                day={day}
                group={group}
                one={one}
                index={index}
                frames={(switches[index + 1]?.at ?? group.frames) - one.at}
                label={labels[index]}
                start={start}
                here={index === chosen}
              />
            )
          );
        })}
      </ol>
    </div>
  );
});

type RowProps = Pick<RowsProps, 'day' | 'group'> & {
  one: Switched;
  index: number;
  frames: number;
  label: Timecode | undefined;
  start: number;
  here: boolean;
};

const Row = memo(function Row({ day, group, one, index, frames, label, start, here }: RowProps) {
  return (
    <li
      data-index={index}
      className="absolute top-0 w-full border-t border-line"
      style={{ transform: `translateY(${start}px)` }}
    >
      <button
        type="button"
        aria-current={here}
        className={`flex h-8 w-full items-center gap-2 px-1 text-left ${here ? 'bg-band' : ''}`}
      >
        <Shown day={day} group={group} id={one.angle} />
        {!!one.dissolve && (
          <span
            data-dissolve={one.dissolve}
            className="text-[10px] text-soft"
            title={`dissolves over ${one.dissolve} frames`}
          >
            ◢
          </span>
        )}
        <span className="num">{label && timecode(label)}</span>
        <span className="num w-[58px] text-right text-soft">{frameCount(frames, group.start.rate)}</span>
      </button>
    </li>
  );
});

/** What is shown: an angle by its stamp and name, or black. */
function Shown({ day, group, id }: Pick<RowsProps, 'day' | 'group'> & { id: number }) {
  const angle = angleOf(group, id);
  if (id === BLACK) {
    return (
      <>
        <span aria-hidden className="h-4 w-7 shrink-0 bg-black" />
        <span className="min-w-0 flex-1 truncate">black</span>
      </>
    );
  }
  return (
    <>
      <Stamp
        devices={day.devices}
        id={angle?.device ?? null}
        {...(angle && { rank: rankOf(group, angle) })}
      />
      <span className="min-w-0 flex-1 truncate">{angleName(day, group, angle)}</span>
    </>
  );
}
