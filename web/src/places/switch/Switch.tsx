import { useQuery } from '@tanstack/react-query';
import { useContext, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { groupQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { Arrange, GroupView, LineEdit } from '../../api/types';
import { Empty } from '../../frame/Empty';
import { GroupChoice } from '../../frame/GroupChoice';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { timecode } from '../../model/format';
import { angleName, angleOf, seenOf } from '../../model/angles';
import { changesOf } from '../../model/changes';
import { runsAt, stretchAt } from '../../model/line';
import { BLACK } from '../../model/onAir';
import { banksOf } from '../../model/pages';
import { Button } from '../../parts/Button';
import { stemOf } from '../../model/names';
import { SayContext } from '../../parts/message';
import { ThroughAsk } from '../../parts/ThroughAsk';
import { useGrid } from '../../play/useGrid';
import { turnsOf, useLineSound } from '../../play/useLineSound';
import { useView } from '../../parts/useView';
import { useWall } from '../../play/useWall';
import { Angles } from './Angles';
import { FollowedBy } from './FollowedBy';
import { Label, Passed, Reaction } from './Foot';
import { GridAsk, Heard } from './Heard';
import { switchKeys } from './keys';
import { LayAsk } from '../../parts/LayAsk';
import { runningAt } from './running';
import { Layers, OverLabel } from './Layers';
import { LineStrip } from './LineStrip';
import { SoundTurns } from './SoundTurns';
import { SwitchLog } from './SwitchLog';
import { Markers } from './Markers';
import { Notices } from './Notices';
import { LinesAsk } from './LinesAsk';
import { QuietAsk } from './QuietAsk';
import { Tools } from './Tools';
import { useCutWall, type Stood } from './useCutWall';
import { useLine } from './useLine';
import { useLook } from './useLook';
import { useLoop } from './useLoop';
import { useMarks } from './useMarks';
import { useMend } from './useMend';
import { useRun, WHATS, type What } from './useRun';
import { useShape, type Shaped } from './useShape';
import { useSpan, type Span } from './useSpan';

/** The place where a group is cut. */
export function Switch({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const first = day.groups[0]?.id;
  useEffect(() => {
    if (id === undefined && first !== undefined) go(`/switch/${first}`, { replace: true });
  }, [id, first, go]);
  const view = useQuery(groupQuery(id));
  const stood: Stood = useRef(null);
  const shaped: Shaped = useRef(null);
  if (first === undefined) {
    return (
      <Empty day={day} title="Switch" keys={switchKeys(idle())}>
        There is nothing to cut yet. Groups are proposed by a pass: go to the{' '}
        <Link href="/day">Day sheet</Link> and sync the day.
      </Empty>
    );
  }
  if (view.isError) {
    return (
      <Empty day={day} title="Switch" keys={switchKeys(idle())}>
        {view.error.message}. Choose a group under <Link href="/groups">Groups</Link>.
      </Empty>
    );
  }
  if (!view.data)
    return (
      <Empty day={day} title="Switch" keys={switchKeys(idle())}>
        Opening the group…
      </Empty>
    );
  const inLine = new Set(view.data.line.switches.map((one) => one.angle));
  // The wall is made anew where the group or its angles are others.
  const shape = JSON.stringify(
    view.data.group.angles.map((angle) => [
      angle.id,
      // One that is set aside is opened once the line shows it.
      angle.hidden && !inLine.has(angle.id),
      angle.parts.map((part) => [part.clip, part.from_frame, part.to_frame, part.stretch.start_s]),
    ]),
  );
  return (
    <Cutting key={`${view.data.id} ${shape}`} day={day} view={view.data} stood={stood} shaped={shaped} />
  );
}

type CuttingProps = { day: Day; view: GroupView; stood: Stood; shaped: Shaped };

function Cutting({ day, view, stood, shaped }: CuttingProps) {
  const { group, line } = view;
  const { edit, ...turning } = useLine(view);
  const { shape, undo, redo } = useShape(view, shaped, turning);
  const fps = group.start.rate.num / group.start.rate.den;
  // The stretch that edits refer to; the one at the playhead unless another was chosen.
  const [chosen, setChosen] = useState<number | null>(null);
  // The stretch about whose head it goes round and round.
  const [looped, setLooped] = useState<number | null>(null);
  // An angle that was asked for where it does not run: taken when it is asked for again.
  const [asked, setAsked] = useState<{ frame: number; angle: number } | null>(null);
  const [jumps, setJumps] = useState(false);
  const wall = useCutWall(view, stood, jumps);
  const look = useLook(wall);
  const points = useSpan(group.frames);
  const [laying, setLaying] = useState<Span | null>(null);
  const [through, setThrough] = useState(false);
  const [quiet, setQuiet] = useState(false);
  const [lines, setLines] = useState(false);
  const [what, setWhat] = useState<What>('picture');
  const [page, setPage] = useState(0);
  const [size, setSize] = useState<Size>('row');
  const [pointed, setPointed] = useState<number | null>(null);
  const turns = useMemo(() => turnsOf(view), [view]);
  const sound = useGrid(wall, view.id, view.axis_start_s, turns);
  const [grid, setGrid] = useState(false);
  const playing = useWall(wall, (state) => state.playing);
  const mend = useMend(view, what, edit);
  const marks = useMarks(wall, line, edit);
  const { switches } = mend;
  const index = useWall(wall, (state) => stretchAt(switches, state.frame));
  const shownIndex = useWall(wall, (state) => stretchAt(line.switches, state.frame));

  const run = useRun(wall, view, playing, what, edit);
  const { onAir, onEar } = run;
  useEffect(() => wall.setOnAir(onAir), [onAir, wall]);
  const air = useWall(wall, (state) => onAir(state.frame).angle);
  const offered = useWall(wall, ({ frame }) => (asked?.frame === frame ? asked.angle : null));

  const instead = useLineSound(wall, view, sound, onAir, onEar);

  const seen = seenOf(group);
  const say = useContext(SayContext);
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const name = (id: number) => angleName(day, group, angleOf(group, id));
  const take = async (id: number) => {
    const at = run.meant();
    const angle = angleOf(group, id);
    if (id === BLACK || what === 'sound') {
      setAsked(null);
      await run.take(id);
      return;
    }
    if (!angle || (what === 'picture' && onAir(at).angle === id)) return;
    // An angle without a picture is no slip of the hand that is noticed later.
    if (!runsAt(angle, at) && !(asked?.frame === at && asked.angle === id)) {
      // Play goes on: there is no time for a question.
      if (playing) say(`${name(id)} did not run at ${label(at)}: nothing was recorded.`);
      else setAsked({ frame: at, angle: id });
      return;
    }
    setAsked(null);
    setChosen(null);
    await run.take(id);
  };
  // While it goes round a cut, that is the one that is moved, wherever the playhead is.
  const stretch = Math.min((playing ? looped : chosen) ?? index, switches.length - 1);
  const seenStretch = mend.ofSound ? shownIndex : stretch;
  const zoom = useView(view.id, group.frames);
  const seek = (to: number) => {
    setChosen(null);
    setAsked(null);
    zoom.show(to);
    wall.seek(to);
  };
  const choose = (next: number) => {
    const at = switches[next]?.at;
    if (at !== undefined) {
      zoom.show(at);
      wall.seek(at);
    }
    setAsked(null);
    setChosen(next);
  };
  const change = (next: LineEdit) => {
    setChosen(stretch);
    return mend.edit(next);
  };
  const ofPicture = (next: LineEdit) => {
    if (!mend.ofSound) setChosen(stretch);
    void edit(next);
  };
  const another = (by: number) => {
    const shown = seen.findIndex(({ id }) => id === switches[stretch]?.angle);
    const next = seen[(shown + by + seen.length) % seen.length];
    if (next) void change({ do: 'change_angle', index: stretch, angle: next.id });
  };
  const shuttle = (way: 1 | -1) => {
    const speed = wall.shuttleSpeed;
    if (way < 0) wall.shuttle(Math.max(-8, Math.min(-1, (speed || -0.5) * 2)));
    else if (speed >= 1) wall.shuttle(Math.min(speed * 2, 8));
    else void wall.play();
  };
  const loop = useLoop(wall, switches[stretch]?.at ?? 0, group.frames, fps);
  const round = () => {
    setLooped(loop.isOn ? null : stretch);
    setChosen(stretch);
    loop.turn();
  };
  const playOrStand = () => {
    loop.end();
    setLooped(null);
    if (playing) wall.pause();
    else void wall.play();
  };
  const goTo = (frames: readonly number[], by: 1 | -1) => {
    const at = wall.shownFrame;
    const next = by > 0 ? frames.find((own) => own > at) : frames.findLast((own) => own < at);
    if (next !== undefined) seek(next);
  };
  const roll = (cut: number, by: number) => {
    if (by !== 0) void edit({ do: 'roll', index: cut, by });
  };
  const passage = points.span ?? mend.span(stretch);
  const takeOut = async ({ from, to }: Span) => {
    // Where it was is where the playhead stands behind it, too.
    seek(from);
    points.clear();
    await shape({ do: 'take_out', group: view.id, pieces: [[from, to]] });
  };
  const ripple = (frames: number) => {
    const lost = mend.beside(stretch, frames);
    if (lost) void takeOut(lost);
  };
  const layOver = () => {
    const here = wall.shownFrame;
    setLaying(points.span ?? { from: here, to: Math.max(here + 1, mend.span(stretch).to) });
  };
  const banks = banksOf(seen.length);
  const bank = Math.min(page, banks.length - 1);
  const { page: onPage, keys: numbered } = banks[bank] ?? { page: [0, seen.length], keys: [0, seen.length] };
  const nextSize = () => setSize(SIZES[(SIZES.indexOf(size) + 1) % SIZES.length] ?? 'row');
  const nextWhat = () => {
    setChosen(null);
    setWhat(WHATS[(WHATS.indexOf(what) + 1) % WHATS.length] ?? 'picture');
  };
  const keys = switchKeys({
    take: (number) => {
      const id = number === 0 ? BLACK : seen.slice(...numbered)[number - 1]?.id;
      if (id === undefined) return;
      if (look.look) look.at(id);
      else void take(id);
    },
    another,
    play: playOrStand,
    run: shuttle,
    stand: () => wall.pause(),
    step: (frames) => seek(wall.shownFrame + frames),
    cut: (by) => choose(Math.max(0, Math.min(switches.length - 1, stretch + by))),
    roll: (by) => void change({ do: 'roll', index: stretch, by }),
    remove: () => void change({ do: 'remove', index: stretch }),
    ripple,
    slip: (by) => void change({ do: 'slip', index: stretch, by }),
    begin: () => points.begin(wall.shownFrame),
    end: () => points.end(wall.shownFrame),
    takeOut: () => void takeOut(passage),
    hole: () => void mend.hole(passage),
    layOver,
    under: look.under,
    jump: () => setJumps(!jumps),
    dissolve: () => {
      setChosen(stretch);
      void mend.dissolve(stretch);
    },
    black: () => void change({ do: 'change_angle', index: stretch, angle: BLACK }),
    loop: round,
    change: (by) => goTo(changesOf(group), by),
    mark: marks.turn,
    note: () => document.getElementById(`marker-${wall.shownFrame}`)?.focus(),
    find: () => document.getElementById('marker-find')?.focus(),
    marker: (by) => goTo(marks.found, by),
    zoom: (way) => zoom.zoom(1.6 ** way, wall.shownFrame),
    page: (by) => setPage(Math.max(0, Math.min(banks.length - 1, bank + by))),
    size: nextSize,
    back: () => void undo(false),
    next: sound.next,
    together: sound.together,
    grid: () => setGrid(true),
    through: () => setThrough(true),
    what: nextWhat,
    quiet: () => setQuiet(true),
    lines: () => setLines(true),
    undo: () => void undo(),
    redo: () => void redo(),
  });
  useKeys(keys);
  const arrange = (how: Arrange) => shape({ do: 'arrange', group: view.id, how });
  const unready = useMemo(
    () => new Set(day.clips.filter((clip) => !clip.proxy).map((clip) => clip.id)),
    [day.clips],
  );
  const ready = group.angles.flatMap((angle) => angle.parts).filter((part) => !unready.has(part.clip)).length;
  useEffect(() => wall.refresh(), [wall, ready]);
  return (
    <>
      <Head day={day} title="Switch" keys={keys}>
        <Button onClick={() => setQuiet(true)}>Quiet passages…</Button>
        <Button onClick={() => setLines(true)}>Other lines…</Button>
        <Button onClick={() => setThrough(true)}>Seen through…</Button>
        <GroupChoice day={day} id={view.id} place="switch" />
        <Link href={`/turnover/${view.id}`} className="rounded-[3px] border border-ink/70 px-3 py-1">
          Turn over
        </Link>
      </Head>
      <FollowedBy view={view} />
      <div className="flex min-h-0 flex-1">
        <section
          aria-label="Wall"
          className="dark-pictures flex min-w-0 flex-1 flex-col bg-black px-4 py-3.5 text-[#dce7e2]"
        >
          {size !== 'all' && (
            <div className="relative min-h-0 flex-1">
              <div className="absolute inset-0 flex items-center justify-center">
                <div className="relative aspect-video h-full max-w-full border-[3px] border-air">
                  <canvas
                    ref={(canvas) => wall.setLarge(canvas)}
                    data-testid="line-picture"
                    width={960}
                    height={540}
                    className="h-full w-full"
                    aria-label={`The line: ${air === BLACK ? 'black' : name(air)}`}
                    role="img"
                  />
                  <OverLabel day={day} view={view} wall={wall} look={look.look} />
                  <Label view={view} wall={wall} />
                </div>
              </div>
            </div>
          )}
          <Notices wall={wall} offered={offered === null ? null : name(offered)} />
          {size !== 'none' && (
            <Angles
              day={day}
              view={view}
              wall={wall}
              angles={seen.slice(...onPage)}
              keys={[numbered[0] - onPage[0], numbered[1] - onPage[0]]}
              inRow={size === 'row'}
              unready={unready}
              air={air}
              onTake={(angle) => void take(angle)}
              onPoint={setPointed}
            />
          )}
          <LineStrip
            day={day}
            view={view}
            wall={wall}
            zoom={zoom}
            chosen={seenStretch}
            pointed={pointed}
            span={points.span}
            onSeek={seek}
            onRoll={roll}
          />
          <div className="flex flex-wrap items-center gap-x-2.5 gap-y-1.5 pt-2 text-[12px]">
            <Tools
              all={[
                [playing ? 'Stand still' : 'Play', playOrStand],
                ['−1 f', () => seek(wall.shownFrame - 1)],
                ['+1 f', () => seek(wall.shownFrame + 1)],
                banks.length > 1
                  ? [
                      `Keys: angles ${numbered[0] + 1} to ${numbered[1]} of ${seen.length}`,
                      () => setPage((bank + 1) % banks.length),
                    ]
                  : null,
                [`Keys switch: ${what}`, nextWhat],
                [`Wall: ${size}`, nextSize],
                [loop.isOn ? 'End the round' : 'Round the cut', round],
                ['In', () => points.begin(wall.shownFrame)],
                ['Out', () => points.end(wall.shownFrame)],
                ['Take out', () => void takeOut(passage)],
                ['Frame before the cut out', () => ripple(-1)],
                ['Frame behind it out', () => ripple(1)],
                ['Leave black', () => void mend.hole(passage)],
                ['Lay over…', layOver],
                (line.layers ?? []).length > 0
                  ? [look.look ? 'Line without layers' : 'Look under', look.turn]
                  : null,
                [jumps ? 'Holes: jumped' : 'Holes: run through', () => setJumps(!jumps)],
                ['Marker', marks.turn],
              ]}
            />
            <Reaction ms={run.reaction} onSet={run.setReaction} />
            <Heard
              wall={wall}
              sound={sound}
              instead={
                instead.layer !== null
                  ? stemOf(day, line.layers?.[instead.layer]?.clip ?? 0)
                  : instead.angle === null
                    ? null
                    : name(instead.angle)
              }
              onGrid={() => setGrid(true)}
            />
            <Passed view={view} wall={wall} />
          </div>
        </section>
        <SwitchLog
          day={day}
          view={view}
          chosen={seenStretch}
          onChoose={(next) => (mend.ofSound ? seek(line.switches[next]?.at ?? 0) : choose(next))}
          onEdit={ofPicture}
          onUndo={(whole) => void undo(whole)}
          onRedo={() => void redo()}
        >
          <SoundTurns
            day={day}
            view={view}
            chosen={mend.ofSound ? stretch : null}
            onSeek={seek}
            onEdit={(next) => void edit(next)}
          />
          <Layers day={day} view={view} wall={wall} onSeek={seek} onEdit={(next) => void edit(next)} />
          <Markers
            view={view}
            wanted={marks.wanted}
            onWant={marks.want}
            onSeek={seek}
            onEdit={(next) => void edit(next)}
          />
        </SwitchLog>
      </div>
      {laying && (
        <LayAsk
          day={day}
          title={`Lay over the line from ${label(laying.from)}`}
          hint="It is seen instead of the line as long as it lasts. Cuts below go on as they are, and so does the sound unless its own is chosen."
          verb="over the line"
          unheard="goes on below"
          rate={group.start.rate}
          frames={laying.to - laying.from}
          running={runningAt(day, view, wall, laying.from)}
          onLay={(layer) => void edit({ do: 'lay', layer: { ...layer, at: laying.from } })}
          onClose={() => setLaying(null)}
        />
      )}
      {lines && <LinesAsk day={day} view={view} onSeek={seek} onClose={() => setLines(false)} />}
      {quiet && (
        <QuietAsk
          view={view}
          onSeek={seek}
          onHear={(frame) => {
            seek(frame);
            void wall.play();
          }}
          onTakeOut={(pieces) => shape({ do: 'take_out', group: view.id, pieces })}
          onClose={() => setQuiet(false)}
        />
      )}
      {through && (
        <ThroughAsk
          day={day}
          id={view.id}
          group={group}
          onArrange={arrange}
          onClose={() => setThrough(false)}
        />
      )}
      {grid && (
        <GridAsk
          day={day}
          sound={sound}
          playing={playing}
          onPlay={playOrStand}
          onClose={() => setGrid(false)}
        />
      )}
    </>
  );
}

/** How much of the room the small pictures have. */
const SIZES = ['row', 'half', 'all', 'none'] as const;
type Size = (typeof SIZES)[number];
