import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { documentQuery, groupQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { Empty } from '../../frame/Empty';
import { turnoverKeys } from './keys';
import { GroupChoice } from '../../frame/GroupChoice';

const DOCUMENTS: [file: string, what: string, form: string][] = [
  ['group.otio', 'The group, one track an angle', 'OpenTimelineIO'],
  ['line.otio', 'The line, as it was cut', 'OpenTimelineIO'],
  ['line.edl', 'The line as an edit decision list', 'SMPTE ST 258'],
];

/** The place where work is handed on. */
export function Turnover({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const [chosen, setChosen] = useState(0);
  const group = day.groups.find((one) => one.id === id) ?? day.groups[0];
  const missing = group !== undefined && id !== group.id;
  useEffect(() => {
    if (missing) go(`/turnover/${group.id}`, { replace: true });
  }, [missing, group, go]);
  const [file] = DOCUMENTS[chosen] ?? ['line.otio'];
  const line = useQuery(groupQuery(group?.id));
  const text = useQuery(documentQuery(group?.id ?? 0, file, line.data?.version, group?.group.name ?? ''));
  const keys = turnoverKeys({
    step: (by) => setChosen(Math.max(0, Math.min(DOCUMENTS.length - 1, chosen + by))),
    save: () => document.getElementById('save')?.click(),
    sound: () => go('/turnover/sound'),
    assembly: () => go('/turnover/assembly'),
  });
  useKeys(keys);
  if (!group) {
    return (
      <Empty day={day} title="Turnover" keys={turnoverKeys(idle())}>
        There is nothing to hand on yet. Sync the day on the <Link href="/day">Day sheet</Link>, then cut a
        group.
      </Empty>
    );
  }
  return (
    <>
      <Head day={day} title="Turnover" keys={keys}>
        <GroupChoice day={day} id={group.id} place="turnover" />
        <Link href="/turnover/sound" className="underline">
          Sound
        </Link>
        <Link href="/turnover/assembly" className="underline">
          Assembly
        </Link>
      </Head>
      <div className="flex min-h-0 flex-1">
        <section
          aria-label="Documents"
          className="w-[372px] shrink-0 overflow-y-auto border-r border-line px-4 py-3"
        >
          <h2 className="pb-2 text-[14px] font-semibold">What goes out</h2>
          <ul>
            {DOCUMENTS.map(([name, what, form], i) => (
              <li
                key={name}
                className={`flex items-center gap-2 border-t border-line py-2 pl-2 ${i === chosen ? 'bg-sheet' : ''}`}
              >
                <button
                  type="button"
                  aria-pressed={i === chosen}
                  onClick={() => setChosen(i)}
                  className="min-w-0 flex-1 text-left"
                >
                  <span className="block font-semibold">{what}</span>
                  <span className="num text-soft">
                    {name} · {form}
                  </span>
                </button>
                <a
                  id={i === chosen ? 'save' : undefined}
                  href={`/api/groups/${group.id}/turnover/${name}`}
                  download
                  className="rounded-[3px] border border-ink/70 px-2 py-0.5"
                  aria-label={`Save: ${what}`}
                >
                  Save
                </a>
              </li>
            ))}
          </ul>
          <p className="border-t border-line pt-3 text-soft">
            Sources are named by their file, reel and timecode, so that everything links back to the camera
            originals. Where an angle did not run there is a gap, or black in the list.
          </p>
        </section>
        <section aria-label="Preview" className="flex min-w-0 flex-1 flex-col bg-sheet">
          <h2 className="border-b border-line px-4 py-2 text-soft">
            Preview of <span className="num text-ink">{file}</span>
          </h2>
          {text.isError ? (
            <p className="p-4 text-fault">{text.error.message}</p>
          ) : (
            <pre
              tabIndex={0}
              aria-label="Text of the document"
              data-testid="preview"
              className="num min-h-0 flex-1 overflow-auto px-4 py-3 text-[12px]"
            >
              {text.data ?? ''}
            </pre>
          )}
        </section>
      </div>
    </>
  );
}
