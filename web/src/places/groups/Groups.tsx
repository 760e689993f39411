import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { Link, useLocation } from 'wouter';
import { useCommands, useRefresh } from '../../api/commands';
import { soundQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { Angle, GroupSummary } from '../../api/types';
import { frameSeconds, length, rate, timecode } from '../../model/format';
import { Head } from '../../frame/Head';
import { deviceName, stem } from '../../model/names';
import { Button } from '../../parts/Button';
import { Editable } from '../../parts/Editable';
import { idle } from '../../keys/table';
import { groupKeys } from './keys';
import { SoundLaid } from '../../parts/SoundUnder';
import { Stamp, hue } from '../../parts/Stamp';
import { Turn, useTurned } from '../../parts/Turn';
import { useKeys } from '../../keys/useKeys';
import { Empty } from '../../frame/Empty';
import { islandOf, ran } from '../../model/island';

/** The place of the groups: who ran when, in what order, in what format. */
export function Groups({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const index = Math.max(
    0,
    day.groups.findIndex((group) => group.id === id),
  );
  const group = day.groups[index];
  const missing = group !== undefined && id !== group.id;
  useEffect(() => {
    if (missing) go(`/groups/${group.id}`, { replace: true });
  }, [missing, group, go]);
  const { turnGroup } = useCommands();
  const refresh = useRefresh();
  const said = useTurned();
  const turn = (way: 'undo' | 'redo') => {
    if (!group) return;
    void turnGroup(group.id, way).then((turned) => {
      said(way, turned);
      return Promise.all([refresh.day(), refresh.group(group.id)]);
    });
  };
  const keys = groupKeys({
    step: (by) => {
      const next = day.groups[index + by];
      if (next) go(`/groups/${next.id}`);
    },
    cut: () => group && go(`/switch/${group.id}`),
    undo: () => turn('undo'),
    redo: () => turn('redo'),
  });
  useKeys(keys);
  if (!group) {
    return (
      <Empty day={day} title="Groups" keys={groupKeys(idle())}>
        There are no groups yet. They are proposed by a pass from what ran together: go to the{' '}
        <Link href="/day">Day sheet</Link> and sync the day.
      </Empty>
    );
  }
  return (
    <>
      <Head day={day} title="Groups" keys={keys}>
        <Turn turns={group.turns} onTurn={turn} />
        <Link
          href={`/switch/${group.id}`}
          className="rounded-[3px] border border-accent bg-accent px-3 py-1 font-semibold text-on-accent"
        >
          Cut this group
        </Link>
      </Head>
      <div className="flex min-h-0 flex-1">
        <nav aria-label="Groups" className="w-[252px] shrink-0 overflow-y-auto border-r border-line py-2">
          {day.groups.map((one) => (
            <Link
              key={one.id}
              href={`/groups/${one.id}`}
              aria-current={one.id === group.id ? 'true' : undefined}
              className={`flex h-8 items-center gap-2 border-b border-line px-4 ${one.id === group.id ? 'bg-sheet font-semibold' : ''}`}
            >
              <span className="min-w-0 flex-1 truncate">{one.group.name}</span>
              <span className="num text-soft">
                {one.group.angles.length} {one.group.angles.length === 1 ? 'angle' : 'angles'}
              </span>
            </Link>
          ))}
        </nav>
        <Detail key={group.id} day={day} summary={group} />
      </div>
    </>
  );
}

function Detail({ day, summary }: { day: Day; summary: GroupSummary }) {
  const { group } = summary;
  const run = useCommands();
  const refresh = useRefresh();
  const change = async (work: Promise<unknown>) => {
    await work;
    await Promise.all([refresh.day(), refresh.group(summary.id)]);
  };
  const seconds = (frames: number) => length(frames * frameSeconds(group.start.rate));
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const all = summary.covered_by_all;
  const island = islandOf(day, group.component);
  const sound = useQuery(soundQuery).data?.groups.find(({ report }) => report.belongs_to === group.name);
  const facts: [string, string][] = [
    ['Format', `${group.width}×${group.height} · ${rate(group.start.rate)} fps`],
    ['Starts', timecode(group.start)],
    ['Extent', `${seconds(group.frames)} · ${group.frames} f`],
    [
      'All angles cover',
      all ? `${label(all[0])} to ${label(all[1])} · ${seconds(all[1] - all[0])}` : 'no stretch',
    ],
    ...(island
      ? [['On the day', ran(day, island) ?? 'nothing says when it ran'] satisfies [string, string]]
      : []),
    ['Line', summary.switches > 1 ? `${summary.switches} stretches` : 'not cut yet'],
  ];
  return (
    <section aria-label="Group" className="min-w-0 flex-1 overflow-y-auto bg-sheet px-6 py-4">
      <Editable
        label="Name of the group"
        value={group.name}
        max={80}
        onSave={(name) => void change(run.rename(summary.id, { name }))}
        className="w-full text-[18px] font-semibold"
      />
      <dl className="grid max-w-[620px] grid-cols-[130px_1fr] pt-3">
        {facts.map(([name, value]) => (
          <div key={name} className="col-span-2 grid h-7 grid-cols-subgrid items-center border-t border-line">
            <dt className="text-soft">{name}</dt>
            <dd className="num">{value}</dd>
          </div>
        ))}
      </dl>
      <h2 className="pt-6 pb-2 text-[14px] font-semibold">Coverage and angle order</h2>
      <ol>
        {group.angles.map((angle, i) => (
          <li key={angle.device} className="flex h-11 items-center gap-3 border-t border-line">
            <b className="num w-3">{i + 1}</b>
            <Stamp devices={day.devices} id={angle.device} />
            <span className="w-20 truncate">{name(day, angle)}</span>
            <span className="flex w-[60px] gap-1">
              <Button
                small
                disabled={i === 0}
                aria-label={`Move ${name(day, angle)} up`}
                onClick={() => void change(run.moveAngle(summary.id, { from: i, to: i - 1 }))}
              >
                ↑
              </Button>
              <Button
                small
                disabled={i === group.angles.length - 1}
                aria-label={`Move ${name(day, angle)} down`}
                onClick={() => void change(run.moveAngle(summary.id, { from: i, to: i + 1 }))}
              >
                ↓
              </Button>
            </span>
            <Bars day={day} angle={angle} frames={group.frames} all={all} />
          </li>
        ))}
        {group.sound && (
          <li className="flex h-11 items-center gap-3 border-y border-line">
            <span className="w-3" />
            <Stamp devices={day.devices} id={group.sound.device} />
            <span className="w-20 truncate">{name(day, group.sound)}</span>
            <span className="w-[60px] text-soft">sound</span>
            <Bars day={day} angle={group.sound} frames={group.frames} all={all} />
          </li>
        )}
      </ol>
      {all && (
        <p className="pt-2 text-[12px] text-soft">
          Between the upright lines every angle runs, without a hole.
        </p>
      )}
      {sound && (
        <>
          <h2 className="pt-6 pb-2 text-[14px] font-semibold">Sound that goes out</h2>
          <SoundLaid report={sound.report} />
        </>
      )}
    </section>
  );
}

const name = (day: Day, angle: Angle) => deviceName(day, angle.device);

type BarsProps = { day: Day; angle: Angle; frames: number; all: [number, number] | null };

/** Who ran when: a bar for each part, with the clip's name. */
function Bars({ day, angle, frames, all }: BarsProps) {
  const share = (frame: number) => `${(100 * frame) / frames}%`;
  return (
    <span className="relative h-6 min-w-0 flex-1">
      {angle.parts.map((part) => {
        const clip = day.clips.find((one) => one.id === part.clip);
        return (
          <span
            key={`${part.clip} ${part.from_frame}`}
            title={clip?.relative}
            className="num absolute inset-y-0 truncate border-b-[3px] bg-band px-1.5 leading-[21px]"
            style={{
              left: share(part.from_frame),
              width: share(part.to_frame - part.from_frame),
              borderColor: hue(day.devices, angle.device),
            }}
          >
            {clip && stem(clip)}
          </span>
        );
      })}
      {all?.map((at) => (
        <span key={at} className="absolute -inset-y-2.5 w-px bg-accent" style={{ left: share(at) }} />
      ))}
    </span>
  );
}
