import { useQuery } from '@tanstack/react-query';
import { useContext, useEffect, useMemo, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { groupQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { GroupView, LineEdit } from '../../api/types';
import { Empty } from '../../frame/Empty';
import { GroupChoice } from '../../frame/GroupChoice';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { length, timecode } from '../../model/format';
import { angleName, angleOf, seenOf } from '../../model/angles';
import { runsAt, stretchAt } from '../../model/line';
import { SayContext } from '../../parts/message';
import { useGrid } from '../../play/useGrid';
import { useWall } from '../../play/useWall';
import { Wall } from '../../play/wall';
import { Angles } from './Angles';
import { FollowedBy } from './FollowedBy';
import { GridAsk, Heard } from './Heard';
import { switchKeys } from './keys';
import { LineStrip } from './LineStrip';
import { SwitchLog } from './SwitchLog';
import { useLine } from './useLine';

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
  // The stretch that edits refer to; the one at the playhead unless another was chosen.
  const [chosen, setChosen] = useState<number | null>(null);
  // What a key took, until the server has answered: the picture does not wait.
  const [pressed, setPressed] = useState<{ frame: number; angle: number } | null>(null);
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
  const sound = useGrid(wall, view.id, view.axis_start_s);
  const [grid, setGrid] = useState(false);
  const playing = useWall(wall, (state) => state.playing);
  const late = useWall(wall, (state) => state.late);
  const index = useWall(wall, (state) => stretchAt(line.switches, state.frame));

  const onAir = useMemo(() => {
    const { switches } = line;
    return (at: number) => {
      if (pressed && at >= pressed.frame) return pressed.angle;
      return switches[stretchAt(switches, at)]?.angle ?? 0;
    };
  }, [line, pressed]);
  useEffect(() => wall.setOnAir(onAir), [onAir, wall]);
  const air = useWall(wall, (state) => onAir(state.frame));
  const offered = useWall(wall, ({ frame }) => (asked?.frame === frame ? asked.angle : null));

  // Cameras' sound goes with their picture where the grid says so.
  const shown = angleOf(group, air)?.device ?? null;
  useEffect(() => sound.mix?.setAir(shown), [sound.mix, shown]);

  const seen = seenOf(group);
  const say = useContext(SayContext);
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const name = (id: number) => angleName(day, group, angleOf(group, id));
  const take = async (id: number) => {
    const at = wall.shownFrame;
    if (onAir(at) === id) return;
    const angle = angleOf(group, id);
    if (!angle) return;
    // An angle without a picture is no slip of the hand that is noticed later.
    if (!runsAt(angle, at) && !(asked?.frame === at && asked.angle === id)) {
      // Play goes on: there is no time for a question.
      if (playing) say(`${name(id)} did not run at ${label(at)}: nothing was recorded.`);
      else setAsked({ frame: at, angle: id });
      return;
    }
    setAsked(null);
    setChosen(null);
    const press = { frame: at, angle: id };
    setPressed(press);
    await edit({ do: 'take', at, angle: id });
    setPressed((current) => (current === press ? null : current));
  };
  const stretch = Math.min((playing ? null : chosen) ?? index, line.switches.length - 1);
  const seek = (to: number) => {
    setChosen(null);
    setAsked(null);
    wall.seek(to);
  };
  const choose = (next: number) => {
    const at = line.switches[next]?.at;
    if (at !== undefined) wall.seek(at);
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
  const run = (way: 1 | -1) => {
    const speed = wall.shuttleSpeed;
    if (way < 0) wall.shuttle(Math.max(-8, Math.min(-1, (speed || -0.5) * 2)));
    else if (speed >= 1) wall.shuttle(Math.min(speed * 2, 8));
    else void wall.play();
  };
  const playOrStand = () => void (playing ? wall.pause() : wall.play());
  const keys = switchKeys({
    take: (number) => {
      const angle = seen[number - 1];
      if (angle) void take(angle.id);
    },
    another,
    play: playOrStand,
    run,
    stand: () => wall.pause(),
    step: (frames) => seek(wall.shownFrame + frames),
    cut: (by) => choose(Math.max(0, Math.min(line.switches.length - 1, stretch + by))),
    roll: (by) => void change({ do: 'roll', index: stretch, by }),
    remove: () => void change({ do: 'remove', index: stretch }),
    next: sound.next,
    together: sound.together,
    grid: () => setGrid(true),
    undo: () => void undo(),
    redo: () => void redo(),
  });
  useKeys(keys);

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
          <div className="relative min-h-0 flex-1">
            <div className="absolute inset-0 flex items-center justify-center">
              <div className="relative aspect-video h-full max-w-full border-[3px] border-air">
                <canvas
                  ref={(canvas) => wall.setLarge(canvas)}
                  data-testid="line-picture"
                  width={960}
                  height={540}
                  className="h-full w-full"
                  aria-label={`The line: ${name(air)}`}
                  role="img"
                />
                <Label view={view} wall={wall} />
              </div>
            </div>
          </div>
          {offered !== null && (
            <p className="pt-1.5 text-[#e0a54a]" role="status" data-testid="asked">
              {name(offered)} does not run here: it would be black. Nothing was recorded. Take it again to
              have it all the same.
            </p>
          )}
          {late > 0.05 && (
            <p className="pt-1.5 text-[12px] text-[#e0a54a]" role="status">
              This machine shows {Math.round((1 - late) * 100)} % of the frames. The cut is recorded exactly
              all the same.
            </p>
          )}
          <Angles
            day={day}
            view={view}
            wall={wall}
            unready={unready}
            air={air}
            onTake={(angle) => void take(angle)}
          />
          <LineStrip day={day} view={view} wall={wall} chosen={stretch} onSeek={seek} />
          <div className="flex items-center gap-3 pt-2 text-[12px]">
            <DarkButton onClick={playOrStand}>{playing ? 'Stand still' : 'Play'}</DarkButton>
            <DarkButton onClick={() => seek(wall.shownFrame - 1)}>Frame back</DarkButton>
            <DarkButton onClick={() => seek(wall.shownFrame + 1)}>Frame on</DarkButton>
            <Heard wall={wall} sound={sound} onGrid={() => setGrid(true)} />
            <Passed view={view} wall={wall} />
          </div>
        </section>
        <SwitchLog
          day={day}
          view={view}
          chosen={stretch}
          onChoose={choose}
          onEdit={(next) => void change(next)}
          onUndo={() => void undo()}
          onRedo={() => void redo()}
        />
      </div>
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

type OfWall = { view: GroupView; wall: Wall };

/** The timecode of the frame on screen. */
function Label({ view: { group }, wall }: OfWall) {
  const frame = useWall(wall, (state) => state.frame);
  return (
    <span data-testid="timecode" className="num absolute bottom-[9%] left-3 bg-black/60 px-1.5 text-[20px]">
      {timecode({ ...group.start, frames: group.start.frames + frame })}
    </span>
  );
}

/** How far into the group it is. */
function Passed({ view: { group }, wall }: OfWall) {
  const frame = useWall(wall, (state) => state.frame);
  const { num, den } = group.start.rate;
  return <span className="num text-[#9db0a9]">{length((frame * den) / num)}</span>;
}

function DarkButton(props: { onClick: () => void; children: string }) {
  return (
    <button
      type="button"
      className="rounded-[3px] border border-[#51615d] px-2.5 py-0.5 hover:border-[#dce7e2]"
      onClick={props.onClick}
    >
      {props.children}
    </button>
  );
}
