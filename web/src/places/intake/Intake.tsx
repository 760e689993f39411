import { useMemo, useState } from 'react';
import type { Day } from '../../api/day';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { focusOn } from '../../parts/focus';
import { Bar, useTurn } from './Bar';
import { ClipTable } from './ClipTable';
import { COLUMNS, keepColumns, keptColumns } from '../../model/columns';
import { Detail } from './Detail';
import { Devices } from './Devices';
import { Folders } from './Folders';
import { Health } from './Health';
import { rowsOf, type Row, type Sort } from '../../model/rows';
import { intakeKeys, tableKeys } from './keys';
import { SlateLogPart } from './SlateLog';
import { Storage } from './Storage';
import { DropArea, UploadPart, useUpload } from './Upload';
import { useChoice } from './useChoice';

/** The place where the day is brought in. */
export function Intake({ day }: { day: Day }) {
  const uploading = useUpload();
  const [filter, setFilter] = useState('');
  const [sort, setSort] = useState<Sort>(null);
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set());
  const [names, setNames] = useState(keptColumns);
  const [detail, setDetail] = useState(() => localStorage.getItem('intake-detail') !== 'closed');
  const [reveal, setReveal] = useState<number | null>(null);
  const turn = useTurn();

  const rows = useMemo(() => rowsOf(day, filter, sort, open), [day, filter, sort, open]);
  const rowIds = useMemo(() => rows.map((row) => row.clip.id), [rows]);
  const choice = useChoice(rowIds);
  const columns = useMemo(() => COLUMNS.filter((column) => names.includes(column.name)), [names]);
  const notes = useMemo(() => {
    const count = new Map<number, number>();
    for (const { note, aside } of day.health) {
      // What is about many clips is said on top, not at each.
      if (aside || note.weight === 'know' || note.clips.length > 12) continue;
      for (const clip of note.clips) count.set(clip, (count.get(clip) ?? 0) + 1);
    }
    return count;
  }, [day.health]);

  // A closed span stands for all its files, an open one for its first.
  const filesOf = ({ clip, span }: Row) => (span && !open.has(clip.id) ? span : [clip]).map(({ id }) => id);
  const chosen = [...new Set(rows.filter((row) => choice.chosen.has(row.clip.id)).flatMap(filesOf))];
  const show = (clips: number[]) => {
    setFilter('');
    // A clip within a closed span is shown by its span.
    const standing = clips.map((id) => day.spans.find((span) => span.clips.includes(id))?.clips[0] ?? id);
    setReveal(choice.only(standing));
  };
  const toggleDetail = () => {
    localStorage.setItem('intake-detail', detail ? 'closed' : 'open');
    setDetail(!detail);
  };
  const keys = intakeKeys({
    filter: () => focusOn('clip-filter'),
    detail: toggleDetail,
    undo: () => turn('undo'),
    redo: () => turn('redo'),
  });
  useKeys(keys);
  const openSpan = (span: number) => {
    const next = new Set(open);
    if (!next.delete(span)) next.add(span);
    setOpen(next);
  };
  const total = day.clips.reduce((sum, clip) => sum + clip.facts.duration_s, 0);
  return (
    <>
      <Head day={day} title="Intake" keys={[...tableKeys(idle()), ...keys]}>
        <span className="text-soft">
          {day.clips.length} clips · {Math.round(total / 60)} min
        </span>
      </Head>
      <DropArea uploading={uploading}>
        <aside
          aria-label="Folders and devices"
          className="flex w-[252px] shrink-0 flex-col overflow-y-auto border-r border-line px-4 py-3"
        >
          <Folders day={day} />
          <UploadPart uploading={uploading} />
          <SlateLogPart />
          <Devices day={day} onShow={show} />
          <div className="flex-1" />
          <Storage day={day} />
        </aside>
        <section aria-label="Clips" className="flex min-w-0 flex-1 flex-col bg-sheet">
          <Health day={day} onShow={show} />
          {day.clips.length > 0 ? (
            <>
              <Bar
                day={day}
                shown={rows.length}
                ids={chosen}
                filter={filter}
                onFilter={setFilter}
                columns={names}
                onColumns={(next) => {
                  setNames(next);
                  keepColumns(next);
                }}
                detail={detail}
                onDetail={toggleDetail}
              />
              <ClipTable
                day={day}
                rows={rows}
                columns={columns}
                choice={choice}
                sort={sort}
                onSort={setSort}
                open={open}
                onOpen={openSpan}
                notes={notes}
                reveal={reveal}
              />
              {detail && (
                <Detail day={day} clip={choice.chosen.size > 0 ? rows[choice.focus]?.clip : undefined} />
              )}
            </>
          ) : (
            <p className="max-w-[520px] p-8 text-[14px]">
              No clips yet. Choose a folder on the left, or drop files here: folders become devices, and every
              file is read, never changed.
            </p>
          )}
        </section>
      </DropArea>
    </>
  );
}
