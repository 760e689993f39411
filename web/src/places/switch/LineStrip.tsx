import { useQuery } from '@tanstack/react-query';
import { memo, useMemo } from 'react';
import { groupLevelsQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { GroupView } from '../../api/types';
import { Strip } from '../../draw/Strip';
import { angleOf, rankOf } from '../../model/angles';
import { timecode } from '../../model/format';
import { hue } from '../../parts/Stamp';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';

type Props = {
  day: Day;
  view: GroupView;
  wall: Wall;
  chosen: number;
  onSeek: (frame: number) => void;
};

/** A thin strip of the whole: the stretches, the sound below, the playhead. */
export function LineStrip({ day, view, wall, chosen, onSeek }: Props) {
  const { group } = view;
  const frame = useWall(wall, (state) => state.frame);
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
      <Stretches day={day} view={view} chosen={chosen} />
      <div
        className="absolute top-[-3px] h-[66px] w-px bg-[#dce7e2]"
        style={{ left: share(frame + 0.5, group.frames) }}
      />
    </div>
  );
}

const share = (at: number, frames: number) => `${(100 * at) / frames}%`;

type StretchesProps = Pick<Props, 'day' | 'view' | 'chosen'>;

/** What does not change while the playhead runs. */
const Stretches = memo(function Stretches({ day, view, chosen }: StretchesProps) {
  const { group, line } = view;
  const levels = useQuery(groupLevelsQuery(view, 800));
  const none: number[] = useMemo(() => [], []);
  return (
    <>
      {line.switches.map((one, i) => {
        const end = line.switches[i + 1]?.at ?? group.frames;
        const angle = angleOf(group, one.angle);
        const rank = angle ? rankOf(group, angle) : 0;
        return (
          <div
            key={one.at}
            className={`absolute top-0 h-[24px] overflow-hidden border-l-2 border-black px-1.5 leading-[24px] text-[#dce7e2] ${i === chosen ? 'outline-2 -outline-offset-2 outline-[#dce7e2]' : ''}`}
            style={{
              left: share(one.at, group.frames),
              width: share(end - one.at, group.frames),
              background: `color-mix(in srgb, ${hue(day.devices, angle?.device ?? null)} 55%, #1a2220)`,
            }}
          >
            {day.devices.find((device) => device.id === angle?.device)?.letter}
            {rank > 0 && rank + 1}
          </div>
        );
      })}
      <Strip levels={levels.data ?? none} colour="#9db0a9" className="absolute top-[28px] h-[32px] w-full" />
    </>
  );
});
