import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react';
import { send, useCommands } from '../../api/commands';
import { useJobs, type Day } from '../../api/day';
import type { DeviceView } from '../../api/types';
import { runs } from '../../keys/table';
import { length } from '../../model/format';
import { Stamp } from '../../parts/Stamp';
import { tableKeys } from './keys';
import { Cell } from './Cell';
import { atWork, type Column, type Field } from '../../model/columns';
import type { Row, Sort } from '../../model/rows';
import type { Choice } from './useChoice';

type Props = {
  day: Day;
  rows: Row[];
  columns: Column[];
  choice: Choice;
  sort: Sort;
  onSort: (sort: Sort) => void;
  open: ReadonlySet<number>;
  onOpen: (span: number) => void;
  /** Health notes at each clip that were not set aside. */
  notes: ReadonlyMap<number, number>;
  /** Row that must come into view. */
  reveal: number | null;
};

type Editing = { id: number; field: Field } | null;

const FIELDS: Field[] = ['scene', 'take', 'notes'];

/** Clips as a dense table: sorted by a column, chosen by mouse and keyboard, edited in place. */
export function ClipTable({ day, rows, columns, choice, sort, onSort, open, onOpen, notes, reveal }: Props) {
  const { edit } = useCommands();
  const scroller = useRef<HTMLDivElement>(null);
  const jobs = useJobs();
  const working = useMemo(() => atWork(jobs), [jobs]);
  const [editing, setEditing] = useState<Editing>(null);
  const grid = `30px 26px ${columns.map((column) => column.width).join(' ')}`;
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 28,
    overscan: 16,
  });
  useEffect(() => {
    if (reveal !== null && reveal >= 0) virtual.scrollToIndex(reveal, { align: 'center' });
  }, [reveal, virtual]);

  // What is on screen is made first.
  const shown = virtual.getVirtualItems();
  const waiting = shown.flatMap(({ index }) => {
    const clip = rows[index]?.clip;
    return clip && !clip.proxy ? [clip.id] : [];
  });
  const wanted = waiting.join();
  useEffect(() => {
    if (!wanted) return;
    const timer = window.setTimeout(() => {
      // A wish: where it is not heard, everything is made all the same.
      void send.want({ clips: wanted.split(',').map(Number) }).catch(() => undefined);
    }, 400);
    return () => window.clearTimeout(timer);
  }, [wanted]);

  const move = (to: number, extend: boolean) => {
    const index = Math.max(0, Math.min(rows.length - 1, to));
    choice.pick(index, { extend });
    virtual.scrollToIndex(index);
  };
  const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 280) / 28) - 1);
  const keys = tableKeys({
    step: (by, extend) => move(choice.focus + by, extend),
    page: (by, extend) => move(choice.focus + by * page, extend),
    toggle: () => choice.pick(choice.focus, { toggle: true }),
    all: choice.all,
    none: choice.none,
    edit: () => {
      const row = rows[choice.focus];
      if (row) begin(row);
    },
    open: () => {
      const row = rows[choice.focus];
      if (row?.span) onOpen(row.clip.id);
    },
  });
  // Only while the table has the focus: arrows scroll elsewhere.
  const onKey = (event: KeyboardEvent) => {
    const run = runs(keys, event.nativeEvent);
    if (!run) return;
    event.preventDefault();
    run();
  };
  const begin = (row: Row) => {
    const field = FIELDS.find((field) => columns.some((column) => column.field === field));
    if (field) setEditing({ id: row.clip.id, field });
  };
  const save = (row: Row, field: Field, value: string | null, next: boolean) => {
    if (value !== null) {
      const clips = row.span && !row.inside ? row.span.map((clip) => clip.id) : [row.clip.id];
      const empty = { scene: null, take: null, notes: null, circled: null };
      void edit({ do: 'slate', clips, ...empty, [field]: value });
    }
    const later = FIELDS.slice(FIELDS.indexOf(field) + 1);
    const following = next ? later.find((one) => columns.some((column) => column.field === one)) : undefined;
    if (following) setEditing({ id: row.clip.id, field: following });
    else {
      setEditing(null);
      scroller.current?.focus();
    }
  };

  return (
    <div
      role="grid"
      aria-label="Clips"
      aria-rowcount={rows.length + 1}
      aria-multiselectable
      className="flex min-h-0 flex-1 flex-col overflow-x-auto"
    >
      <div role="rowgroup" className="shrink-0 overflow-hidden [scrollbar-gutter:stable]">
        <div
          role="row"
          aria-rowindex={1}
          className="grid h-7 min-w-max items-center border-b border-line px-2 text-soft"
          style={{ gridTemplateColumns: grid }}
        >
          <span role="columnheader">
            <span className="sr-only">Device</span>
          </span>
          <span role="columnheader">
            <span className="sr-only">Health notes</span>
          </span>
          {columns.map((column) => {
            const here = sort?.column === column.name;
            const turn = !here
              ? { column: column.name, down: false }
              : sort.down
                ? null
                : { column: column.name, down: true };
            return (
              <span
                key={column.name}
                role="columnheader"
                aria-sort={here ? (sort.down ? 'descending' : 'ascending') : 'none'}
                className={column.number ? 'pr-2.5 text-right' : ''}
              >
                <button type="button" onClick={() => onSort(turn)}>
                  {column.name}
                  {here && (sort.down ? ' ↓' : ' ↑')}
                </button>
              </span>
            );
          })}
        </div>
      </div>
      <div
        ref={scroller}
        className="min-h-0 min-w-max flex-1 overflow-y-auto [scrollbar-gutter:stable]"
        tabIndex={0}
        role="rowgroup"
        aria-label="Clips, one a row"
        data-testid="clip-rows"
        onKeyDown={onKey}
      >
        <div role="presentation" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {shown.map(({ index, start }) => {
            const row = rows[index];
            if (!row) return null;
            return (
              <TableRow
                key={`${row.clip.id}${row.inside ? '+' : ''}`}
                row={row}
                index={index}
                start={start}
                grid={grid}
                columns={columns}
                devices={day.devices}
                chosen={choice.chosen.has(row.clip.id)}
                focused={index === choice.focus}
                notes={notes.get(row.clip.id) ?? 0}
                working={working.get(row.clip.id)}
                opened={open.has(row.clip.id)}
                editing={editing?.id === row.clip.id && !row.inside ? editing.field : null}
                onPick={choice.pick}
                onOpen={onOpen}
                onEdit={(field) => setEditing({ id: row.clip.id, field })}
                onSave={(field, value, next) => save(row, field, value, next)}
              />
            );
          })}
        </div>
      </div>
    </div>
  );
}

type RowProps = {
  row: Row;
  index: number;
  start: number;
  grid: string;
  columns: Column[];
  devices: DeviceView[];
  chosen: boolean;
  focused: boolean;
  notes: number;
  /** What is being made of it now. */
  working: string | undefined;
  opened: boolean;
  editing: Field | null;
  onPick: Choice['pick'];
  onOpen: (span: number) => void;
  onEdit: (field: Field) => void;
  onSave: (field: Field, value: string | null, next: boolean) => void;
};

/** One row. */
function TableRow(props: RowProps) {
  const { row, index, start, grid, columns, devices, chosen, focused, notes, editing } = props;
  const { clip, span, inside } = row;
  const text = (column: Column) => {
    if (column.name === 'State' && props.working && !clip.missing) return props.working;
    if (!span) return column.text(clip);
    if (column.name === 'Length') return length(span.reduce((sum, part) => sum + part.facts.duration_s, 0));
    return column.text(clip);
  };
  return (
    <div
      role="row"
      aria-rowindex={index + 2}
      aria-selected={chosen}
      onClick={(event: MouseEvent) =>
        props.onPick(index, { extend: event.shiftKey, toggle: event.ctrlKey || event.metaKey })
      }
      className={`absolute grid h-7 w-full items-center border-b border-line px-2 ${chosen ? 'bg-band' : ''} ${focused ? 'shadow-[inset_2px_0_var(--accent)]' : ''}`}
      style={{ gridTemplateColumns: grid, transform: `translateY(${start}px)` }}
    >
      <span role="gridcell">
        <Stamp devices={devices} id={clip.device} />
      </span>
      <span role="gridcell" className={`num text-[12px] ${chosen ? '' : 'text-check'}`}>
        {notes > 0 && (
          <>
            <span aria-hidden>{notes}!</span>
            <span className="sr-only">{notes === 1 ? 'one health note' : `${notes} health notes`}</span>
          </>
        )}
      </span>
      {columns.map((column, i) => (
        <span
          key={column.name}
          role="gridcell"
          title={i === 0 ? clip.relative : undefined}
          className={`truncate text-[12px] ${column.plain ? '' : 'num'} ${column.number ? 'pr-2.5 text-right' : ''} ${column.name === 'State' ? (clip.missing ? 'text-fault' : 'text-soft') : ''} ${inside ? 'text-soft' : ''} ${inside && i === 0 ? 'pl-4' : ''}`}
        >
          {i === 0 && span ? (
            <SpanName
              text={text(column)}
              files={span.length}
              opened={props.opened}
              onOpen={() => props.onOpen(clip.id)}
            />
          ) : column.field && !inside ? (
            <EditableCell
              column={column.field}
              label={`${column.name} of ${clip.file_name}`}
              value={text(column)}
              editing={editing}
              onEdit={props.onEdit}
              onSave={props.onSave}
            />
          ) : (
            text(column)
          )}
        </span>
      ))}
    </div>
  );
}

function EditableCell({
  column,
  label,
  value,
  editing,
  onEdit,
  onSave,
}: {
  column: Field;
  label: string;
  value: string;
} & Pick<RowProps, 'editing' | 'onEdit' | 'onSave'>) {
  return (
    <Cell
      value={value}
      label={label}
      editing={editing === column}
      onBegin={() => onEdit(column)}
      onEnd={(text, next) => onSave(column, text, next)}
    />
  );
}

function SpanName({
  text,
  files,
  opened,
  onOpen,
}: {
  text: string;
  files: number;
  opened: boolean;
  onOpen: () => void;
}) {
  return (
    <button
      type="button"
      tabIndex={-1}
      aria-expanded={opened}
      className="max-w-full truncate text-left"
      title={`One recording in ${files} files: press to ${opened ? 'close' : 'open'}`}
      onClick={(event) => {
        event.stopPropagation();
        onOpen();
      }}
    >
      {opened ? '− ' : '+ '}
      {text} <span className="text-soft">… {files} files</span>
    </button>
  );
}
