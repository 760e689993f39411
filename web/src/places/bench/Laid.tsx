import { useQuery, useQueryClient, type UseQueryResult } from '@tanstack/react-query';
import { useContext, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import type { Day } from '../../api/day';
import { driftQuery, needleQuery, peaksBetweenQuery, pointsQuery } from '../../api/queries';
import type { BreakEdit, ClipView, Needle, PeaksView, Placement } from '../../api/types';
import { useKeys } from '../../keys/useKeys';
import { zeroOf } from '../../model/axis';
import { breaks, nearestBreak } from '../../model/breaks';
import { offset } from '../../model/format';
import {
  axisOf,
  extent,
  heardAt,
  moved,
  ownAt,
  showing,
  zoomed,
  type Heard,
  type Window,
} from '../../model/mirror';
import { audible, stem } from '../../model/names';
import { frameOf } from '../../model/pair';
import { Button } from '../../parts/Button';
import { SayContext } from '../../parts/message';
import { hue } from '../../parts/Stamp';
import { againstKeys, type AgainstHands } from './againstKeys';
import { Drift } from './Drift';
import { EARS, EarMix, levelBetween, type Ears } from './ears';
import { Mirror } from './Mirror';
import { Offset } from './Offset';
import { Picture } from './Picture';
import { POINTS, Points } from './Points';
import { Rates } from './Rates';
import { Rungs, rungsOf } from './Rungs';
import { hear } from './Sound';
import { Third } from './Third';
import { usePair, type Pair } from './usePair';
import type { Half } from './useSound';
import { useSnap } from './useSnap';

type Props = {
  day: Day;
  pair: Pair;
  /** Another clip beside them, and its place. */
  third: { clip: ClipView; placed: Placement } | null;
  /** From when to when either is heard, and the clock of both. */
  whole: Window;
  range: Window;
  /** Whether the pass has a place for the clip. */
  isPlaced: boolean;
  onShift: (to: number) => void;
  /** What is decided of the clip, and where to go next. */
  onBreak: (edit: BreakEdit) => void;
  does: Pick<AgainstHands, 'third' | 'declare' | 'right' | 'aside' | 'doubt' | 'slate' | 'undo' | 'redo'>;
  /** Its controls, at the foot. */
  children: ReactNode;
};

/** How far the needle looks, near and far, seconds. */
const REACH = [1, 6] as const;
/** What is shown about a check point, seconds either way. */
const ABOUT_S = 1.2;

/** How loud a clip is along its length, in what is to be heard of it. */
const bodies = (clip: ClipView, peaks: PeaksView | undefined) =>
  (audible(clip, peaks?.channels ?? [])[0] ?? []).filter((_, i) => i % 3 === 2);

/** Two clips where they lie: seen, heard, measured and moved. */
export function Laid({ day, pair, third, whole, range, isPlaced, onShift, onBreak, does, children }: Props) {
  const { clip, against, reference, placed, shift, rate } = pair;
  const client = useQueryClient();
  const say = useContext(SayContext);
  const [drag, setDrag] = useState(0);
  const [ears, setEars] = useState<Ears>('both');
  const [gain, setGain] = useState(1);
  const [far, setFar] = useState(false);
  const frame = frameOf(rate);
  const there = useMemo(() => heardAt(reference), [reference]);
  const here = useMemo(() => heardAt(placed, shift + drag), [placed, shift, drag]);
  const [mix] = useState(() => new EarMix());
  const { wall, at, playing, trouble, isAsOpened, loop, seek, around, playOrStand } = usePair(
    pair,
    range,
    mix,
  );
  const [view, setView] = useState<Window>(() => {
    const own = extent(here);
    const edge = 0.05 * (own.to - own.from);
    return { from: own.from - edge, to: own.to + edge };
  });
  const window = playing && loop === null ? showing(view, at, whole) : view;

  const reach = REACH[far ? 1 : 0];
  const meeting = { clip, own: ownAt(here, at), against, there: ownAt(there, at), reach };
  const { data: needle = null, error: needleError } = useQuery(
    needleQuery(playing || drag !== 0 ? null : meeting),
  ) as UseQueryResult<Needle | null>;
  const loud = useQuery(peaksBetweenQuery(against, 0, against.facts.duration_s, 400)).data;
  const soft = useQuery(peaksBetweenQuery(clip, 0, clip.facts.duration_s, 400)).data;
  const turned = needle?.clear && needle.inverted;
  const level = useMemo(
    () => levelBetween(bodies(against, loud), bodies(clip, soft)) * (turned ? -1 : 1),
    [against, loud, clip, soft, turned],
  );
  useEffect(() => mix.set(ears, level), [mix, ears, level]);
  // Picked where the pass has it: where it is moved to, they show that it is wrong.
  const begins = isPlaced ? null : Math.round(((placed.stretches[0]?.start_s ?? 0) + shift) * 100) / 100;
  const { data: points = [], isPending: looking } = useQuery(pointsQuery(clip, against, begins));
  const { data: drift } = useQuery(driftQuery(clip, day.pass?.id));

  const broken = useMemo(() => breaks(placed.stretches), [placed]);
  // Opened where something is sharp to see and hear in both; what a hand has laid, in its middle: what is sharp there shows that
  // it is wrong, and not where it belongs.
  const opens = useRef(true);
  useEffect(() => {
    if (looking || !opens.current) return;
    opens.current = false;
    const sharp = points.find(({ along }) => along === 'middle') ?? points[0];
    if (sharp && isAsOpened && placed.verdict !== 'by_hand') seek(axisOf(here, sharp.clip_s));
  }, [looking, points, here, isAsOpened, placed.verdict, seek]);

  const rungs = useMemo(() => rungsOf(placed), [placed]);
  const move = (by: number) => onShift(shift + by);
  const snap = useSnap({ clip, placed, against, there }, onShift);
  const show = (moment: number) => setView((now) => showing(now, moment, whole));
  const listen = (moment: number) =>
    void Promise.all([
      ears !== 'reference' && hear(client, clip.id, ownAt(here, moment), Math.max(frame, 0.04)),
      ears !== 'clip' && hear(client, against.id, ownAt(there, moment), Math.max(frame, 0.04)),
    ]).catch((error: Error) => say(error.message));
  const step = (frames: number) => {
    const to = Math.min(Math.max(at + frames * frame, whole.from), whole.to);
    seek(to);
    show(to);
    listen(to);
  };
  const pointAt = (number: number) => points.find(({ along }) => along === POINTS[number]?.[0]);
  const showPoint = (number: number) => {
    const point = pointAt(number);
    if (!point) {
      return say(
        looking
          ? 'What is sharp in both is still being looked for: again in a moment.'
          : 'Nothing stands out in both there: play it from here with space.',
      );
    }
    const moment = axisOf(here, point.clip_s);
    setView(showing({ from: moment - ABOUT_S, to: moment + ABOUT_S }, moment, whole));
    around(moment);
  };
  const take = () => {
    if (needle?.clear) move(needle.later_s);
    else say('Nothing near stands clear of the rest: look farther with F, or lay it by hand.');
  };
  const breakHere = () => {
    if (!isPlaced) say('It has no place yet: lay it first, then break it.');
    else if (shift === 0) say('Move it until what follows fits, stand where it breaks, then press K.');
    // The playhead's moment as it is heard without the move: what comes before stays.
    else onBreak({ do: 'add', clip_s: ownAt(heardAt(placed), at), step_s: shift });
  };
  const ownHere = ownAt(here, at);
  const nearest = (change: (number: number) => void) => () => {
    const number = nearestBreak(broken, ownHere);
    if (number === null) say('It has no break.');
    else change(number);
  };
  const moveBreak = (number: number) => onBreak({ do: 'move', number, clip_s: ownHere });
  const removeBreak = (number: number) => onBreak({ do: 'remove', number });
  useKeys(
    againstKeys({
      ...does,
      play: playOrStand,
      step,
      nudge: (frames) => move(frames * frame),
      milliseconds: (by) => move(by / 1000),
      sample: (by) => move(by / (clip.facts.sound?.rate ?? 48_000)),
      take,
      wider: () => setFar(!far),
      rung: (number) => {
        const rung = rungs[number];
        if (rung) onShift(rung.shift);
      },
      point: showPoint,
      ears: setEars,
      zoom: (way) =>
        setView((now) => zoomed(now, Math.min(Math.max(at, now.from), now.to), 1.6 ** way, whole)),
      whole: () => setView(moved(extent(here), 0, whole)),
      breakHere,
      moveBreak: nearest(moveBreak),
      removeBreak: nearest(removeBreak),
      taller: (way) => setGain((now) => Math.min(64, Math.max(1, now * 2 ** way))),
    }),
  );
  const beside = useMemo(() => third && { clip: third.clip, heard: heardAt(third.placed) }, [third]);
  const [channels, setChannels] = useState<Record<number, number | null>>({});
  const halves = useMemo<[Half, Half, Half | null]>(() => {
    const half = (own: { clip: ClipView; heard: Heard }, colour: Half['colour']): Half => ({
      ...own,
      channel: channels[own.clip.id] ?? null,
      colour,
      name: stem(own.clip),
    });
    return [
      half({ clip: against, heard: there }, 'ink'),
      half({ clip, heard: here }, hue(day.devices, clip.device)),
      beside && half(beside, 'soft'),
    ];
  }, [against, there, clip, here, beside, channels, day.devices]);
  const lines = useMemo(
    () =>
      POINTS.flatMap(([along, key]) => {
        const point = points.find((one) => one.along === along);
        return point ? [{ at: axisOf(here, point.clip_s), word: key }] : [];
      }),
    [points, here],
  );
  const looped = points.find(({ clip_s }) => loop !== null && Math.abs(loop - axisOf(here, clip_s)) < 1e-3);
  return (
    <section aria-label="Against" className="flex min-w-0 flex-1 flex-col">
      <div className="dark-pictures flex h-[218px] shrink-0 gap-3 bg-[#0e1110] p-3 text-[#dce7e2]">
        <Picture wall={wall} clip={against} label={stem(against)} />
        <Picture
          wall={wall}
          clip={clip}
          label={`${stem(clip)}${shift === 0 ? '' : ` ${offset(shift, rate)}`}`}
        />
        <Rungs
          rungs={rungs}
          shift={shift}
          placed={isPlaced ? 'as it was placed' : `as ${stem(against)} begins`}
          rate={rate}
          needle={needle}
          needleError={needleError?.message ?? null}
          reach={reach}
          onRung={onShift}
          onTake={take}
          onReach={() => setFar(!far)}
        />
      </div>
      {trouble && <p className="border-t border-line px-4 py-1 text-fault">{trouble}</p>}
      <div className="min-h-0 flex-1 border-t border-line bg-sheet">
        <Mirror
          reference={halves[0]}
          clip={halves[1]}
          third={halves[2]}
          window={window}
          at={at}
          zero={zeroOf(day.pass)}
          gain={gain}
          lines={lines}
          onChannel={(own, channel) => setChannels((now) => ({ ...now, [own]: channel }))}
          onSeek={(to) => seek(Math.min(Math.max(to, whole.from), whole.to))}
          onZoom={(moment, by) => setView((now) => zoomed(now, moment, by, whole))}
          onPan={(by) => setView((now) => moved(now, by, whole))}
          onDrag={(by, done, finger) => {
            setDrag(done ? 0 : by);
            // A press that moves nothing is no drag.
            if (done && by !== 0) void snap.drop(shift + by, at, finger);
          }}
        />
      </div>
      {beside && (
        <Third
          third={beside}
          clip={{ clip, heard: here }}
          against={{ clip: against, heard: there }}
          needle={needle}
          at={playing || drag !== 0 ? null : at}
          reach={reach}
          rate={rate}
        />
      )}
      <div className="flex shrink-0 gap-6 border-t border-line px-4 py-2">
        <Drift
          clip={clip}
          placed={isPlaced ? placed : null}
          residuals={drift?.residuals ?? []}
          breaks={isPlaced ? broken : []}
          proposal={drift?.proposal ?? null}
          rate={rate}
          at={ownHere}
          does={{ move: moveBreak, remove: removeBreak }}
        />
        <Rates day={day} clip={clip} />
        <Points points={points} looking={looking} looped={looped?.along ?? null} onShow={showPoint} />
      </div>
      <div className="flex shrink-0 flex-wrap items-center gap-2 border-t border-line px-4 py-1.5">
        <Button small onClick={playOrStand}>
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
        <Offset shift={shift} rate={rate} onShift={onShift} />
        {isPlaced && shift !== 0 && (
          <Button small onClick={breakHere}>
            Only what follows
          </Button>
        )}
        <label className="flex items-center gap-1" title="Dragged, it goes to what fits best near there">
          <input type="checkbox" checked={snap.on} onChange={snap.turn} className="accent-accent" />
          Snap
        </label>
        {children}
      </div>
    </section>
  );
}
