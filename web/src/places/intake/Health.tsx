import { useState } from 'react';
import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import type { HealthView, Weight } from '../../api/types';

const WORD: Record<Weight, string> = { fault: 'fault', hurts: 'will hurt', know: 'to know' };
const COLOUR: Record<Weight, string> = { fault: 'text-fault', hurts: 'text-check', know: 'text-soft' };

function summary(notes: HealthView[]): string {
  const count = (weight: Weight) => notes.filter((one) => one.note.weight === weight).length;
  const [faults, hurts, know] = [count('fault'), count('hurts'), count('know')];
  const parts = [
    faults > 0 && `${faults === 1 ? 'One fault' : `${faults} faults`}`,
    hurts > 0 && `${hurts === 1 ? 'one thing' : `${hurts} things`} will hurt later`,
    know > 0 && `${know} to know`,
  ].filter(Boolean);
  const text = parts.join(' · ');
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** What will hurt later: summed up on one line, opened to read each note and what to do. */
export function Health({ day, onShow }: { day: Day; onShow: (clips: number[]) => void }) {
  const { edit } = useCommands();
  const [open, setOpen] = useState(false);
  const [aside, setAside] = useState(false);
  const live = day.health.filter((one) => !one.aside);
  const away = day.health.filter((one) => one.aside);
  const skipped = day.notes.filter((note) => note.code === 'skipped');
  const shown = aside ? away : live;
  const put = (key: string, away: boolean) => void edit({ do: 'set_aside', key, aside: away });
  if (day.health.length === 0 && skipped.length === 0 && !day.slate_log) return null;
  const serious = live.some((one) => one.note.weight !== 'know');
  return (
    <section aria-label="Health" className="shrink-0 border-b border-line">
      <div className="flex h-8 items-center gap-3 px-4">
        <button
          type="button"
          aria-expanded={open}
          className={`font-semibold ${serious ? 'text-check' : ''}`}
          onClick={() => setOpen(!open)}
        >
          {open ? '− ' : '+ '}
          {live.length > 0 ? summary(live) : 'Nothing here will hurt later'}
        </button>
        <div className="flex-1" />
        {day.slate_log && (
          <span className="truncate text-soft">
            slate log {day.slate_log}{' '}
            <button type="button" className="underline" onClick={() => void edit({ do: 'drop_log' })}>
              put away
            </button>
          </span>
        )}
        {skipped.length > 0 && (
          <span
            className="whitespace-nowrap text-soft"
            title={skipped.map((note) => note.message).join('\n')}
          >
            {skipped.length} other {skipped.length === 1 ? 'file' : 'files'} passed over
          </span>
        )}
        {(away.length > 0 || aside) && (
          <button
            type="button"
            className="whitespace-nowrap text-soft underline"
            onClick={() => {
              setAside(!aside);
              setOpen(true);
            }}
          >
            {aside ? 'back to the open notes' : `${away.length} set aside`}
          </button>
        )}
      </div>
      {open && (
        <ul
          className="max-h-[212px] overflow-y-auto border-t border-line"
          tabIndex={0}
          aria-label="Health notes"
        >
          {shown.map(({ note }) => (
            <li key={note.key} className="flex gap-3 border-b border-line px-4 py-1.5 last:border-b-0">
              <span className={`w-[62px] shrink-0 ${COLOUR[note.weight]}`}>{WORD[note.weight]}</span>
              <div className="min-w-0 flex-1">
                <p className="font-semibold break-words">{note.what}</p>
                <p className="text-soft">
                  {note.means} {note.todo}
                </p>
              </div>
              <div className="flex shrink-0 flex-col items-end">
                {note.clips.length > 0 && (
                  <button type="button" className="underline" onClick={() => onShow(note.clips)}>
                    {note.clips.length === 1 ? 'show the clip' : `show ${note.clips.length} clips`}
                  </button>
                )}
                <button type="button" className="text-soft underline" onClick={() => put(note.key, !aside)}>
                  {aside ? 'bring back' : 'set aside'}
                </button>
              </div>
            </li>
          ))}
          {shown.length === 0 && <li className="px-4 py-1.5 text-soft">No notes.</li>}
          {!aside && day.log_missing.length > 0 && (
            <li className="px-4 py-1.5 text-soft">
              In the slate log, but not among the clips: {day.log_missing.join(', ')}
            </li>
          )}
        </ul>
      )}
    </section>
  );
}
