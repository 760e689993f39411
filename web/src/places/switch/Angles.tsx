import { useState } from 'react';
import type { Day } from '../../api/day';
import type { Angle, GroupView } from '../../api/types';
import { angleName, rankOf } from '../../model/angles';
import { soonOf } from '../../model/ends';
import { covers, runsAt } from '../../model/line';
import { across } from '../../model/pages';
import { Stamp } from '../../parts/Stamp';
import { useSize } from '../../parts/useSize';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';

type Props = {
  day: Day;
  view: GroupView;
  wall: Wall;
  /** The angles of the page, in their order. */
  angles: Angle[];
  /** Which of them have the number keys. */
  keys: readonly [number, number];
  /** In a row below the large picture; else as large as the room lets them be. */
  inRow: boolean;
  /** Clips whose light copies are not there yet. */
  unready: ReadonlySet<number>;
  air: number;
  onTake: (angle: number) => void;
  /** The pointer is over an angle, or over none. */
  onPoint: (angle: number | null) => void;
};

/** More pictures than these are two rows of them. */
const IN_A_ROW = 10;
const rowOf = (count: number) => (count > IN_A_ROW ? Math.ceil(count / 2) : count);

/** Height of what is said below a picture, pixels. */
const FOOT = 26;
const GAP = 6;

/** The small pictures of a page: every angle at the frame on screen, or why it has none there. */
export function Angles({ day, view, wall, angles, keys, inRow, unready, air, onTake, onPoint }: Props) {
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const { width, height } = useSize(box);
  const columns = inRow
    ? Math.max(4, rowOf(angles.length))
    : across(angles.length, width, height, FOOT + GAP);
  const rows = Math.ceil(angles.length / columns);
  // As large as width and height both let it be.
  const tile = Math.min(width / columns - GAP, ((height / rows - FOOT - GAP) * 16) / 9);
  const style = inRow
    ? { gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }
    : { gridTemplateColumns: `repeat(${columns}, ${Math.max(80, Math.floor(tile))}px)` };
  return (
    <div
      ref={setBox}
      data-testid="wall"
      className={`grid gap-1.5 pt-2.5 ${inRow ? '' : 'min-h-0 flex-1 content-center justify-center overflow-hidden'}`}
      style={style}
    >
      {angles.map((angle, i) => (
        <AngleTile
          key={angle.id}
          day={day}
          view={view}
          angle={angle}
          place={i + 1}
          number={i >= keys[0] && i < keys[1] ? i - keys[0] + 1 : null}
          wall={wall}
          fine={!inRow && columns <= 2}
          unready={unready}
          onAir={angle.id === air}
          onTake={onTake}
          onPoint={onPoint}
        />
      ))}
    </div>
  );
}

type TileProps = Pick<Props, 'day' | 'view' | 'wall' | 'unready' | 'onTake' | 'onPoint'> & {
  angle: Angle;
  /** Its place on the page, from 1. */
  place: number;
  /** Its number key, where it has one. */
  number: number | null;
  /** It is shown large. */
  fine: boolean;
  onAir: boolean;
};

function AngleTile({
  day,
  view,
  angle,
  place,
  number,
  wall,
  fine,
  unready,
  onAir,
  onTake,
  onPoint,
}: TileProps) {
  const { num, den } = view.group.start.rate;
  const without = useWall(wall, ({ frame, trouble }) => {
    if (!runsAt(angle, frame)) return 'not running here';
    const waits = angle.parts.some((part) => covers(part, frame) && unready.has(part.clip));
    return waits ? 'its proxy is being made' : (trouble[angle.id] ?? null);
  });
  const soon = useWall(wall, ({ frame }) => {
    const own = soonOf(angle, frame, num / den);
    if (!own) return null;
    const seconds = (frames: number) => `${Math.ceil((frames * den) / num)} s`;
    return 'ends' in own ? `ends in ${seconds(own.ends)}` : `begins in ${seconds(own.begins)}`;
  });
  const name = angleName(day, view.group, angle);
  return (
    <button
      type="button"
      data-testid={`angle-${place}`}
      aria-pressed={onAir}
      onClick={() => onTake(angle.id)}
      onPointerEnter={() => onPoint(angle.id)}
      onPointerLeave={() => onPoint(null)}
      className="min-w-0 text-left"
    >
      <span className="relative block">
        <canvas
          key={fine ? 'fine' : 'small'}
          ref={(canvas) => wall.setSmall(angle.id, canvas)}
          width={fine ? 640 : 320}
          height={fine ? 360 : 180}
          className={`aspect-video w-full border-[3px] ${onAir ? 'border-air' : 'border-transparent'}`}
        />
        {without && (
          <span className="absolute inset-[3px] flex items-center justify-center overflow-hidden border border-[#31403b] px-2 text-center text-[12px] text-[#9db0a9]">
            {without}
          </span>
        )}
        {soon && (
          <span className="num absolute top-1.5 right-1.5 bg-black/70 px-1.5 text-[12px] text-[#e0a54a]">
            {soon}
          </span>
        )}
      </span>
      <span className="flex items-center gap-2 px-0.5 pt-1">
        {number !== null && <b className="num">{number}</b>}
        <Stamp devices={day.devices} id={angle.device} rank={rankOf(view.group, angle)} dark />
        <span className="truncate" title={name}>
          {name}
        </span>
      </span>
    </button>
  );
}
