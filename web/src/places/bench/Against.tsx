import { useQuery, useQueryClient, type UseQueryResult } from '@tanstack/react-query';
import { useContext, useEffect, useMemo, useRef, useState, useCallback } from 'react';
import { useLocation } from 'wouter';
import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import { driftQuery, needleQuery, peaksBetweenQuery, pointsQuery } from '../../api/queries';
import type { CheckPoint, ClipView, Needle } from '../../api/types';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { axisAt, end, zeroOf } from '../../model/axis';
import {
  axisOf,
  extent,
  heardAt,
  moved,
  offBy,
  ownAt,
  showing,
  typedOffset,
  zoomed,
  type Window,
} from '../../model/mirror';
import { audible, stem } from '../../model/names';
import { angleOf, clockOf, frameOf, partners, placeOf, rateOf } from '../../model/pair';
import type { Doubt } from '../../model/round';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { SayContext } from '../../parts/message';
import { hue } from '../../parts/Stamp';
import { useTurned } from '../../parts/Turn';
import { useWall } from '../../play/useWall';
import { Wall } from '../../play/wall';
import { againstKeys } from './againstKeys';
import { Drift } from './Drift';
import { EARS, EarMix, levelBetween, type Ears } from './ears';
import { Mirror, type Half } from './Mirror';
import { Rungs, rungsOf } from './Rungs';
import { hear } from './Sound';

type Props = {
  day: Day;
  clip: ClipView;
  against: ClipView;
  /** What of the round this clip is, if it is in it. */
  doubt: Doubt | undefined;
  onAgainst: (clip: number) => void;
  onNext: (by: 1 | -1) => void;
  /** Decisions of this round, the last one last: which document each is in. */
  decided: Decided;
};

/** What was decided so far, for taking it back: looks, and places that made passes of their own. */
export type Decided = {
  note: (what: 'look' | 'place') => void;
  /** What the last decision was, taken off the list. */
  last: () => 'look' | 'place';
};

/** How far the needle looks, near and far, seconds. */
const REACH = [1, 6] as const;
/** About a check point, seconds. */
const LOOP = { before: 0.5, after: 0.9 };
/** A place nearer than this to where the clip lies is where it lies, seconds. */
const SAME_S = 0.0005;

const ALONG: Record<CheckPoint['along'], string> = {
  start: 'Near the start',
  middle: 'In the middle',
  end: 'Near the end',
};

/** Two clips against each other: seen, heard, measured, moved, and found right. */
export function Against({ day, clip, against, doubt, onAgainst, onNext, decided }: Props) {
  const run = useCommands();
  const client = useQueryClient();
  const say = useContext(SayContext);
  const said = useTurned();
  const [, go] = useLocation();
  const reference = useMemo(() => placeOf(day, against, 0), [day, against]);
  const placed = useMemo(() => placeOf(day, clip, extent(heardAt(reference)).from), [day, clip, reference]);
  const [shift, setShift] = useState(0);
  const [drag, setDrag] = useState(0);
  const [ears, setEars] = useState<Ears>('both');
  const [gain, setGain] = useState(1);
  const [reach, setReach] = useState<number>(REACH[0]);
  const [loop, setLoop] = useState<number | null>(null);
  const rate = useMemo(() => rateOf(clip, against), [clip, against]);
  const frame = frameOf(rate);
  const there = useMemo(() => heardAt(reference), [reference]);
  const here = useMemo(() => heardAt(placed, shift + drag), [placed, shift, drag]);
  const whole = useMemo<Window>(() => {
    const [a, b] = [extent(there), extent(heardAt(placed, shift))];
    return { from: Math.min(a.from, b.from) - 1, to: Math.max(a.to, b.to) + 1 };
  }, [there, placed, shift]);
  const [view, setView] = useState<Window>(() => {
    const own = extent(heardAt(placed));
    const edge = 0.05 * (own.to - own.from);
    return { from: own.from - edge, to: own.to + edge };
  });

  // The clock begins a whole number of frames before both.
  const from = Math.floor(whole.from);
  const [mix] = useState(() => new EarMix());
  const [wall] = useState(() => {
    const angles = [
      angleOf(against, reference, from, rate, 0),
      angleOf(clip, placed, from, rate, 0),
    ] as const;
    const frames = Math.ceil((whole.to - from) / frame);
    const moving = angles.filter((_, i) => hasPicture([against, clip][i]));
    const group = { start: clockOf(rate), frames, angles: moving, sound: null };
    // What is heard lies where its microphone heard it.
    const heard = [
      angleOf(against, reference, from, rate, -reference.travel_s),
      angleOf(clip, placed, from, rate, -placed.travel_s),
    ] as const;
    return new Wall({ axis_start_s: from, group }, (context) => mix.voices(context, heard[0], heard[1]));
  });
  const [origin] = useState(from);
  useEffect(() => {
    wall.open();
    return () => wall.close();
  }, [wall]);
  const begun = useRef(false);
  useEffect(() => {
    // Opened as it was placed: nothing to be laid anew.
    if (begun.current) {
      wall.lay(
        [angleOf(clip, placed, origin, rate, shift)],
        [angleOf(clip, placed, origin, rate, shift - placed.travel_s)],
      );
    }
    begun.current = true;
  }, [wall, clip, placed, origin, rate, shift]);
  const playing = useWall(wall, (state) => state.playing);
  const shownFrame = useWall(wall, (state) => state.frame);
  const trouble = useWall(wall, (state) => state.silent ?? Object.values(state.trouble)[0] ?? null);
  const [stood, setStood] = useState(() => {
    const own = extent(heardAt(placed));
    return (own.from + own.to) / 2;
  });
  const at = playing ? origin + (shownFrame + 0.5) * frame : stood;
  const seek = useCallback(
    (to: number) => {
      const kept = Math.min(Math.max(to, whole.from), whole.to);
      setStood(kept);
      wall.seek(Math.floor((kept - origin) / frame + 1e-6));
    },
    [wall, whole, origin, frame],
  );
  useEffect(() => {
    wall.seek(Math.floor((stood - origin) / frame + 1e-6));
    // Once, when it is opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [wall]);
  const window = playing && loop === null ? showing(view, at, whole) : view;

  // What is heard of both about the playhead says how loud each is.
  const [ownAtHead, thereAtHead] = [ownAt(here, at), ownAt(there, at)];
  const { data: needle, error: needleError } = useQuery(
    needleQuery(playing || drag !== 0 ? null : { clip, own: ownAtHead, against, there: thereAtHead, reach }),
  ) as UseQueryResult<Needle | null>;
  const loud = useQuery(peaksBetweenQuery(against, 0, against.facts.duration_s, 400)).data;
  const soft = useQuery(peaksBetweenQuery(clip, 0, clip.facts.duration_s, 400)).data;
  const level = useMemo(() => {
    const bodies = (own: ClipView, peaks: typeof loud) =>
      (audible(own, peaks?.channels ?? [])[0] ?? []).filter((_, i) => i % 3 === 2);
    return (
      levelBetween(bodies(against, loud), bodies(clip, soft)) * (needle?.clear && needle.inverted ? -1 : 1)
    );
  }, [loud, soft, needle, against, clip]);
  useEffect(() => mix.set(ears, level), [mix, ears, level]);
  const isPlaced = day.placements.some((one) => one.clip === clip.id && one.placement.stretches.length > 0);
  // Picked where the pass has it: where it is moved to, they show that it is wrong.
  const { data: points = [] } = useQuery(
    pointsQuery(clip, against, isPlaced ? 0 : Math.round(shift * 100) / 100),
  );
  const { data: drift } = useQuery(driftQuery(clip, day.pass?.id));

  // A loop begins again where it began.
  useEffect(() => {
    if (loop === null || !playing || at < loop + LOOP.after) return;
    wall.seek(Math.floor((loop - LOOP.before - origin) / frame));
    void wall.play();
  }, [loop, playing, at, wall, origin, frame]);

  const rungs = useMemo(() => rungsOf(placed), [placed]);
  const moveTo = (to: number) => setShift(Math.abs(to) < 1e-9 ? 0 : to);
  const move = (by: number) => moveTo(shift + by);
  const listen = (moment: number) =>
    void Promise.all([
      ears !== 'reference' && hear(client, clip.id, ownAt(here, moment), Math.max(frame, 0.04)),
      ears !== 'clip' && hear(client, against.id, ownAt(there, moment), Math.max(frame, 0.04)),
    ]).catch((error: Error) => say(error.message));
  const step = (frames: number) => {
    const to = (playing ? at : stood) + frames * frame;
    seek(to);
    setView((now) => showing(now, to, whole));
    listen(to);
  };
  const showPoint = (number: number) => {
    const point = points[number];
    if (!point) {
      say('Nothing stands out in both there: play it from here with space.');
      return;
    }
    const moment = axisOf(here, point.clip_s);
    setView(showing({ from: moment - 1.2, to: moment + 1.2 }, moment, whole));
    setLoop(moment);
    setStood(moment);
    wall.seek(Math.floor((moment - LOOP.before - origin) / frame));
    void wall.play();
  };
  const stand = () => {
    setStood(loop ?? at);
    setLoop(null);
    wall.pause();
  };
  const play = () => (playing ? stand() : void wall.play());
  const zoom = (by: number) =>
    setView((now) => zoomed(now, Math.min(Math.max(at, now.from), now.to), by, whole));
  const next = (by: 1 | -1) => onNext(by);
  const start = placed.stretches[0]?.start_s ?? 0;
  const right = async () => {
    if (isPlaced && Math.abs(shift) < SAME_S) {
      await run.look({ clips: [clip.id], finding: 'right' });
      decided.note('look');
    } else {
      await run.layByHand({ clip: clip.id, start_us: Math.round((start + shift) * 1e6) });
      decided.note('place');
    }
    next(1);
  };
  const aside = async () => {
    await run.look({ clips: [clip.id], finding: 'aside' });
    decided.note('look');
    next(1);
  };
  const take = () => {
    if (needle?.clear) move(needle.later_s);
    else say('Nothing near stands clear of the rest: look farther with F, or lay it by hand.');
  };
  const keys = againstKeys({
    play,
    step,
    nudge: (frames) => move(frames * frame),
    milliseconds: (by) => move(by / 1000),
    sample: (by) => move(by / (clip.facts.sound?.rate ?? 48_000)),
    take,
    wider: () => setReach(reach === REACH[0] ? REACH[1] : REACH[0]),
    rung: (number) => {
      const rung = rungs[number];
      if (rung) moveTo(rung.shift);
    },
    point: showPoint,
    ears: setEars,
    zoom: (way) => zoom(1.6 ** way),
    whole: () => setView(moved({ ...extent(here) }, 0, whole)),
    taller: (way) => setGain((now) => Math.min(64, Math.max(1, now * 2 ** way))),
    right: () => void right(),
    aside: () => void aside(),
    doubt: next,
    slate: () => go(`/bench/${clip.id}`),
    undo: () =>
      void (decided.last() === 'place' ? run.turnShown('undo') : run.turnRound('undo')).then((turned) =>
        said('undo', turned),
      ),
    redo: () => void run.turnRound('redo').then((turned) => said('redo', turned)),
  });
  useKeys(keys);

  const [typed, setTyped] = useState<string | null>(null);
  const offset = typed === null ? null : typedOffset(typed, 1 / frame);
  const colour = hue(day.devices, clip.device);
  const halves: [Half, Half] = [
    { clip: against, heard: there, channel: null, colour: 'ink', name: stem(against) },
    { clip, heard: here, channel: null, colour, name: stem(clip) },
  ];
  const lines = points.map((point, i) => ({ at: axisOf(here, point.clip_s), word: 'QWE'[i] ?? '' }));
  const own = placed.stretches[0];
  const last = placed.stretches.at(-1);
  return (
    <section aria-label="Against" className="flex min-w-0 flex-1 flex-col">
      <div className="dark-pictures flex h-[218px] shrink-0 gap-3 bg-[#0e1110] p-3 text-[#dce7e2]">
        <Picture wall={wall} clip={against} label={stem(against)} />
        <Picture
          wall={wall}
          clip={clip}
          label={`${stem(clip)}${Math.abs(shift) < SAME_S ? '' : ` ${offBy(shift, frame)}`}`}
        />
        <Rungs
          rungs={rungs}
          shift={shift}
          placed={isPlaced ? 'as it was placed' : `as ${stem(against)} begins`}
          frame={frame}
          needle={needle ?? null}
          needleError={needleError?.message ?? null}
          reach={reach}
          onRung={moveTo}
          onTake={take}
          onReach={() => setReach(reach === REACH[0] ? REACH[1] : REACH[0])}
        />
      </div>
      {trouble && <p className="border-t border-line px-4 py-1 text-fault">{trouble}</p>}
      <div className="min-h-0 flex-1 border-t border-line bg-sheet">
        <Mirror
          reference={halves[0]}
          clip={halves[1]}
          window={window}
          at={at}
          zero={zeroOf(day.pass)}
          gain={gain}
          lines={lines}
          onSeek={(to) => {
            setLoop(null);
            seek(to);
          }}
          onZoom={(moment, by) => setView((now) => zoomed(now, moment, by, whole))}
          onPan={(by) => setView((now) => moved(now, by, whole))}
          onDrag={(by, done) => {
            setDrag(done ? 0 : by);
            if (done) move(by);
          }}
        />
      </div>
      <div className="flex shrink-0 gap-6 border-t border-line px-4 py-2">
        <div className="min-w-0 flex-1">
          <h2 className="font-semibold">
            Drift{' '}
            {own && isPlaced && (
              <span className="num pl-2 text-[12px] font-normal text-soft">
                {own.rate_ppm >= 0 ? '+' : '−'}
                {Math.abs(own.rate_ppm).toFixed(1)} ppm ± {own.rate_sigma_ppm.toFixed(2)}
                {last && `, uncorrected the end would be ${offBy(late(placed.stretches), frame)} out`}
              </span>
            )}
          </h2>
          <Drift residuals={drift?.residuals ?? []} duration={clip.facts.duration_s} frame={frame} />
        </div>
        <div className="w-[330px] shrink-0">
          <h2 className="font-semibold">Look and listen</h2>
          {points.length === 0 && <p className="text-soft">Nothing stands out in both.</p>}
          {points.map((point, i) => (
            <button
              key={point.along}
              type="button"
              onClick={() => showPoint(i)}
              className={`flex h-[22px] w-full items-center gap-3 border-t border-line text-left ${loop !== null && Math.abs(loop - axisOf(here, point.clip_s)) < 1e-3 ? 'font-semibold' : ''}`}
            >
              <b className="num w-3">{'QWE'[i]}</b>
              <span className="flex-1">{ALONG[point.along]}</span>
              <span className="num text-soft">{point.clip_s.toFixed(2)} s</span>
            </button>
          ))}
        </div>
      </div>
      <div className="flex shrink-0 items-center gap-2 border-t border-line px-4 py-1.5">
        <Button small onClick={play}>
          {playing ? 'Stand' : 'Play'}
        </Button>
        <div role="group" aria-label="Ears" className="flex gap-1">
          {(Object.keys(EARS) as Ears[]).map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={ears === one}
              onClick={() => setEars(one)}
              className={`rounded-[3px] border px-2 py-0.5 whitespace-nowrap ${ears === one ? 'border-ink bg-ink text-sheet' : 'border-ink/70'}`}
            >
              {EARS[one]}
            </button>
          ))}
        </div>
        <Choice label="Against" value={against.id} onChange={(id) => onAgainst(Number(id))}>
          {[against, ...partners(day, clip).filter((one) => one.id !== against.id)]
            .slice(0, 60)
            .map((one) => (
              <option key={one.id} value={one.id}>
                {stem(one)}
              </option>
            ))}
        </Choice>
        <span className="flex-1" />
        <input
          aria-label="Moved by"
          value={typed ?? offBy(shift, frame)}
          onFocus={(event) => {
            setTyped('');
            event.target.select();
          }}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={() => setTyped(null)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Escape') event.currentTarget.blur();
            if (event.key !== 'Enter') return;
            if (offset === null) say(`“${typed ?? ''}” is no offset: write 12 f, -480 ms, 1.5 s or 0:01:12.`);
            else if (Math.abs(offset) > 864_000) say('An offset of more than ten days is none.');
            else {
              moveTo(offset);
              event.currentTarget.blur();
            }
          }}
          placeholder="12 f, -480 ms"
          className="num w-[132px] rounded-[3px] border border-line bg-sheet px-1.5 py-0.5 text-right"
        />
        <Button small onClick={() => void aside()}>
          Set aside
        </Button>
        <Button main small onClick={() => void right()}>
          {Math.abs(shift) < SAME_S && isPlaced ? 'Right' : 'Lay it here'}
          {doubt ? ', next doubt' : ''}
        </Button>
      </div>
    </section>
  );
}

/** The keys of this view, for the place's dialog. */
export const shownKeys = againstKeys(idle());

/** How much longer a clip's own time is than the axis's over all its stretches, in seconds. */
function late(
  stretches: { clip_start_s: number; clip_end_s: number; start_s: number; rate_ppm: number }[],
): number {
  return stretches.reduce(
    (sum, own) => sum + (own.clip_end_s - own.clip_start_s) - (end(own) - axisAt(own, own.clip_start_s)),
    0,
  );
}

/** Whether there is a moving picture to be shown. */
const hasPicture = (clip: ClipView | undefined) => !!clip?.facts.picture && !clip.facts.picture.still;

function Picture({ wall, clip, label }: { wall: Wall; clip: ClipView; label: string }) {
  const canvas = useCallback(
    (element: HTMLCanvasElement | null) => {
      wall.setSmall(clip.id, element);
      wall.draw();
    },
    [wall, clip.id],
  );
  const { picture } = clip.facts;
  return (
    <figure className="relative flex min-w-0 flex-1 items-center justify-center overflow-hidden">
      {picture && hasPicture(clip) ? (
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Picture of ${label}`}
          width={Math.min(picture.width, 640)}
          height={Math.round((Math.min(picture.width, 640) * picture.height) / picture.width)}
          className="max-h-full max-w-full"
        />
      ) : (
        <p className="px-4">No picture</p>
      )}
      <figcaption className="num absolute bottom-1 left-2 bg-[#0e1110]/80 px-1 text-[12px]">
        {label}
      </figcaption>
    </figure>
  );
}
