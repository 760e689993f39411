import type { Day } from '../../api/day';
import type { Angle, GroupView } from '../../api/types';
import { angleName, rankOf, seenOf } from '../../model/angles';
import { covers, runsAt } from '../../model/line';
import { Stamp } from '../../parts/Stamp';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';

type Props = {
  day: Day;
  view: GroupView;
  wall: Wall;
  /** Clips whose light copies are not there yet. */
  unready: ReadonlySet<number>;
  air: number;
  onTake: (angle: number) => void;
};

/** The small pictures: every angle at the frame on screen, or why it has none there. */
export function Angles({ day, view, wall, unready, air, onTake }: Props) {
  return (
    <div className="flex gap-1.5 pt-2.5">
      {seenOf(view.group).map((angle, i) => (
        <AngleTile
          key={angle.id}
          day={day}
          view={view}
          angle={angle}
          number={i + 1}
          wall={wall}
          unready={unready}
          onAir={angle.id === air}
          onTake={onTake}
        />
      ))}
    </div>
  );
}

type TileProps = Pick<Props, 'day' | 'view' | 'wall' | 'unready' | 'onTake'> & {
  angle: Angle;
  number: number;
  onAir: boolean;
};

function AngleTile({ day, view, angle, number, wall, unready, onAir, onTake }: TileProps) {
  const without = useWall(wall, ({ frame, trouble }) => {
    if (!runsAt(angle, frame)) return 'not running here';
    const waits = angle.parts.some((part) => covers(part, frame) && unready.has(part.clip));
    return waits ? 'its proxy is being made' : (trouble[angle.id] ?? null);
  });
  return (
    <button
      type="button"
      data-testid={`angle-${number}`}
      aria-pressed={onAir}
      onClick={() => onTake(angle.id)}
      className="max-w-[24%] min-w-0 flex-1 text-left"
    >
      <span className="relative block">
        <canvas
          ref={(canvas) => wall.setSmall(angle.id, canvas)}
          width={320}
          height={180}
          className={`aspect-video w-full border-[3px] ${onAir ? 'border-air' : 'border-transparent'}`}
        />
        {without && (
          <span className="absolute inset-[3px] flex items-center justify-center overflow-hidden border border-[#31403b] px-2 text-center text-[12px] text-[#9db0a9]">
            {without}
          </span>
        )}
      </span>
      <span className="flex items-center gap-2 px-0.5 pt-1">
        <b className="num">{number}</b>
        <Stamp devices={day.devices} id={angle.device} rank={rankOf(view.group, angle)} dark />
        <span className="truncate">{angleName(day, view.group, angle)}</span>
      </span>
    </button>
  );
}
