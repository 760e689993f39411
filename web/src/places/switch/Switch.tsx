import { useQuery } from '@tanstack/react-query';
import { useContext, useEffect, useMemo, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { useCommands, useRefresh } from '../../api/commands';
import { groupQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { Arrange, GroupChange, GroupView, LineEdit } from '../../api/types';
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
import { pagesOf } from '../../model/pages';
import { SayContext } from '../../parts/message';
import { ThroughAsk } from '../../parts/ThroughAsk';
import { useGrid } from '../../play/useGrid';
import { useView } from '../../parts/useView';
import { useThrough } from '../../play/useThrough';
import { useWall } from '../../play/useWall';
import { Wall } from '../../play/wall';
import { Angles } from './Angles';
import { FollowedBy } from './FollowedBy';
import { DarkButton, Label, Passed, Reaction } from './Foot';
import { GridAsk, Heard } from './Heard';
import { switchKeys } from './keys';
import { LineStrip } from './LineStrip';
import { SoundTurns } from './SoundTurns';
import { SwitchLog } from './SwitchLog';
import { Markers } from './Markers';
import { LinesAsk } from './LinesAsk';
import { QuietAsk } from './QuietAsk';
import { useLine } from './useLine';
import { useLoop } from './useLoop';
import { useRun, WHATS, type What } from './useRun';

/** The place where a group is cut. */
export function Switch({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const first = day.groups[0]?.id;
  useEffect(() => {
    if (id === undefined && first !== undefined) go(`/switch/${first}`, { replace: true });
  }, [id, first, go]);
  const view = useQuery(groupQuery(id));
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
  return <Cutting key={`${view.data.id} ${shape}`} day={day} view={view.data} />;
}

function Cutting({ day, view }: { day: Day; view: GroupView }) {
  const { group, line } = view;
  const { edit, undo, redo } = useLine(view);
  const fps = group.start.rate.num / group.start.rate.den;
  // The stretch that edits refer to; the one at the playhead unless another was chosen.
  const [chosen, setChosen] = useState<number | null>(null);
  // The stretch about whose head it goes round and round.
  const [looped, setLooped] = useState<number | null>(null);
  // An angle that was asked for where it does not run: taken when it is asked for again.
  const [asked, setAsked] = useState<{ frame: number; angle: number } | null>(null);
  // What is set aside is opened only where the line shows it.
  const [wall] = useState(() => {
    const inLine = new Set(line.switches.map((one) => one.angle));
    const angles = group.angles.filter((angle) => !angle.hidden || inLine.has(angle.id));
    return new Wall({ ...view, group: { ...group, angles } });
  });
  useEffect(() => {
    wall.open();
    return () => wall.close();
  }, [wall]);
  useThrough(wall, group.angles);
  const [through, setThrough] = useState(false);
  const [quiet, setQuiet] = useState(false);
  const [lines, setLines] = useState(false);
  const [what, setWhat] = useState<What>('picture');
  const [page, setPage] = useState(0);
  const [size, setSize] = useState<Size>('row');
  const [wanted, setWanted] = useState('');
  const turns = useMemo(() => turnsOf(view), [view]);
  const sound = useGrid(wall, view.id, view.axis_start_s, turns);
  const [grid, setGrid] = useState(false);
  const playing = useWall(wall, (state) => state.playing);
  const late = useWall(wall, (state) => state.late);
  const light = useWall(wall, (state) => state.light);
  const index = useWall(wall, (state) => stretchAt(line.switches, state.frame));

  const run = useRun(wall, view, playing, what, edit);
  const { onAir, onEar } = run;
  useEffect(() => wall.setOnAir(onAir), [onAir, wall]);
  const air = useWall(wall, (state) => onAir(state.frame).angle);
  const offered = useWall(wall, ({ frame }) => (asked?.frame === frame ? asked.angle : null));

  // Cameras' sound goes with their picture where the grid says so.
  const shown = angleOf(group, air)?.device ?? null;
  useEffect(() => sound.mix?.setAir(shown), [sound.mix, shown]);
  const ear = useWall(wall, (state) => onEar(state.frame).angle);
  const earDissolve = useWall(wall, (state) => onEar(state.frame).dissolve);
  const instead = angleOf(group, ear)?.device ?? null;
  useEffect(() => sound.mix?.setInstead(instead, earDissolve / fps), [sound.mix, instead, earDissolve, fps]);

  const commands = useCommands();
  const refresh = useRefresh();
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
  const stretch = Math.min((playing ? looped : chosen) ?? index, line.switches.length - 1);
  const zoom = useView(view.id, group.frames);
  const seek = (to: number) => {
    setChosen(null);
    setAsked(null);
    zoom.show(to);
    wall.seek(to);
  };
  const choose = (next: number) => {
    const at = line.switches[next]?.at;
    if (at !== undefined) {
      zoom.show(at);
      wall.seek(at);
    }
    setAsked(null);
    setChosen(next);
  };
  const change = (next: LineEdit) => {
    setChosen(stretch);
    return edit(next);
  };
  const another = (by: number) => {
    const shown = seen.findIndex(({ id }) => id === line.switches[stretch]?.angle);
    const next = seen[(shown + by + seen.length) % seen.length];
    if (next) void change({ do: 'change_angle', index: stretch, angle: next.id });
  };
  const shuttle = (way: 1 | -1) => {
    const speed = wall.shuttleSpeed;
    if (way < 0) wall.shuttle(Math.max(-8, Math.min(-1, (speed || -0.5) * 2)));
    else if (speed >= 1) wall.shuttle(Math.min(speed * 2, 8));
    else void wall.play();
  };
  const loop = useLoop(wall, line.switches[stretch]?.at ?? 0, group.frames, fps);
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
  const markers = line.markers ?? [];
  const goTo = (frames: readonly number[], by: 1 | -1) => {
    const at = wall.shownFrame;
    const next = by > 0 ? frames.find((own) => own > at) : frames.findLast((own) => own < at);
    if (next !== undefined) seek(next);
  };
  const found = markers.filter(({ note }) => note.toLowerCase().includes(wanted.trim().toLowerCase()));
  const mark = () => {
    const at = wall.shownFrame;
    const there = markers.some((own) => own.at === at);
    void edit(
      there
        ? { do: 'take_marker', at }
        : { do: 'put_marker', marker: { at, colour: markers.at(-1)?.colour ?? 'brass', note: '' } },
    );
  };
  const dissolve = () => {
    const frames = line.switches[stretch]?.dissolve ? 0 : habitual(line, stretch, group.frames, fps);
    void change({ do: 'dissolve', index: stretch, frames });
  };
  const pages = pagesOf(seen.length);
  const shownPage = Math.min(page, pages.length - 1);
  const onPage = seen.slice(...(pages[shownPage] ?? [0, seen.length]));
  const keys = switchKeys({
    take: (number) => {
      const id = number === 0 ? BLACK : onPage[number - 1]?.id;
      if (id !== undefined) void take(id);
    },
    another,
    play: playOrStand,
    run: shuttle,
    stand: () => wall.pause(),
    step: (frames) => seek(wall.shownFrame + frames),
    cut: (by) => choose(Math.max(0, Math.min(line.switches.length - 1, stretch + by))),
    roll: (by) => void change({ do: 'roll', index: stretch, by }),
    remove: () => void change({ do: 'remove', index: stretch }),
    dissolve,
    black: () => void change({ do: 'change_angle', index: stretch, angle: BLACK }),
    loop: round,
    change: (by) => goTo(changesOf(group), by),
    mark,
    note: () => document.getElementById(`marker-${wall.shownFrame}`)?.focus(),
    find: () => document.getElementById('marker-find')?.focus(),
    marker: (by) =>
      goTo(
        found.map(({ at }) => at),
        by,
      ),
    zoom: (way) => zoom.zoom(1.6 ** way, wall.shownFrame),
    page: (by) => setPage(Math.max(0, Math.min(pages.length - 1, shownPage + by))),
    size: () => setSize(SIZES[(SIZES.indexOf(size) + 1) % SIZES.length] ?? 'row'),
    back: () => void undo(false),
    next: sound.next,
    together: sound.together,
    grid: () => setGrid(true),
    through: () => setThrough(true),
    what: () => setWhat(WHATS[(WHATS.indexOf(what) + 1) % WHATS.length] ?? 'picture'),
    quiet: () => setQuiet(true),
    lines: () => setLines(true),
    undo: () => void undo(),
    redo: () => void redo(),
  });
  useKeys(keys);
  const shape = async (change: GroupChange) => {
    await commands.shape({ version: day.groups_turns.version, change });
    await Promise.all([refresh.day(), refresh.group(view.id)]);
  };
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
                  <Label view={view} wall={wall} />
                </div>
              </div>
            </div>
          )}
          {offered !== null && (
            <p className="pt-1.5 text-[#e0a54a]" role="status" data-testid="asked">
              {name(offered)} does not run here: it would be black. Nothing was recorded. Take it again to
              have it all the same.
            </p>
          )}
          {late > 0.05 && !light && (
            <p className="pt-1.5 text-[12px] text-[#e0a54a]" role="status">
              This machine shows {Math.round((1 - late) * 100)} % of the frames. The cut is recorded exactly
              all the same.
            </p>
          )}
          {light && (
            <p className="flex items-center gap-3 pt-1.5 text-[12px] text-[#e0a54a]" role="status">
              A lighter wall: this machine cannot show all pictures at all frames, so the small ones come now
              and then.
              <DarkButton onClick={() => wall.setLight(false)}>All frames</DarkButton>
            </p>
          )}
          {size !== 'none' && (
            <Angles
              day={day}
              view={view}
              wall={wall}
              angles={onPage}
              inRow={size === 'row'}
              unready={unready}
              air={air}
              onTake={(angle) => void take(angle)}
            />
          )}
          <LineStrip day={day} view={view} wall={wall} zoom={zoom} chosen={stretch} onSeek={seek} />
          <div className="flex flex-wrap items-center gap-x-2.5 gap-y-1.5 pt-2 text-[12px]">
            <DarkButton onClick={playOrStand}>{playing ? 'Stand still' : 'Play'}</DarkButton>
            <DarkButton onClick={() => seek(wall.shownFrame - 1)}>−1 f</DarkButton>
            <DarkButton onClick={() => seek(wall.shownFrame + 1)}>+1 f</DarkButton>
            {pages.length > 1 && (
              <DarkButton
                onClick={() => setPage((shownPage + 1) % pages.length)}
              >{`Page ${shownPage + 1} of ${pages.length}`}</DarkButton>
            )}
            <DarkButton
              onClick={() => setWhat(WHATS[(WHATS.indexOf(what) + 1) % WHATS.length] ?? 'picture')}
            >{`Keys switch: ${what}`}</DarkButton>
            <DarkButton onClick={() => setSize(SIZES[(SIZES.indexOf(size) + 1) % SIZES.length] ?? 'row')}>
              {`Wall: ${size}`}
            </DarkButton>
            <DarkButton onClick={round}>{loop.isOn ? 'End the round' : 'Round the cut'}</DarkButton>
            <DarkButton onClick={mark}>Marker</DarkButton>
            <DarkButton onClick={() => setQuiet(true)}>Quiet passages…</DarkButton>
            <DarkButton onClick={() => setLines(true)}>Other lines…</DarkButton>
            <Reaction ms={run.reaction} onSet={run.setReaction} />
            <DarkButton onClick={() => setThrough(true)}>Seen through…</DarkButton>
            <Heard
              wall={wall}
              sound={sound}
              instead={instead === null ? null : name(ear)}
              onGrid={() => setGrid(true)}
            />
            <Passed view={view} wall={wall} />
          </div>
        </section>
        <SwitchLog
          day={day}
          view={view}
          chosen={stretch}
          onChoose={choose}
          onEdit={(next) => void change(next)}
          onUndo={(whole) => void undo(whole)}
          onRedo={() => void redo()}
        >
          <SoundTurns day={day} view={view} onSeek={seek} onEdit={(next) => void edit(next)} />
          <Markers
            view={view}
            wanted={wanted}
            onWant={setWanted}
            onSeek={seek}
            onEdit={(next) => void edit(next)}
          />
        </SwitchLog>
      </div>
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

/** How long a dissolve is unless another length is typed: as the last one before, else half a second, as far as there is room. */
function habitual({ switches }: GroupView['line'], index: number, frames: number, fps: number): number {
  const before = switches.slice(0, index).findLast(({ dissolve }) => dissolve);
  const room = (switches[index + 1]?.at ?? frames) - (switches[index]?.at ?? 0);
  return Math.min(before?.dissolve ?? Math.round(fps / 2), room);
}

/** The devices whose own sound a line lets be heard. */
const turnsOf = ({ group, line }: GroupView): number[] => {
  const heard = (line.sound?.switches ?? []).map(({ angle }) => angleOf(group, angle)?.device ?? null);
  return [...new Set(heard.filter((device) => device !== null))].sort((a, b) => a - b);
};
