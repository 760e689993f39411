import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { Day } from '../../api/day';
import { useCommands, useRefresh } from '../../api/commands';
import { proposedQuery } from '../../api/queries';
import type { GroupBy, Proposed } from '../../api/types';
import { frameSeconds, length, timecode } from '../../model/format';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { besideSaid } from '../../model/proposed';
import { ProposedStrip } from './ProposedStrip';

const WAYS: [GroupBy['by'], string][] = [
  ['takes', 'takes'],
  ['scenes', 'scenes'],
  ['runs', 'what ran together'],
  ['pauses', 'pauses'],
  ['device', 'a device’s day'],
  ['day', 'the whole day'],
];

const count = (many: number, what: string) => `${many} ${what}${many === 1 ? '' : 's'}`;

/** What is proposed, in a sentence. */
function summary({ groups, alone, going, staying }: Proposed): string {
  const there = groups.filter((own) => own.there !== null).length;
  const silent = groups.filter((own) => !own.sound).length;
  return [
    count(groups.length, 'group'),
    ...(there > 0 ? [`${there} there already`] : []),
    ...(going.length > 0 ? [`${going.length} that nobody cut or shaped would go`] : []),
    ...(staying.length > 0 ? [`${staying.length} cut or shaped stay`] : []),
    ...(alone.length > 0 ? [`${count(alone.length, 'clip')} in none of them`] : []),
    ...(silent > 0 ? [`${count(silent, 'group')} without a recorder`] : []),
  ].join(', ');
}

/** Proposes groups anew: seen beforehand, then all taken, or some. */
export function Propose({ day, onClose }: { day: Day; onClose: () => void }) {
  const [way, setWay] = useState<GroupBy['by']>('takes');
  const [device, setDevice] = useState(day.devices[0]?.id ?? 0);
  const [fewer, setFewer] = useState(2);
  const [least, setLeast] = useState(5);
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const run = useCommands();
  const refresh = useRefresh();
  const by: GroupBy =
    way === 'device'
      ? { by: way, device }
      : way === 'pauses'
        ? { by: way, fewer_than: fewer, least_s: least }
        : { by: way };
  const version = day.groups_turns.version;
  const proposed = useQuery({ ...proposedQuery(by, version), placeholderData: keepPreviousData });
  const main = useRef<HTMLButtonElement>(null);
  const has = !!proposed.data;
  // What is proposed is taken by one key.
  useEffect(() => {
    if (has) main.current?.focus();
  }, [has]);
  const take = async (only: number[] | null) => {
    const done = await run.accept({ version, by, only });
    await refresh.day();
    if (done) onClose();
  };
  const tick = (i: number) => {
    const next = new Set(ticked);
    if (!next.delete(i)) next.add(i);
    setTicked(next);
  };
  const choose = (value: string) => {
    setTicked(new Set());
    setWay(WAYS.find(([own]) => own === value)?.[0] ?? 'takes');
  };
  return (
    <Ask title="Propose groups" onClose={onClose} width={980}>
      <div className="flex flex-wrap items-center gap-4 py-2">
        <Choice label="A group for each of" value={way} onChange={choose}>
          {WAYS.map(([own, word]) => (
            <option key={own} value={own}>
              {word}
            </option>
          ))}
        </Choice>
        {way === 'device' && (
          <Choice label="Device" value={device} onChange={(id) => setDevice(Number(id))}>
            {day.devices.map((own) => (
              <option key={own.id} value={own.id}>
                {own.letter} {own.name}
              </option>
            ))}
          </Choice>
        )}
        {way === 'pauses' && (
          <>
            <Choice label="Fewer ran than" value={fewer} onChange={(own) => setFewer(Number(own))}>
              {[1, 2, 3, 4, 5, 6, 8, 12].map((own) => (
                <option key={own} value={own}>
                  {own}
                </option>
              ))}
            </Choice>
            <Choice label="for at least" value={least} onChange={(own) => setLeast(Number(own))}>
              {[1, 2, 5, 10, 30, 60, 300].map((own) => (
                <option key={own} value={own}>
                  {own < 60 ? `${own} s` : `${own / 60} min`}
                </option>
              ))}
            </Choice>
          </>
        )}
      </div>
      {proposed.isError && <p className="text-fault">{proposed.error.message}</p>}
      {proposed.data && <p className="pb-2 text-soft">{summary(proposed.data)}.</p>}
      <ul aria-label="Proposed groups" className="min-h-[120px] overflow-y-auto border-y border-line">
        {proposed.data?.groups.map((own, i) => (
          <li key={i} className="flex h-8 items-center gap-3 border-b border-line last:border-0">
            <label className="flex w-[200px] items-center gap-2">
              <input
                type="checkbox"
                disabled={own.there !== null}
                checked={ticked.has(i)}
                onChange={() => tick(i)}
              />
              <span className="min-w-0 flex-1 truncate font-semibold">{own.name}</span>
            </label>
            <ProposedStrip day={day} group={own} />
            <span className="num text-soft">{timecode(own.start)}</span>
            <span className="num w-16 text-right">{length(own.frames * frameSeconds(own.start.rate))}</span>
            <span className="num w-40 whitespace-nowrap text-soft">
              {count(own.angles, 'angle')} · {count(own.clips, 'clip')}
            </span>
            <span
              className={`min-w-0 flex-1 truncate ${own.sound || own.there !== null ? 'text-soft' : 'text-check'}`}
              title={besideSaid(own)}
            >
              {besideSaid(own)}
            </span>
          </li>
        ))}
      </ul>
      <div className="flex justify-end gap-2 pt-3">
        <Button onClick={onClose}>Leave it</Button>
        <Button disabled={ticked.size === 0} onClick={() => void take([...ticked])}>
          Take those ticked
        </Button>
        <Button main ref={main} disabled={!proposed.data} onClick={() => void take(null)}>
          Take all of them
        </Button>
      </div>
    </Ask>
  );
}
