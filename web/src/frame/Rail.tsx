import { useQuery } from '@tanstack/react-query';
import { useMemo, useSyncExternalStore } from 'react';
import { Link, useLocation } from 'wouter';
import { useCommands } from '../api/commands';
import { useJobs, type Day } from '../api/day';
import { courseQuery } from '../api/queries';
import { theme } from '../draw/theme';
import { leftSaid, secondsLeft } from '../model/left';
import { due, round } from '../model/round';

const JOB_WORDS: Record<string, string> = {
  intake: 'Reading files',
  listen: 'Listening',
  proxy: 'Proxies',
  pass: 'Syncing',
  relink: 'Finding files',
  sound: 'Writing sound',
  film: 'Making films',
};

/** The places in the order of the work, and the running jobs at the foot. */
export function Rail({ day }: { day: Day }) {
  const faults = day.health.filter((one) => !one.aside && one.note.weight !== 'know').length;
  const doubts = useMemo(() => due(round(day)).length, [day]);
  const marked = day.clips.filter((clip) => clip.marks.length > 0).length;
  const cuts = day.groups.filter((group) => group.switches > 1).length;
  const places: [path: string, name: string, count: number, hands: boolean][] = [
    ['/intake', 'Intake', faults, true],
    ['/day', 'Day sheet', doubts, true],
    ['/bench', 'Bench', marked, false],
    ['/groups', 'Groups', day.groups.length, false],
    ['/switch', 'Switch', cuts, false],
    ['/turnover', 'Turnover', 0, false],
  ];
  const [location] = useLocation();
  return (
    <nav aria-label="Places" className="flex w-[132px] shrink-0 flex-col border-r border-line">
      <div className="px-3.5 pt-3.5 pb-3 text-[15px] font-semibold">Metaxis</div>
      <ol>
        {places.map(([path, name, count, hands]) => {
          const here = location.startsWith(path);
          return (
            <li key={path}>
              <Link
                href={path}
                aria-current={here ? 'page' : undefined}
                className={`flex h-8 items-center border-y px-3.5 ${here ? 'border-line bg-sheet font-semibold' : 'border-transparent hover:bg-band'}`}
              >
                <span className="flex-1">{name}</span>
                {count > 0 && (
                  <span className={`num ${hands ? 'text-check' : 'text-soft'}`}>
                    {count}
                    <span className="sr-only">{hands ? ' need a look' : ''}</span>
                  </span>
                )}
              </Link>
            </li>
          );
        })}
      </ol>
      <div className="flex-1" />
      <Jobs />
      <Theme />
    </nav>
  );
}

function Jobs() {
  const { job: tell } = useCommands();
  const { data: course = {} } = useQuery(courseQuery);
  const shown = useJobs().filter((job) => job.open > 0 || job.stopped > 0 || job.failed > 0);
  return (
    <div aria-label="Jobs" role="region">
      {shown.map((job) => {
        const word = JOB_WORDS[job.kind] ?? job.kind;
        const act = (what: 'stop' | 'resume') => void tell(job.kind, what);
        return (
          <div key={job.kind} className="border-t border-line px-3.5 py-2">
            <div className="flex flex-wrap items-baseline justify-between gap-x-1">
              {word}
              <span className="text-[12px] text-soft">{leftSaid(secondsLeft(course, job))}</span>
            </div>
            <div
              role="progressbar"
              aria-label={word}
              aria-valuemin={0}
              aria-valuemax={job.total}
              aria-valuenow={job.done}
              className="my-1 h-[3px] bg-line"
            >
              <div
                className="h-full bg-accent"
                style={{ width: `${(100 * job.done) / Math.max(job.total, 1)}%` }}
              />
            </div>
            <div className="flex justify-between text-[12px] text-soft">
              <span className="num">
                {job.kind === 'listen'
                  ? `${Math.floor((100 * job.done) / Math.max(job.total, 1))} %`
                  : `${job.done} of ${job.total}`}
              </span>
              {job.open > 0 ? (
                <button type="button" onClick={() => act('stop')} aria-label={`Stop: ${word}`}>
                  stop
                </button>
              ) : (
                <button type="button" onClick={() => act('resume')} aria-label={`Go on: ${word}`}>
                  {job.failed > 0 ? 'again' : 'go on'}
                </button>
              )}
            </div>
            {job.failed > 0 && job.message && (
              <p className="mt-1 text-[12px] break-words text-fault" title={job.message}>
                {job.message.length > 140 ? `${job.message.slice(0, 140)}…` : job.message}
              </p>
            )}
          </div>
        );
      })}
    </div>
  );
}

/** Makes the page dim for a dark room, and bright again. */
function Theme() {
  const room = useSyncExternalStore(theme.subscribe, theme.shown);
  const other = room === 'dim' ? 'film' : 'dim';
  return (
    <button
      type="button"
      className="border-t border-line px-3.5 py-2 text-left text-soft"
      onClick={() => theme.show(other)}
    >
      {other === 'dim' ? 'Dim' : 'Bright'}
    </button>
  );
}
