import { useEffect, useState } from 'react';
import { Link, useLocation } from 'wouter';
import type { Day } from '../../api/day';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { frameSeconds, length, timecode } from '../../model/format';
import { Button } from '../../parts/Button';
import { ThroughAsk } from '../../parts/ThroughAsk';
import { Turn } from '../../parts/Turn';
import { Detail } from './Detail';
import { Format } from './Format';
import { groupKeys } from './keys';
import { NameAll } from './NameAll';
import { Propose } from './Propose';
import { TakeClipIn } from './TakeClipIn';
import { Title } from './Title';
import { useAngles } from './useAngles';
import { useShaping } from './useShaping';

/** The place of the groups: proposed, shaped by hand; who ran when, in what order, in what format. */
export function Groups({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const [asking, setAsking] = useState<
    'propose' | 'name' | 'take in' | 'title' | 'format' | 'through' | null
  >(null);
  const index = Math.max(
    0,
    day.groups.findIndex((group) => group.id === id),
  );
  const group = day.groups[index];
  const missing = group !== undefined && id !== group.id;
  useEffect(() => {
    if (missing) go(`/groups/${group.id}`, { replace: true });
  }, [missing, group, go]);
  const shaping = useShaping(day, group);
  const { hands, ticked } = shaping;
  const angles = useAngles(group, shaping.at, shaping.inTurn, shaping.shape);
  const merge = () => void shaping.merge().then((made) => made !== null && go(`/groups/${made}`));
  const keys = groupKeys({
    ...hands,
    step: (by) => {
      const next = day.groups[index + by];
      if (next) go(`/groups/${next.id}`);
    },
    cut: () => group && go(`/switch/${group.id}`),
    propose: () => setAsking('propose'),
    tick: () => group && shaping.tick(group.id),
    merge,
    duplicate: () => group && void shaping.shape({ do: 'duplicate', group: group.id }),
    remove: () => void shaping.remove(),
    angle: angles.next,
    moveAngle: angles.move,
    nameAngle: () => document.getElementById('angle-name')?.focus(),
    hide: angles.hide,
    nudge: angles.nudge,
    blank: angles.blank,
    aside: angles.aside,
    takeIn: () => group && setAsking('take in'),
    title: () => group && setAsking('title'),
    format: () => group && setAsking('format'),
    through: () => group && setAsking('through'),
    toCovered: hands.toCovered,
    zoom: (way) => shaping.view.zoom(1.6 ** way, shaping.at),
    play: () => document.getElementById('sound-grid-play')?.click(),
    grid: () => document.getElementById('sound-grid')?.focus(),
    nameAll: () => group && setAsking('name'),
    moveGroup: (by) => {
      const to = index + by;
      if (group && to >= 0 && to < day.groups.length) {
        void shaping.shape({ do: 'move', group: group.id, to });
      }
    },
    undo: () => void shaping.turn('undo'),
    redo: () => void shaping.turn('redo'),
  });
  useKeys(keys);
  const close = () => setAsking(null);
  const dialog = (
    <>
      {asking === 'propose' && <Propose day={day} onClose={close} />}
      {asking === 'name' && <NameAll day={day} groups={[...ticked]} onClose={close} />}
      {asking === 'format' && group && (
        <Format
          day={day}
          summary={group}
          version={shaping.version}
          onDone={(made) => {
            close();
            go(`/groups/${made}`);
          }}
          onClose={close}
        />
      )}
      {asking === 'through' && group && (
        <ThroughAsk
          day={day}
          id={group.id}
          group={group.group}
          onArrange={(how) => shaping.shape({ do: 'arrange', group: group.id, how })}
          onClose={close}
        />
      )}
      {asking === 'title' && group && (
        <Title day={day} summary={group} onTake={(clip) => angles.takeIn(clip, shaping.at)} onClose={close} />
      )}
      {asking === 'take in' && group && (
        <TakeClipIn
          day={day}
          summary={group}
          version={shaping.version}
          at={shaping.at}
          here={angles.clip}
          onTake={angles.takeIn}
          onClose={close}
        />
      )}
    </>
  );
  if (!group) {
    return (
      <>
        <Empty day={day} title="Groups" keys={groupKeys(idle())}>
          {day.pass ? (
            <>
              There are no groups.{' '}
              <button type="button" className="underline" onClick={() => setAsking('propose')}>
                Propose some
              </button>{' '}
              from what ran together.
            </>
          ) : (
            <>
              There are no groups yet. They are proposed by a pass from the takes of the day: go to the{' '}
              <Link href="/day">Day sheet</Link> and sync the day.
            </>
          )}
        </Empty>
        {dialog}
      </>
    );
  }
  const seconds = (frames: number) => length(frames * frameSeconds(group.group.start.rate));
  const many = ticked.size > 1 ? `${ticked.size} groups` : '';
  return (
    <>
      <Head day={day} title="Groups" keys={keys}>
        <Turn turns={day.groups_turns} onTurn={(way) => void shaping.turn(way)} />
        <Link
          href={`/switch/${group.id}`}
          className="rounded-[3px] border border-accent bg-accent px-3 py-1 font-semibold text-on-accent"
        >
          Cut this group
        </Link>
      </Head>
      <div className="flex min-h-0 flex-1">
        <div className="flex w-[272px] shrink-0 flex-col border-r border-line">
          <div className="flex flex-wrap gap-1.5 border-b border-line px-4 py-2">
            <Button small onClick={() => setAsking('propose')}>
              Propose…
            </Button>
            <Button small onClick={() => setAsking('name')}>
              Name{many ? ` ${many}` : ' all'}…
            </Button>
            <Button small disabled={ticked.size < 2 && index + 1 >= day.groups.length} onClick={merge}>
              {many ? `Make ${many} one` : 'Join the next'}
            </Button>
            <Button
              small
              onClick={() => void shaping.shape({ do: 'duplicate', group: group.id })}
              title="the same group once more"
            >
              Duplicate
            </Button>
            <Button small onClick={() => void shaping.remove()}>
              Delete{many && ` ${many}`}
            </Button>
          </div>
          <nav aria-label="Groups" className="min-h-0 flex-1 overflow-y-auto py-1">
            {day.groups.map((one) => (
              <div
                key={one.id}
                className={`flex h-8 items-center gap-2 border-b border-line pr-4 pl-3 ${one.id === group.id ? 'bg-sheet font-semibold' : ''}`}
              >
                <input
                  type="checkbox"
                  aria-label={`Tick ${one.group.name}`}
                  checked={ticked.has(one.id)}
                  onChange={() => shaping.tick(one.id)}
                />
                <Link
                  href={`/groups/${one.id}`}
                  aria-current={one.id === group.id ? 'true' : undefined}
                  className="flex h-full min-w-0 flex-1 items-center gap-2"
                  title={`${one.group.name}, from ${timecode(one.group.start)}`}
                >
                  <span className="min-w-0 flex-1 truncate">{one.group.name}</span>
                  <span className="num font-normal text-soft">{seconds(one.group.frames)}</span>
                  <span className="num w-4 text-right font-normal text-soft" title="angles">
                    {one.group.angles.length}
                  </span>
                </Link>
              </div>
            ))}
          </nav>
        </div>
        <Detail
          key={group.id}
          day={day}
          summary={group}
          at={shaping.at}
          outFrom={shaping.outFrom}
          view={shaping.view}
          stretches={shaping.stretches}
          hands={hands}
          angles={angles}
          onTakeIn={() => setAsking('take in')}
          onTitle={() => setAsking('title')}
          onFormat={() => setAsking('format')}
          onThrough={() => setAsking('through')}
          onShape={(change) => void shaping.shape(change)}
        />
      </div>
      {dialog}
    </>
  );
}
