import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useContext, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { useCommands } from '../../api/commands';
import { clapsQuery, seenQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { ClipView, SeenClap, SlateMarkView } from '../../api/types';
import { length } from '../../model/format';
import { Head } from '../../frame/Head';
import { stem } from '../../model/names';
import { Button } from '../../parts/Button';
import { idle } from '../../keys/table';
import { focusOn } from '../../parts/focus';
import { SayContext } from '../../parts/message';
import { Stamp } from '../../parts/Stamp';
import { useKeys } from '../../keys/useKeys';
import { Empty } from '../../frame/Empty';
import { Frames, type Shown } from './frames';
import { benchKeys } from './keys';
import { Marks } from './Marks';
import { markAt, marked, slate, without } from '../../model/marks';
import { Sound, hear } from './Sound';
import { Views } from './Views';

/** Seconds of sound shown. */
const SPAN = 1.2;
/** A frame where there is no picture, seconds. */
const SOUND_STEP = 0.04;

/** Where slates are marked: the frame in which the sticks close, and the clap in the sound. */
export function Bench({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const takes = useMemo(
    () => day.clips.filter((clip) => clip.part !== 'no_sync' && !clip.facts.picture?.still),
    [day.clips],
  );
  const index = Math.max(
    0,
    takes.findIndex((clip) => clip.id === id),
  );
  const clip = takes[index];
  if (!clip) {
    return (
      <Empty day={day} title="Bench" keys={benchKeys(idle())}>
        No clips to mark yet. Bring the day in at <Link href="/intake">Intake</Link>.
      </Empty>
    );
  }
  const step = (by: number) => {
    const next = takes[(index + by + takes.length) % takes.length];
    if (next) go(`/bench/${next.id}`);
  };
  return (
    <>
      <Head day={day} title="Bench" keys={benchKeys(idle())}>
        <span className="num text-soft">
          {index + 1} of {takes.length} takes · {takes.filter((take) => take.marks.length > 0).length} marked
        </span>
        <Views clip={clip.id} shown="slate" />
        <Button onClick={() => step(-1)}>Earlier</Button>
        <Button main onClick={() => step(1)}>
          Next take
        </Button>
      </Head>
      <div className="flex min-h-0 flex-1">
        <TakeList day={day} takes={takes} chosen={clip.id} onChoose={(take) => go(`/bench/${take}`)} />
        <Marking key={clip.id} day={day} clip={clip} onStep={step} />
      </div>
    </>
  );
}

type ListProps = { day: Day; takes: ClipView[]; chosen: number; onChoose: (clip: number) => void };

function TakeList({ day, takes, chosen, onChoose }: ListProps) {
  const here = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    // Newer browsers answer with a promise, which is no way to clean up.
    void here.current?.scrollIntoView({ block: 'nearest' });
  }, [chosen]);
  return (
    <nav aria-label="Takes" className="w-[230px] shrink-0 overflow-y-auto border-r border-line">
      {takes.map((clip) => (
        <button
          key={clip.id}
          ref={clip.id === chosen ? here : undefined}
          type="button"
          aria-current={clip.id === chosen}
          onClick={() => onChoose(clip.id)}
          className={`flex h-7 w-full items-center gap-2 border-b border-line px-3 text-left ${clip.id === chosen ? 'bg-sheet font-semibold' : ''}`}
        >
          <Stamp devices={day.devices} id={clip.device} />
          <span className="num min-w-0 flex-1 truncate">{stem(clip)}</span>
          <span className="num text-[12px] text-soft">{slate(clip)}</span>
          <span className="w-3 text-accent">{'✓'.repeat(Math.min(clip.marks.length, 1))}</span>
          <span className="sr-only">{clip.marks.length > 0 ? 'marked' : 'not marked'}</span>
        </button>
      ))}
    </nav>
  );
}

type MarkingProps = { day: Day; clip: ClipView; onStep: (by: number) => void };

function Marking({ day, clip, onStep }: MarkingProps) {
  const run = useCommands();
  const client = useQueryClient();
  const say = useContext(SayContext);
  const canvas = useRef<HTMLCanvasElement>(null);
  const frames = useRef<Frames | null>(null);
  const picture = clip.facts.picture;
  const heard = clip.channels !== null && clip.facts.sound !== null;
  // Picture start after sound start: a picture's own time plus this is the clip's time.
  const delay = picture && clip.facts.sound ? picture.start_s - clip.facts.sound.start_s : 0;
  const own = clip.marks[0];
  const opened = own ? (own.picture_us ?? own.sound_us ?? 0) / 1e6 : null;
  const [at, setAt] = useState(opened ?? 0);
  const [shown, setShown] = useState<Shown | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [clap, setClap] = useState(-1);
  const { data } = useQuery(clapsQuery(clip.id, heard));
  const claps = useMemo(() => data?.claps ?? [], [data]);
  const heardAt = claps[clap]?.at_s;
  const { data: seen } = useQuery(seenQuery(clip.id, picture ? heardAt : undefined));
  // A take opens at its mark, else at the likeliest clap in its own sound.
  const first = opened === null ? claps[0] : undefined;
  const begun = useRef(false);
  useEffect(() => {
    if (!first || begun.current) return;
    begun.current = true;
    setClap(0);
    setAt(first.at_s);
  }, [first]);
  useEffect(() => {
    if (!picture) return;
    const own = new Frames(clip.id, () => canvas.current, { onShown: setShown, onFault: setFault });
    frames.current = own;
    return () => {
      frames.current = null;
      own.dispose();
    };
  }, [clip.id, picture]);
  useEffect(() => {
    frames.current?.show(at - delay);
  }, [at, delay, clip.id, clip.proxy]);

  const frame = shown?.length || (picture ? picture.rate.den / picture.rate.num : SOUND_STEP);
  const begin = shown ? shown.from + delay : at;
  const listen = (from: number, seconds: number) =>
    void hear(client, clip.id, from, seconds).catch((error: Error) => say(error.message));
  const move = (to: number) => {
    const moment = Math.min(Math.max(0, to), clip.facts.duration_s);
    setAt(moment);
    if (heard) listen(moment, Math.max(frame, 0.04));
  };
  // From the middle of the frame that is shown; while the picture lags behind the keys, from where they are.
  const inFrame = shown !== null && at >= begin - 1e-6 && at < begin + frame;
  const stepFrames = (by: number) => move((inFrame ? begin + frame / 2 : at) + by * frame);
  const us = (seconds: number) => Math.round(seconds * 1e6);
  const keep = (marks: SlateMarkView[]) => void run.edit({ do: 'mark', clips: [clip.id], marks });
  const change = (mark: Partial<SlateMarkView>) => keep(marked(clip.marks, us(at), mark));
  const takeOff = () => keep(without(clip.marks, us(at)));
  const nearest = claps.reduce<number | null>(
    (best, one) => (best === null || Math.abs(one.at_s - at) < Math.abs(best - at) ? one.at_s : best),
    null,
  );
  // The peak near the playhead, else the playhead itself.
  const peak = nearest !== null && Math.abs(nearest - at) < 0.1 ? nearest : at;
  const markHere = () => change(picture ? { picture_us: us(begin) } : { sound_us: us(peak) });
  const markBetween = () => picture && change({ picture_us: us(begin - frame / 2) });
  const markPeak = () => heard && change({ sound_us: us(peak) });
  const nextClap = () => {
    if (claps.length === 0) return;
    const next = (clap + 1) % claps.length;
    setClap(next);
    move(claps[next]?.at_s ?? at);
  };
  // The strike falls between two frames: the later one shows it done.
  const showSeen = () => seen && move(seen.seen_s + 0.99 * frame);
  useKeys(
    benchKeys({
      frames: stepFrames,
      milliseconds: (by) => move(at + by * 0.001),
      nextClap,
      showSeen,
      markHere,
      markBetween,
      markPeak,
      type: () => focusOn('slate-timecode'),
      listen: () => listen(at - 1, 1),
      takeOff,
      take: onStep,
      undo: () => void run.turnIntake('undo'),
      redo: () => void run.turnIntake('redo'),
    }),
  );
  const lines = [
    ...claps.map((one, i) => ({ at: one.at_s, colour: 'check' as const, word: `clap ${i + 1}` })),
    ...clip.marks.flatMap(({ picture_us, sound_us }) => [
      ...(picture_us === null
        ? []
        : [{ at: picture_us / 1e6, colour: 'accent' as const, word: 'picture', before: true }]),
      ...(sound_us === null ? [] : [{ at: sound_us / 1e6, colour: 'accent' as const, word: 'peak' }]),
    ]),
    ...(seen ? [{ at: seen.seen_s, colour: 'check' as const, word: 'seen', before: true }] : []),
    { at, colour: 'ink' as const, word: '' },
  ];
  const markedPicture = clip.marks[markAt(clip.marks, us(at))]?.picture_us ?? null;
  const number = picture ? Math.round((begin - delay) / frame) : null;
  const clash = day.health.find(
    ({ note, aside }) => !aside && note.kind === 'slate_clash' && note.clips.includes(clip.id),
  )?.note.what;
  return (
    <section aria-label="Slate" className="flex min-w-0 flex-1 flex-col">
      <div className="dark-pictures flex min-h-0 flex-1 items-center justify-center bg-black p-3 text-[#dce7e2]">
        {picture ? (
          <canvas
            ref={canvas}
            role="img"
            aria-label={`Frame ${number} of ${clip.file_name}`}
            className="max-h-full max-w-full"
          />
        ) : (
          <p>No picture: mark the peak of the clap in the sound below.</p>
        )}
      </div>
      <div className="num flex items-center gap-4 border-t border-line px-4 py-1.5">
        <Stamp devices={day.devices} id={clip.device} />
        <b className="font-semibold">{clip.file_name}</b>
        <span data-testid="at">
          {length(at)}
          {number !== null && ` · frame ${number}`}
        </span>
        <span className="text-soft">{slate(clip)}</span>
        {clash && <span className="font-sans text-check">{clash}</span>}
        {picture && !shown && (
          <span className={clip.proxy && fault ? 'font-sans text-fault' : 'font-sans text-soft'}>
            {clip.proxy ? fault : 'its light copy is still being made'}
          </span>
        )}
      </div>
      <div className="h-[130px] border-t border-line bg-sheet">
        {heard ? (
          <Sound clip={clip.id} at={at} span={SPAN} lines={lines} label={`Sound around ${length(at)}`} />
        ) : (
          <p className="p-4 text-soft">It has no sound, or was not listened to yet.</p>
        )}
      </div>
      <div className="flex items-start gap-8 border-t border-line px-4 py-2">
        <div className="min-w-0 flex-1">
          <h2 className="font-semibold">Claps to look for</h2>
          {claps.length === 0 && (
            <p className="text-soft">None found: step to it and mark it all the same.</p>
          )}
          {claps.slice(0, 4).map((one, i) => (
            <button
              key={one.at_s}
              type="button"
              onClick={() => {
                setClap(i);
                move(one.at_s);
              }}
              className={`num flex w-full gap-3 border-t border-line py-0.5 text-left ${i === clap ? 'font-semibold' : ''}`}
            >
              <span className="w-16 shrink-0">{length(one.at_s)}</span>
              <span className="w-10 shrink-0 text-soft">{Math.round(one.score * 100)} %</span>
              <span className="truncate font-sans text-soft">{one.why}</span>
            </button>
          ))}
          {picture && heardAt !== undefined && seen !== undefined && (
            <p data-testid="seen" className="flex items-center gap-2 border-t border-line pt-1">
              {seen ? (
                <>
                  <span className="num">{saidOfSeen(seen)}</span>
                  <Button small onClick={() => showSeen()}>
                    Show it
                  </Button>
                </>
              ) : (
                <span className="text-soft">No strike stands out in its picture there.</span>
              )}
            </p>
          )}
        </div>
        <Marks
          clip={clip}
          at={us(at)}
          does={{ markHere, markBetween, markPeak, takeOff, move }}
          onLabel={(text) => change({ label: text || null, picture_us: markedPicture ?? us(begin) })}
          onTake={(text) => change({ take: text || null })}
        />
      </div>
    </section>
  );
}

/** Where a clap seems to strike in the picture, in words. */
function saidOfSeen(seen: SeenClap): string {
  const late = Math.round((seen.heard_s - seen.seen_s) * 1e3);
  const way = late >= 0 ? 'before' : 'after';
  return `Seems to strike at ${length(seen.seen_s)}, ${Math.abs(late)} ms ${way} its sound`;
}
