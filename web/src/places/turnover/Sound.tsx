import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'wouter';
import type { Day } from '../../api/day';
import { useCommands, useTurned } from '../../api/commands';
import { soundQuery } from '../../api/queries';
import type { SoundChange, SoundFileView, SoundView } from '../../api/types';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { idle, type Key } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { Button } from '../../parts/Button';
import { Check } from '../../parts/Check';
import { Kinds } from '../../parts/Kinds';
import { LongList } from '../../parts/LongList';
import { Turn } from '../../parts/Turn';
import { listenKeys, soundKeys } from './keys';
import { SoundForm } from './SoundForm';
import { SoundRow, SOUND_GRID } from './SoundRow';
import { Tracks } from './Tracks';
import { Under } from './Under';

/** Whether a key is not the space bar, which is the list's or the picture's that is listened to. */
const isFree = ({ on }: Key) => !Object.hasOwn(on, 'Space');

const counted = (count: number, what: string) => `${count} ${what}${count === 1 ? '' : 's'}`;

/** Sound onto pictures: what lies under each, how it is corrected and written, and what was. */
export function Sound({ day }: { day: Day }) {
  const sound = useQuery(soundQuery);
  if (sound.isError) {
    return (
      <Empty day={day} title="Turnover" keys={soundKeys(idle())}>
        {sound.error.message}
      </Empty>
    );
  }
  if (!sound.data) {
    return (
      <Empty day={day} title="Turnover" keys={soundKeys(idle())}>
        Looking what lies under each picture …
      </Empty>
    );
  }
  const { clips, groups, tracks } = sound.data;
  if (clips.length + groups.length + tracks.length === 0) {
    return (
      <Empty day={day} title="Turnover" keys={soundKeys(idle())}>
        No picture has sound from a recorder yet. Sync the day on the <Link href="/day">Day sheet</Link>; then
        every picture that a recorder ran with is here.
      </Empty>
    );
  }
  return <Ready day={day} view={sound.data} />;
}

function Ready({ day, view }: { day: Day; view: SoundView }) {
  const [of, setOf] = useState<'clips' | 'groups'>('clips');
  const [at, setAt] = useState(0);
  const [listened, setListened] = useState<number | null>(null);
  const [replace, setReplace] = useState(false);
  const [ordering, setOrdering] = useState(false);
  const commands = useCommands();
  const turned = useTurned();
  const files = of === 'clips' ? view.clips : view.groups;
  const chosen: SoundFileView | undefined = files[Math.min(at, files.length - 1)];
  const change = (change: SoundChange) => void commands.editSound({ version: view.turns.version, change });
  const turn = (way: 'undo' | 'redo') => void commands.turnSound(way).then((done) => turned(way, done));
  const write = (only?: number) =>
    void commands.writeSound({ made_for: of, clips: only === undefined ? null : [only], replace });

  const listening = chosen?.clip != null && chosen.clip === listened;
  const listen = () => setListened(chosen?.clip ?? null);

  const last = files.length - 1;
  const step = (by: number) => setAt(Math.max(0, Math.min(last, at + by)));
  const show = (which: 'clips' | 'groups') => {
    setOf(which);
    setAt(0);
  };
  const keys = soundKeys({
    step,
    pictures: () => show('clips'),
    groups: () => show('groups'),
    write: () => write(),
    order: () => setOrdering(true),
    hear: listen,
    undo: () => turn('undo'),
    redo: () => turn('redo'),
  });
  // While a picture is listened to, the space bar is its own.
  useKeys(listening ? keys.filter(isFree) : keys);

  const failed = files.filter(({ report }) => report.state === 'failed').length;
  return (
    <>
      <Head
        day={day}
        title="Turnover"
        keys={[
          ...(listening ? keys.filter(isFree) : keys),
          ...listenKeys(idle()).filter((key) => listening || isFree(key)),
        ]}
      >
        <Turn turns={view.turns} onTurn={turn} />
        <Link href="/turnover" className="underline">
          Documents
        </Link>
      </Head>
      <div className="flex min-h-0 flex-1">
        <SoundForm day={day} view={view} onChange={change} onTracks={() => setOrdering(true)} />
        <Tracks view={view} open={ordering} onClose={() => setOrdering(false)} onChange={change} />
        <section aria-label="Sound onto pictures" className="flex min-w-0 flex-1 flex-col">
          <div className="flex h-11 shrink-0 items-center gap-3 border-b border-line px-4">
            <h2 className="text-[14px] font-semibold whitespace-nowrap">Sound onto</h2>
            <Kinds
              kinds={[
                ['clips', counted(view.clips.length, 'picture')],
                ['groups', counted(view.groups.length, 'group')],
              ]}
              shown={of}
              onShow={show}
            />
            {failed > 0 && <span className="whitespace-nowrap text-fault">{failed} not written</span>}
            <div className="flex-1" />
            <Check word="replace what is there" on={replace} onTurn={setReplace} className="gap-1" />
            <Button main onClick={() => write()}>
              Write {of === 'clips' ? 'all pictures' : 'all groups'}
            </Button>
          </div>
          <LongList
            key={of}
            label="Files of sound"
            grid={SOUND_GRID}
            heads={[
              of === 'clips' ? 'Picture' : 'Group',
              'Begins at',
              'Tracks',
              'Sound from',
              'Its clock',
              '',
            ]}
            rows={files}
            keyOf={({ report }) => report.path}
            height={28}
            at={Math.min(at, last)}
            onChoose={setAt}
            cells={(file) => <SoundRow file={file} />}
          />
          {chosen && (
            <Under
              file={chosen}
              clip={day.clips.find(({ id }) => id === chosen.clip)}
              listening={listening}
              onListen={listen}
              onWrite={of === 'clips' ? () => write(chosen.clip ?? undefined) : undefined}
            />
          )}
          {view.without.length > 0 && (
            <details className="max-h-40 shrink-0 overflow-y-auto border-t border-line px-4 py-1 text-soft">
              <summary>{view.without.length} without sound</summary>
              <ul>
                {view.without.map(({ path, why }) => (
                  <li key={path}>
                    <span className="num text-ink">{path}</span>: {why}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </section>
      </div>
    </>
  );
}
