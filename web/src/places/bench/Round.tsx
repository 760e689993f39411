import { useContext, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { stem } from '../../model/names';
import { partnerOf } from '../../model/pair';
import { WHY, due, nextDoubt, round, type Doubt } from '../../model/round';
import { Button } from '../../parts/Button';
import { Name } from '../../parts/Name';
import { SayContext } from '../../parts/message';
import { Stamp } from '../../parts/Stamp';
import { VerdictMark } from '../../parts/VerdictMark';
import { idle } from '../../keys/table';
import { Against, type Decided } from './Against';
import { againstKeys } from './againstKeys';
import { Views } from './Views';

type Props = { day: Day; id: number | undefined; against: number | undefined };

/** The round of doubt: what needs eyes at the left, worst first, and the one at hand against what it ran with. */
export function Round({ day, id, against }: Props) {
  const [, go] = useLocation();
  const doubts = useMemo(() => round(day), [day]);
  const left = due(doubts).length;
  const clip = day.clips.find((one) => one.id === id) ?? doubts[0]?.clip;
  const partner = clip && (day.clips.find((one) => one.id === against) ?? partnerOf(day, clip));
  const at = (next: Doubt | undefined) => next && go(`/bench/${next.clip.id}/against`);
  const keys = againstKeys(idle());
  const [who, setWho] = useState<string | null>(null);
  const say = useContext(SayContext);
  const declare = () => {
    if (left > 0)
      say(
        `The day can be declared checked when ${left === 1 ? 'one more is' : `${left} more are`} looked at.`,
      );
    else if (!day.checked) setWho('');
  };
  // Kept while one clip after the other is looked at.
  const list = useRef<('look' | 'place')[]>([]);
  const decided = useMemo<Decided>(
    () => ({ note: (what) => list.current.push(what), last: () => list.current.pop() ?? 'look' }),
    [],
  );
  if (!clip) {
    return (
      <Empty day={day} title="Bench" keys={keys}>
        {day.pass ? (
          <>
            Nothing needs eyes. <Declared day={day} left={0} who={who} onWho={setWho} />
          </>
        ) : (
          <>
            Nothing is placed yet: go to the <Link href="/day">Day sheet</Link> and sync the day.
          </>
        )}
      </Empty>
    );
  }
  return (
    <>
      <Head day={day} title="Bench" keys={keys}>
        <span className="num text-soft" data-testid="left">
          {left === 0 ? 'all looked at' : `${left} to look at`}
        </span>
        <Declared day={day} left={left} who={who} onWho={setWho} />
        <Views clip={clip.id} shown="against" />
      </Head>
      <div className="flex min-h-0 flex-1">
        <Queue doubts={doubts} day={day} chosen={clip.id} />
        {partner ? (
          <Against
            key={`${clip.id} ${partner.id} ${day.pass?.id}`}
            day={day}
            clip={clip}
            against={partner}
            doubt={doubts.find((one) => one.clip.id === clip.id)}
            decided={decided}
            onDeclare={declare}
            onAgainst={(other) => go(`/bench/${clip.id}/against/${other}`)}
            onNext={(by) => at(nextDoubt(doubts, clip.id, by))}
          />
        ) : (
          <p className="p-6 text-soft">
            No other clip with sound has a place: there is nothing to lay {clip.file_name} against.
          </p>
        )}
      </div>
    </>
  );
}

function Queue({ doubts, day, chosen }: { doubts: Doubt[]; day: Day; chosen: number }) {
  const here = useRef<HTMLAnchorElement>(null);
  useEffect(() => {
    here.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  return (
    <nav aria-label="Round of doubt" className="w-[210px] shrink-0 overflow-y-auto border-r border-line">
      {doubts.map(({ clip, placed, why }, i) => (
        <div key={clip.id}>
          {doubts[i - 1]?.why !== why && (
            <h2 className="flex h-7 items-center gap-2 border-b border-line px-3 text-[12px] text-soft">
              {WHY[why]}
              <span className="num">{doubts.filter((one) => one.why === why).length}</span>
            </h2>
          )}
          <Link
            ref={clip.id === chosen ? here : undefined}
            href={`/bench/${clip.id}/against`}
            aria-current={clip.id === chosen ? 'true' : undefined}
            className={`flex h-7 items-center gap-2 border-b border-line px-3 ${clip.id === chosen ? 'bg-sheet font-semibold' : ''}`}
          >
            <Stamp devices={day.devices} id={clip.device} />
            <Name text={stem(clip)} className="flex-1" />
            <VerdictMark verdict={placed.placement.verdict} />
          </Link>
        </div>
      ))}
      {doubts.length === 0 && <p className="p-3 text-soft">Nothing needs eyes.</p>}
    </nav>
  );
}

type DeclaredProps = {
  day: Day;
  left: number;
  /** The name that is typed; null where nobody is about to declare it. */
  who: string | null;
  onWho: (who: string | null) => void;
};

/** Who declared the day checked; or a way to do so. */
function Declared({ day, left, who, onWho: setWho }: DeclaredProps) {
  const { declare } = useCommands();
  const { checked } = day;
  if (checked) {
    return (
      <span className="flex items-center gap-2 text-[12px]">
        Checked by {checked.who}, {new Date(checked.at * 1000).toLocaleDateString()}
        <Button small onClick={() => void declare({ who: null })}>
          Take back
        </Button>
      </span>
    );
  }
  if (who === null) {
    return (
      <Button small disabled={left > 0 || !day.pass} onClick={() => setWho('')}>
        Declare the day checked
      </Button>
    );
  }
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (who.trim()) void declare({ who: who.trim() }).then(() => setWho(null));
      }}
    >
      <input
        aria-label="Checked by"
        autoFocus
        value={who}
        maxLength={60}
        placeholder="your name"
        onChange={(event) => setWho(event.target.value)}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Escape') setWho(null);
        }}
        className="w-32 rounded-[3px] border border-line bg-sheet px-1.5 py-0.5"
      />
      <button type="submit" disabled={!who.trim()} className="rounded-[3px] border border-ink/70 px-2 py-0.5">
        Checked
      </button>
    </form>
  );
}
