import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react';
import { useEffect, useRef } from 'react';
import type { Day } from '../../api/day';
import type { GroupView, LineEdit } from '../../api/types';
import { angleName, angleOf, rankOf } from '../../model/angles';
import { frameCount, timecode } from '../../model/format';
import { Button } from '../../parts/Button';
import { Stamp } from '../../parts/Stamp';

type Props = {
  day: Day;
  view: GroupView;
  chosen: number;
  onChoose: (index: number) => void;
  onEdit: (edit: LineEdit) => void;
  onUndo: () => void;
  onRedo: () => void;
};

/** The switch log: every stretch of the line, and what can be done to the chosen one. */
export function SwitchLog({ day, view, chosen, onChoose, onEdit, onUndo, onRedo }: Props) {
  const { group, line, labels } = view;
  const list = useRef<HTMLOListElement>(null);
  useEffect(() => {
    list.current?.querySelector('[aria-current="true"]')?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  const current = line.switches[chosen];
  const shown = (id: number) => {
    const angle = angleOf(group, id);
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
  };
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
      <ol ref={list} className="min-h-0 flex-1 overflow-y-auto" data-testid="switch-log">
        {line.switches.map((one, i) => {
          const end = line.switches[i + 1]?.at ?? group.frames;
          const here = i === chosen;
          return (
            <li key={`${one.at}-${i}`} className="border-t border-line">
              <button
                type="button"
                aria-current={here}
                onClick={() => onChoose(i)}
                className={`flex h-8 w-full items-center gap-2 px-1 text-left ${here ? 'bg-band' : ''}`}
              >
                {shown(one.angle)}
                <span className="num">{labels[i] && timecode(labels[i])}</span>
                <span className="num w-[58px] text-right text-soft">
                  {frameCount(end - one.at, group.start.rate)}
                </span>
              </button>
            </li>
          );
        })}
      </ol>
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
                {group.angles.map((angle) => (
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
          <Button small disabled={!view.can_undo} onClick={onUndo}>
            Undo
          </Button>
          <Button small disabled={!view.can_redo} onClick={onRedo}>
            Redo
          </Button>
        </div>
        <p className="pt-2.5 text-[12px] text-soft">
          <span className="num">1…9</span> take · <span className="num">space</span> play ·{' '}
          <span className="num">?</span> all keys
        </p>
      </div>
    </aside>
  );
}
