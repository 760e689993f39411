import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { bundleQuery, documentQuery, groupQuery, printerQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { bytes } from '../../model/format';
import { useKeys } from '../../keys/useKeys';
import { Empty } from '../../frame/Empty';
import { turnoverKeys } from './keys';
import { GroupChoice } from '../../frame/GroupChoice';

/** A document: its name, what it is, in which form; and how it is looked at before it is saved. */
type Paper = { file: string; what: string; form: string; seen: 'text' | 'page' | 'saved' };

const OF_GROUP: Paper[] = [
  { file: 'group.otio', what: 'The group, one track an angle', form: 'OpenTimelineIO', seen: 'text' },
  { file: 'line.otio', what: 'The line, as it was cut', form: 'OpenTimelineIO', seen: 'text' },
  {
    file: 'choices.otio',
    what: 'The line, every angle to choose from',
    form: 'OpenTimelineIO',
    seen: 'text',
  },
  {
    file: 'nested.otio',
    what: 'The line, each shot the group itself',
    form: 'OpenTimelineIO',
    seen: 'text',
  },
  { file: 'line.edl', what: 'The line as an edit decision list', form: 'SMPTE ST 258', seen: 'text' },
];

const OF_DAY: Paper[] = [
  { file: 'report.html', what: 'The sync report', form: 'a page to print', seen: 'page' },
  { file: 'contact.html', what: 'A picture of each clip', form: 'a page to print', seen: 'page' },
  { file: 'sync.csv', what: 'Where each clip lies, and why', form: 'table', seen: 'text' },
  { file: 'clips.csv', what: 'Every clip and what its file says', form: 'table', seen: 'text' },
  { file: 'takes.csv', what: 'Scenes and takes', form: 'table', seen: 'text' },
  { file: 'channels.csv', what: 'Every channel of sound', form: 'table', seen: 'text' },
  { file: 'day.otio', what: 'Clips with sound, groups, lines', form: 'OpenTimelineIO', seen: 'saved' },
  { file: 'everything.zip', what: 'All of it at once', form: 'archive', seen: 'saved' },
];

const PAPERS = [...OF_GROUP, ...OF_DAY];

/** The place where work is handed on. */
export function Turnover({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const [chosen, setChosen] = useState(0);
  const group = day.groups.find((one) => one.id === id) ?? day.groups[0];
  const missing = group !== undefined && id !== group.id;
  useEffect(() => {
    if (missing) go(`/turnover/${group.id}`, { replace: true });
  }, [missing, group, go]);
  const paper = PAPERS[chosen];
  const line = useQuery(groupQuery(group?.id));
  const addressOf = ({ file }: Paper, number: number) =>
    number < OF_GROUP.length ? `/groups/${group?.id ?? 0}/turnover/${file}` : `/turnover/${file}`;
  const address = paper ? addressOf(paper, chosen) : '';
  const state = [
    line.data?.version,
    group?.group.name,
    day.pass?.id,
    day.intake.version,
    day.groups_turns.version,
    day.round.version,
  ];
  const text = useQuery(documentQuery(address, paper?.seen === 'text' && line.data ? state : undefined));
  const bundled = group && paper?.file.endsWith('.otio') ? `${address}z` : null;
  const whole = useQuery(bundleQuery(bundled, state));
  const printer = useQuery(printerQuery);
  const keys = turnoverKeys({
    step: (by) => setChosen(Math.max(0, Math.min(PAPERS.length - 1, chosen + by))),
    save: () => document.getElementById('save')?.click(),
    whole: () => document.getElementById('save-whole')?.click(),
    sound: () => go('/turnover/sound'),
    films: () => go('/turnover/films'),
    assembly: () => go('/turnover/assembly'),
  });
  useKeys(keys);
  if (!group || !paper) {
    return (
      <Empty day={day} title="Turnover" keys={turnoverKeys(idle())}>
        There is nothing to hand on yet. Sync the day on the <Link href="/day">Day sheet</Link>, then cut a
        group.
      </Empty>
    );
  }
  const list = (papers: Paper[], from: number) => (
    <ul>
      {papers.map((own, i) => {
        const number = from + i;
        return (
          <li
            key={own.file}
            className={`flex items-center gap-2 border-t border-line py-1.5 pl-2 ${number === chosen ? 'bg-sheet' : ''}`}
          >
            <button
              type="button"
              aria-pressed={number === chosen}
              onClick={() => setChosen(number)}
              className="min-w-0 flex-1 text-left"
            >
              <span className="block font-semibold">{own.what}</span>
              <span className="num text-soft">
                {own.file} · {own.form}
              </span>
            </button>
            <a
              id={number === chosen ? 'save' : undefined}
              href={`/api${addressOf(own, number)}`}
              download
              className="rounded-[3px] border border-ink/70 px-2 py-0.5"
              aria-label={`Save: ${own.what}`}
            >
              Save
            </a>
          </li>
        );
      })}
    </ul>
  );
  return (
    <>
      <Head day={day} title="Turnover" keys={keys}>
        <GroupChoice day={day} id={group.id} place="turnover" />
        <Link href="/turnover/sound" className="underline">
          Sound
        </Link>
        <Link href="/turnover/films" className="underline">
          Films
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
          <h2 className="pb-2 text-[14px] font-semibold">{group.group.name}</h2>
          {list(OF_GROUP, 0)}
          <h2 className="border-t border-line pt-4 pb-2 text-[14px] font-semibold">The whole day</h2>
          {list(OF_DAY, OF_GROUP.length)}
          <p className="border-t border-line pt-3 text-soft">
            Sources are named by their file, reel and timecode, so that everything links back to the camera
            originals. Where an angle did not run there is a gap, or black in the list.
          </p>
        </section>
        <section aria-label="Preview" className="flex min-w-0 flex-1 flex-col bg-sheet">
          <h2 className="flex items-center gap-3 border-b border-line px-4 py-2 text-soft">
            <span>
              Preview of <span className="num text-ink">{paper.file}</span>
            </span>
            {paper.seen === 'page' && (
              <a
                href={`/api${address}?shown=true`}
                target="_blank"
                rel="noreferrer"
                className="text-ink underline"
              >
                Open it by itself, to print
              </a>
            )}
            {paper.seen === 'page' &&
              (printer.data?.program ? (
                <a href={`/api${address.replace(/html$/, 'pdf')}`} download className="text-ink underline">
                  Save it as PDF
                </a>
              ) : (
                printer.data && <span>As PDF where chromium is installed</span>
              ))}
            {bundled && whole.data && (
              <a id="save-whole" href={`/api${bundled}`} download className="text-ink underline">
                Save it with its media: {whole.data.files} files, {bytes(whole.data.bytes)}
              </a>
            )}
            {bundled && whole.error && (
              <span className="text-check">Not with its media: {whole.error.message}</span>
            )}
          </h2>
          <Preview day={day} paper={paper} text={text.data} fault={text.error} />
        </section>
      </div>
    </>
  );
}

type PreviewProps = { day: Day; paper: Paper; text: string | undefined; fault: Error | null };

/** What is in a document, as far as it is looked at here. */
function Preview({ day, paper, text, fault }: PreviewProps) {
  if (paper.seen !== 'text') {
    const clips = day.clips.length;
    return (
      <p className="max-w-[60ch] p-4">
        {paper.seen === 'page'
          ? `One page that holds everything: a sentence on the whole day, what will hurt later, the groups, and for each of the ${clips} clips its picture, its place and why it is there.`
          : `It holds ${clips} clips and ${day.groups.length} groups with their lines. Save it, and open it with what it is for.`}
      </p>
    );
  }
  if (fault) return <p className="p-4 text-fault">{fault.message}</p>;
  return (
    <pre
      tabIndex={0}
      aria-label="Text of the document"
      data-testid="preview"
      className="num min-h-0 flex-1 overflow-auto px-4 py-3 text-[12px]"
    >
      {text ?? ''}
    </pre>
  );
}
