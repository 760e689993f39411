import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { useContext, useState, type ReactNode } from 'react';
import { useCommands, useTurned } from '../../api/commands';
import type { Day } from '../../api/day';
import type { Part } from '../../api/types';
import { Button } from '../../parts/Button';
import { centimetres } from '../../model/format';
import { SayContext } from '../../parts/message';
import { Stamp } from '../../parts/Stamp';
import { Turn } from '../../parts/Turn';
import { COLUMNS, PART } from '../../model/columns';

type Props = {
  day: Day;
  shown: number;
  ids: number[];
  filter: string;
  onFilter: (filter: string) => void;
  columns: string[];
  onColumns: (columns: string[]) => void;
  onDetail: () => void;
  detail: boolean;
};

const NAMED = {
  device: 'Name of a new device',
  day: 'Shoot day of the chosen clips',
  distance: 'Metres; empty: as their device',
};

/** What can be done with the chosen clips, and what is shown of all. */
export function Bar({ day, shown, ids, filter, onFilter, columns, onColumns, onDetail, detail }: Props) {
  const run = useCommands();
  const { edit } = run;
  const say = useContext(SayContext);
  const stand = (text: string) => {
    const cm = centimetres(text);
    if (cm === undefined) say('A distance is typed in metres, such as 12 or 12.5');
    else void edit({ do: 'clip_distance', clips: ids, distance_cm: cm });
  };
  const turn = useTurn();
  const none = ids.length === 0;
  const [naming, setNaming] = useState<keyof typeof NAMED | null>(null);
  return (
    <div className="flex h-9 shrink-0 items-center gap-1.5 border-b border-line px-4">
      <input
        id="clip-filter"
        type="search"
        aria-label="Show only clips with these words"
        placeholder="show only… (F)"
        value={filter}
        onChange={(event) => onFilter(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== 'Escape') return;
          onFilter('');
          event.currentTarget.blur();
        }}
        className="w-36 rounded-[3px] border border-line bg-sheet px-2 py-0.5"
      />
      <span className="min-w-0 truncate text-soft" role="status">
        {filter && `${shown} shown · `}
        {none ? 'none chosen' : `${ids.length} chosen`}
      </span>
      <div className="flex-1" />
      {naming ? (
        <NameIt
          label={NAMED[naming]}
          onDone={(text) => {
            if (text !== null && naming === 'day') void edit({ do: 'day', clips: ids, day: text });
            if (text && naming === 'device') void run.newDevice({ name: text, clips: ids });
            if (text !== null && naming === 'distance') stand(text);
            setNaming(null);
          }}
        />
      ) : (
        <>
          <Choose label="Device" disabled={none}>
            {day.devices.map((device) => (
              <Item
                key={device.id}
                onChoose={() => void edit({ do: 'device', clips: ids, device: device.id })}
              >
                <Stamp devices={day.devices} id={device.id} /> {device.name}
              </Item>
            ))}
            <Item onChoose={() => setNaming('device')}>another device…</Item>
          </Choose>
          <Choose label="Part" disabled={none}>
            {(Object.keys(PART) as Part[]).map((part) => (
              <Item key={part} onChoose={() => void edit({ do: 'part', clips: ids, part })}>
                {PART[part]}
              </Item>
            ))}
          </Choose>
          <Choose label="More" disabled={none}>
            <Item onChoose={() => setNaming('day')}>shoot day…</Item>
            <Item onChoose={() => setNaming('distance')}>distance of their microphone…</Item>
            <Item
              onChoose={() =>
                void edit({ do: 'slate', clips: ids, scene: null, take: null, notes: null, circled: true })
              }
            >
              circle the take
            </Item>
            <Item
              onChoose={() =>
                void edit({ do: 'slate', clips: ids, scene: null, take: null, notes: null, circled: false })
              }
            >
              not circled
            </Item>
            <Item onChoose={() => void edit({ do: 'join', clips: ids })}>one recording (join as a span)</Item>
            <Item onChoose={() => void edit({ do: 'separate', clips: ids })}>recordings of their own</Item>
            <Item onChoose={() => ids.forEach((id) => void run.again(id))}>listen again</Item>
          </Choose>
        </>
      )}
      <span aria-hidden className="mx-1 h-4 w-px bg-line" />
      <Turn turns={day.intake} onTurn={turn} />
      <Choose label="Columns">
        {COLUMNS.slice(1).map(({ name }) => {
          const here = columns.includes(name);
          return (
            <Item
              key={name}
              onChoose={() => onColumns(here ? columns.filter((one) => one !== name) : [...columns, name])}
            >
              <span className="w-4">{here ? '✓' : ''}</span>
              {name}
            </Item>
          );
        })}
      </Choose>
      <Button small aria-pressed={detail} onClick={onDetail}>
        Detail
      </Button>
    </div>
  );
}

/** Takes the last change back, or makes it again, and says which it was. */
export function useTurn() {
  const { turnIntake } = useCommands();
  const said = useTurned();
  return (way: 'undo' | 'redo') => void turnIntake(way).then((turned) => said(way, turned));
}

function NameIt({ label, onDone }: { label: string; onDone: (text: string | null) => void }) {
  const [text, setText] = useState('');
  return (
    <input
      autoFocus
      aria-label={label}
      placeholder={label}
      value={text}
      maxLength={60}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => onDone(null)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onDone(text);
        if (event.key === 'Escape') onDone(null);
      }}
      className="w-64 rounded-[3px] border border-accent bg-sheet px-2 py-0.5"
    />
  );
}

function Choose({
  label,
  disabled = false,
  children,
}: {
  label: string;
  disabled?: boolean;
  children: ReactNode;
}) {
  return (
    <Menu>
      <MenuButton as={Button} small disabled={disabled}>
        {label}…
      </MenuButton>
      <MenuItems
        anchor="bottom end"
        className="z-50 w-60 rounded-[3px] border border-line bg-sheet py-1 shadow-lg focus:outline-none"
      >
        {children}
      </MenuItems>
    </Menu>
  );
}

function Item({ onChoose, children }: { onChoose: () => void; children: ReactNode }) {
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
