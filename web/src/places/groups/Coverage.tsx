import { useRef, type PointerEvent } from 'react';
import type { Day } from '../../api/day';
import type { Angle, GroupSummary } from '../../api/types';
import { deviceName, stem } from '../../model/names';
import { hue } from '../../parts/Stamp';

type Props = {
  day: Day;
  summary: GroupSummary;
  angle: Angle;
  at: number;
  onSeek: (frame: number) => void;
};

/** Who ran when in one angle: a bar for each part, with the clip's name; the playhead over all of them. */
export function Bars({ day, summary: { group, covered_by_all: all }, angle, at, onSeek }: Props) {
  const box = useRef<HTMLSpanElement>(null);
  const share = (frame: number) => `${(100 * frame) / group.frames}%`;
  const seek = (event: PointerEvent) => {
    const own = box.current?.getBoundingClientRect();
    if (!own || !(event.buttons & 1)) return;
    const part = (event.clientX - own.left) / Math.max(1, own.width);
    onSeek(Math.round(Math.max(0, Math.min(1, part)) * group.frames));
  };
  return (
    <span
      ref={box}
      aria-label={`Coverage of ${deviceName(day, angle.device)}`}
      className="relative h-6 min-w-0 flex-1 cursor-col-resize"
      onPointerDown={seek}
      onPointerMove={seek}
    >
      {angle.parts.map((part) => {
        const clip = day.clips.find((one) => one.id === part.clip);
        return (
          <span
            key={`${part.clip} ${part.from_frame}`}
            title={clip?.relative}
            className="num absolute inset-y-0 truncate border-b-[3px] bg-band px-1.5 leading-[21px] select-none"
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
      {all?.map((edge) => (
        <span key={edge} className="absolute -inset-y-2.5 w-px bg-accent" style={{ left: share(edge) }} />
      ))}
      <span
        data-testid="playhead"
        className="pointer-events-none absolute -inset-y-2.5 w-0.5 -translate-x-1/2 bg-ink"
        style={{ left: share(at) }}
      />
    </span>
  );
}
