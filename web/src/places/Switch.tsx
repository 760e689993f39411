import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link, useLocation } from 'wouter';
import { RefusedError, post } from '../api/client';
import type { Angle, AnglePart, DayView, GroupView, LineEdit } from '../api/types';
import { useGroup, useLevels } from '../api/useDay';
import { length, timecode } from '../format';
import { Head } from '../frame/Head';
import type { KeyLine } from '../parts/KeysDialog';
import { useAsk } from '../parts/message';
import { Stamp, hue } from '../parts/Stamp';
import { Strip } from '../parts/Strip';
import { useKeys } from '../parts/useKeys';
import { Wall } from '../play/wall';
import { Empty } from './Empty';
import { FollowedBy } from './FollowedBy';
import { GroupChoice } from './GroupChoice';
import { SwitchLog } from './SwitchLog';

const KEYS: KeyLine[] = [
  ['1 … 9', 'take that angle, playing or standing'],
  ['alt 1 … 9', 'show that angle in the chosen stretch'],
  ['space', 'play, stand still'],
  ['J K L', 'run back, stand, run on'],
  ['← →', 'one frame; with shift ten'],
  ['↑ ↓', 'cut before, cut after'],
  [', .', 'roll the chosen cut a frame'],
  ['delete', 'take the chosen cut out'],
  ['ctrl Z', 'undo; with shift redo'],
];

/** The place where a group is cut. */
export function Switch({ day, id }: { day: DayView; id: number | undefined }) {
  const [, go] = useLocation();
  const first = day.groups[0]?.id;
  useEffect(() => {
    if (id === undefined && first !== undefined) go(`/switch/${first}`, { replace: true });
  }, [id, first, go]);
  const view = useGroup(id);
  if (first === undefined) {
    return (
      <Empty day={day} title="Switch" keys={KEYS}>
        There is nothing to cut yet. Groups are proposed by a pass: go to the{' '}
        <Link href="/day">Day sheet</Link> and sync the day.
      </Empty>
    );
  }
  if (view.isError) {
    return (
      <Empty day={day} title="Switch" keys={KEYS}>
        {view.error.message}. Choose a group under <Link href="/groups">Groups</Link>.
      </Empty>
    );
  }
  if (!view.data)
    return (
      <Empty day={day} title="Switch" keys={KEYS}>
        Opening the group…
      </Empty>
    );
  // The wall is made anew where the group or its angles are others.
  const shape = JSON.stringify(view.data.group.angles.map((angle) => [angle.device, angle.parts.length]));
  return <Cutting key={`${view.data.id} ${shape}`} day={day} view={view.data} />;
}

function Cutting({ day, view }: { day: DayView; view: GroupView }) {
  const { group, line } = view;
  const { edit, undo, redo } = useLine(view);
  const [frame, setFrame] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [late, setLate] = useState(0);
  // The stretch that edits refer to; the one at the playhead unless another was chosen.
  const [chosen, setChosen] = useState<number | null>(null);
  // What a key took, until the server has answered: the picture does not wait.
  const [pressed, setPressed] = useState<{ frame: number; angle: number } | null>(null);
  const [wall] = useState(
    () => new Wall(view, { onFrame: setFrame, onPlaying: setPlaying, onLate: setLate }),
  );
  useEffect(() => {
    wall.open();
    return () => wall.close();
  }, [wall]);
  const index = stretchAt(line.switches, frame);

  const onAir = useMemo(() => {
    const { switches } = line;
    return (at: number) => {
      if (pressed && at >= pressed.frame) return pressed.angle;
      return switches[stretchAt(switches, at)]?.angle ?? 0;
    };
  }, [line, pressed]);
  useEffect(() => wall.setOnAir(onAir), [onAir, wall]);
  const air = onAir(frame);

  const take = async (angle: number) => {
    const at = wall.shownFrame;
    if (onAir(at) === angle) return;
    setChosen(null);
    const press = { frame: at, angle };
    setPressed(press);
    await edit({ do: 'take', at, angle });
    setPressed((current) => (current === press ? null : current));
  };
  const stretch = Math.min((playing ? null : chosen) ?? index, line.switches.length - 1);
  const seek = (to: number) => {
    setChosen(null);
    wall.seek(to);
  };
  const choose = (next: number) => {
    const at = line.switches[next]?.at;
    if (at !== undefined) wall.seek(at);
    setChosen(next);
  };
  const change = (next: LineEdit) => {
    setChosen(stretch);
    return edit(next);
  };

  useKeys((event) => {
    const digit = /^Digit([1-9])$/.exec(event.code)?.[1];
    const angle = digit && group.angles[Number(digit) - 1];
    const command = event.ctrlKey || event.metaKey;
    if (command && event.key.toLowerCase() === 'z') void (event.shiftKey ? redo() : undo());
    else if (command) return false;
    else if (angle && event.altKey) void change({ do: 'change_angle', index: stretch, angle: angle.device });
    else if (angle) void take(angle.device);
    else if (event.key === ' ') void (playing ? wall.pause() : wall.play());
    else if (event.key === 'k') wall.pause();
    else if (event.key === 'l') {
      const speed = wall.shuttleSpeed;
      if (speed >= 1) wall.shuttle(Math.min(speed * 2, 8));
      else void wall.play();
    } else if (event.key === 'j') wall.shuttle(Math.max(-8, Math.min(-1, (wall.shuttleSpeed || -0.5) * 2)));
    else if (event.key === 'ArrowLeft') seek(frame - (event.shiftKey ? 10 : 1));
    else if (event.key === 'ArrowRight') seek(frame + (event.shiftKey ? 10 : 1));
    else if (event.key === 'ArrowUp') choose(Math.max(0, stretch - 1));
    else if (event.key === 'ArrowDown') choose(Math.min(line.switches.length - 1, stretch + 1));
    else if (event.key === ',' || event.key === '.')
      void change({ do: 'roll', index: stretch, by: event.key === '.' ? 1 : -1 });
    else if (event.key === 'Delete' || event.key === 'Backspace')
      void change({ do: 'remove', index: stretch });
    else return false;
    return true;
  });

  const label = timecode({ ...group.start, frames: group.start.frames + frame });
  const unready = useMemo(
    () => new Set(day.clips.filter((clip) => !clip.proxy).map((clip) => clip.id)),
    [day.clips],
  );
  const waits = (angle: Angle) => angle.parts.some((part) => runsIn(part, frame) && unready.has(part.clip));
  const ready = group.angles.flatMap((angle) => angle.parts).filter((part) => !unready.has(part.clip)).length;
  useEffect(() => wall.refresh(), [wall, ready]);
  return (
    <>
      <Head day={day} title="Switch" keys={KEYS}>
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
                  aria-label={`The line: ${day.devices.find((device) => device.id === air)?.name ?? ''}`}
                  role="img"
                />
                <span
                  data-testid="timecode"
                  className="num absolute bottom-[9%] left-3 bg-black/60 px-1.5 text-[20px]"
                >
                  {label}
                </span>
              </div>
            </div>
          </div>
          {late > 0.05 && (
            <p className="pt-1.5 text-[12px] text-[#e0a54a]" role="status">
              This machine shows {Math.round((1 - late) * 100)} % of the frames. The cut is recorded exactly
              all the same.
            </p>
          )}
          <div className="flex gap-1.5 pt-2.5">
            {group.angles.map((angle, i) => (
              <button
                key={angle.device}
                type="button"
                data-testid={`angle-${i + 1}`}
                aria-pressed={angle.device === air}
                onClick={() => void take(angle.device)}
                className="max-w-[24%] min-w-0 flex-1 text-left"
              >
                <span className="relative block">
                  <canvas
                    ref={(canvas) => wall.setSmall(angle.device, canvas)}
                    width={320}
                    height={180}
                    className={`aspect-video w-full border-[3px] ${angle.device === air ? 'border-air' : 'border-transparent'}`}
                  />
                  {(!runs(angle, frame) || waits(angle)) && (
                    <span className="absolute inset-[3px] flex items-center justify-center border border-[#31403b] text-[12px] text-[#9db0a9]">
                      {waits(angle) ? 'its proxy is being made' : 'not running here'}
                    </span>
                  )}
                </span>
                <span className="flex items-center gap-2 px-0.5 pt-1">
                  <b className="num">{i + 1}</b>
                  <Stamp devices={day.devices} id={angle.device} dark />
                  {day.devices.find((device) => device.id === angle.device)?.name}
                </span>
              </button>
            ))}
          </div>
          <Line day={day} view={view} frame={frame} chosen={stretch} onSeek={seek} />
          <div className="flex items-center gap-3 pt-2 text-[12px]">
            <DarkButton onClick={() => void (playing ? wall.pause() : wall.play())}>
              {playing ? 'Stand still' : 'Play'}
            </DarkButton>
            <DarkButton onClick={() => seek(frame - 1)}>Frame back</DarkButton>
            <DarkButton onClick={() => seek(frame + 1)}>Frame on</DarkButton>
            <span className="flex-1 text-[#9db0a9]">
              Sound:{' '}
              {group.sound
                ? (day.devices.find((device) => device.id === group.sound?.device)?.name ?? '')
                : 'none'}
              , whatever the picture does
            </span>
            <span className="num text-[#9db0a9]">
              {length(frame / (group.start.rate.num / group.start.rate.den))}
            </span>
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
    </>
  );
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

const runsIn = (part: AnglePart, frame: number) => frame >= part.from_frame && frame < part.to_frame;
const runs = (angle: Angle, frame: number) => angle.parts.some((part) => runsIn(part, frame));

function stretchAt(switches: { at: number }[], frame: number): number {
  let index = 0;
  while (index + 1 < switches.length && (switches[index + 1]?.at ?? 0) <= frame) index++;
  return index;
}

/** Edits of the line, one after the other, each on the version it was made on. */
function useLine(view: GroupView) {
  const client = useQueryClient();
  const ask = useAsk();
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const { id } = view;
  return useMemo(() => {
    const send = (path: string, body: object) => {
      const next = last.current.then(async () => {
        const version = client.getQueryData<GroupView>(['group', id])?.version ?? 0;
        try {
          const newer = await post<GroupView>(`/groups/${id}/line${path}`, { version, ...body });
          client.setQueryData(['group', id], newer);
          void client.invalidateQueries({ queryKey: ['day'] });
        } catch (error) {
          if (error instanceof RefusedError && error.status === 409) {
            await client.invalidateQueries({ queryKey: ['group', id] });
          }
          await ask(Promise.reject(error instanceof Error ? error : new Error(String(error))));
        }
      });
      last.current = next;
      return next;
    };
    return {
      edit: (edit: LineEdit) => send('', { edit }),
      undo: () => send('/undo', {}),
      redo: () => send('/redo', {}),
    };
  }, [client, id, ask]);
}

type LineProps = {
  day: DayView;
  view: GroupView;
  frame: number;
  chosen: number;
  onSeek: (frame: number) => void;
};

/** A thin strip of the whole: the stretches, the sound below, the playhead. */
function Line({ day, view, frame, chosen, onSeek }: LineProps) {
  const { group, line } = view;
  const levels = useLevels(`/groups/${view.id}/levels?bins=800`, true);
  const share = (at: number) => `${(100 * at) / group.frames}%`;
  const none: number[] = useMemo(() => [], []);
  const seekTo = (event: React.PointerEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    onSeek(Math.floor(((event.clientX - box.left) / box.width) * group.frames));
  };
  return (
    <div
      className="relative mt-2.5 h-[62px] touch-none select-none"
      role="slider"
      aria-label="Place in the group"
      aria-valuemin={0}
      aria-valuemax={group.frames - 1}
      aria-valuenow={frame}
      aria-valuetext={timecode({ ...group.start, frames: group.start.frames + frame })}
      tabIndex={0}
      onPointerDown={(event) => {
        // A pointer made by a program cannot be captured, and need not be.
        if (event.isTrusted) event.currentTarget.setPointerCapture(event.pointerId);
        seekTo(event);
      }}
      onPointerMove={(event) => event.buttons && seekTo(event)}
    >
      {line.switches.map((one, i) => {
        const end = line.switches[i + 1]?.at ?? group.frames;
        return (
          <div
            key={one.at}
            className={`absolute top-0 h-[24px] overflow-hidden border-l-2 border-black px-1.5 leading-[24px] text-[#dce7e2] ${i === chosen ? 'outline-2 -outline-offset-2 outline-[#dce7e2]' : ''}`}
            style={{
              left: share(one.at),
              width: share(end - one.at),
              background: `color-mix(in srgb, ${hue(day.devices, one.angle)} 55%, #1a2220)`,
            }}
          >
            {day.devices.find((device) => device.id === one.angle)?.letter}
          </div>
        );
      })}
      <Strip levels={levels.data ?? none} colour="#9db0a9" className="absolute top-[28px] h-[32px] w-full" />
      <div className="absolute top-[-3px] h-[66px] w-px bg-[#dce7e2]" style={{ left: share(frame + 0.5) }} />
    </div>
  );
}
