import { useQuery } from '@tanstack/react-query';
import type { Day } from '../../api/day';
import { soundQuery } from '../../api/queries';
import type { Angle, GroupChange, GroupSummary } from '../../api/types';
import { edgeSaid } from '../../model/edges';
import { frameSeconds, length, rate, timecode } from '../../model/format';
import { islandOf, ran } from '../../model/island';
import { deviceName } from '../../model/names';
import { Button } from '../../parts/Button';
import { Editable } from '../../parts/Editable';
import { SoundLaid } from '../../parts/SoundUnder';
import { Stamp } from '../../parts/Stamp';
import { Bars } from './Coverage';
import type { Hands } from './useShaping';

type Props = {
  day: Day;
  summary: GroupSummary;
  /** The playhead, a frame of the group. */
  at: number;
  hands: Hands;
  onShape: (change: GroupChange) => void;
};

/** One group: its name and format, who ran when in which order, where it is trimmed, and its sound. */
export function Detail({ day, summary, at, hands, onShape }: Props) {
  const { group, window } = summary;
  const seconds = (frames: number) => length(frames * frameSeconds(group.start.rate));
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const all = summary.covered_by_all;
  const island = islandOf(day, group.component);
  const sound = useQuery(soundQuery).data?.groups.find(({ report }) => report.belongs_to === group.name);
  const trimmed = summary.whole_frames - (window[1] - window[0]);
  const facts: [string, string][] = [
    ['Format', `${group.width}×${group.height} · ${rate(group.start.rate)} fps`],
    ['Starts', timecode(group.start)],
    [
      'Extent',
      `${seconds(group.frames)} · ${group.frames} f${trimmed > 0 ? ` · ${seconds(trimmed)} trimmed off` : ''}`,
    ],
    [
      'All angles cover',
      all ? `${label(all[0])} to ${label(all[1])} · ${seconds(all[1] - all[0])}` : 'no stretch',
    ],
    ...(island
      ? [['On the day', ran(day, island) ?? 'nothing says when it ran'] satisfies [string, string]]
      : []),
    ['Line', summary.switches > 1 ? `${summary.switches} stretches` : 'not cut yet'],
  ];
  const name = (device: number) => deviceName(day, device);
  const said = edgeSaid(group, at, name);
  const row = (angle: Angle, number: number | null) => (
    <li key={angle.device} className="flex h-11 items-center gap-3 border-t border-line last:border-b">
      <b className="num w-3">{number === null ? '' : number + 1}</b>
      <Stamp devices={day.devices} id={angle.device} />
      <span className="w-20 truncate" title={name(angle.device)}>
        {name(angle.device)}
      </span>
      {number === null ? (
        <span className="w-[60px] text-soft">sound</span>
      ) : (
        <span className="flex w-[60px] gap-1">
          {([-1, 1] as const).map((by) => (
            <Button
              key={by}
              small
              disabled={by < 0 ? number === 0 : number === group.angles.length - 1}
              aria-label={`Move ${name(angle.device)} ${by < 0 ? 'up' : 'down'}`}
              onClick={() => onShape({ do: 'move_angle', group: summary.id, from: number, to: number + by })}
            >
              {by < 0 ? '↑' : '↓'}
            </Button>
          ))}
        </span>
      )}
      <Bars day={day} summary={summary} angle={angle} at={at} onSeek={hands.seek} />
    </li>
  );
  return (
    <section aria-label="Group" className="min-w-0 flex-1 overflow-y-auto bg-sheet px-6 py-4">
      <Editable
        label="Name of the group"
        value={group.name}
        max={80}
        onSave={(text) => onShape({ do: 'rename', group: summary.id, name: text })}
        className="w-full text-[18px] font-semibold"
      />
      <dl className="grid max-w-[620px] grid-cols-[130px_1fr] pt-3">
        {facts.map(([what, value]) => (
          <div key={what} className="col-span-2 grid h-7 grid-cols-subgrid items-center border-t border-line">
            <dt className="text-soft">{what}</dt>
            <dd className="num">{value}</dd>
          </div>
        ))}
      </dl>
      <h2 className="pt-5 pb-2 text-[14px] font-semibold">Coverage and angle order</h2>
      <div className="flex flex-wrap items-center gap-2 pb-2">
        <span className="num" aria-label="Playhead">
          {label(at)}
        </span>
        <span className="min-w-0 flex-1 truncate text-soft">{said}</span>
        <Button small disabled={at === 0 || at >= group.frames} onClick={hands.head}>
          Head here
        </Button>
        <Button small disabled={at === 0 || at >= group.frames} onClick={hands.tail}>
          Tail here
        </Button>
        <Button small disabled={trimmed === 0} onClick={hands.untrim}>
          Untrim
        </Button>
        {all && (
          <Button small onClick={hands.toCovered}>
            To what all cover
          </Button>
        )}
        <Button small disabled={at === 0 || at >= group.frames} onClick={hands.split}>
          Split here
        </Button>
      </div>
      <ol>
        {group.angles.map((angle, i) => row(angle, i))}
        {group.sound && row(group.sound, null)}
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
