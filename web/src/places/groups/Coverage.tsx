import { useRef, type PointerEvent } from 'react';
import type { Day } from '../../api/day';
import type { Angle, GroupSummary } from '../../api/types';
import type { Run } from '../../model/coverage';
import { angleName } from '../../model/angles';
import { timecode } from '../../model/format';
import type { Window } from '../../model/mirror';
import { stem } from '../../model/names';
import { Thumb } from '../../parts/Thumb';
import { hue } from '../../parts/Stamp';

/** More stretches than can be told apart are not marked. */
const MARKED = 200;

/** A share of the width from which on a part has room for a picture beside its name. */
const ROOM = 0.2;

type Props = {
  day: Day;
  summary: GroupSummary;
  angle: Angle;
  /** Frames that are shown. */
  view: Window;
  /** Stretches that are marked. */
  runs: Run[];
  at: number;
  /** From where a piece is to be taken out, up to the playhead. */
  outFrom: number | null;
  onSeek: (frame: number) => void;
};

/** What of frames lies in a view, as shares of its width; none where nothing does. */
function inView(view: Window, from: number, to: number): { left: string; width: string } | null {
  const [begin, end] = [Math.max(from, view.from), Math.min(to, view.to)];
  if (begin >= end) return null;
  const share = (frames: number) => `${(100 * frames) / (view.to - view.from)}%`;
  return { left: share(begin - view.from), width: share(end - begin) };
}

/** Who ran when in one angle: a bar for each part, with the clip's name; the playhead over all of them. */
export function Bars({ day, summary: { group }, angle, view, runs, at, outFrom, onSeek }: Props) {
  const box = useRef<HTMLSpanElement>(null);
  const seek = (event: PointerEvent) => {
    const own = box.current?.getBoundingClientRect();
    if (!own || !(event.buttons & 1)) return;
    const part = (event.clientX - own.left) / Math.max(1, own.width);
    onSeek(Math.round(view.from + Math.max(0, Math.min(1, part)) * (view.to - view.from)));
  };
  const marked = runs.flatMap((run) => {
    const place = inView(view, run.from, run.to);
    return place ? [{ run, place }] : [];
  });
  const going = outFrom === null ? null : inView(view, Math.min(outFrom, at), Math.max(outFrom, at));
  return (
    <span
      ref={box}
      data-bars
      aria-label={`Coverage of ${angleName(day, group, angle)}`}
      className="relative h-6 min-w-0 flex-1 cursor-col-resize"
      onPointerDown={seek}
      onPointerMove={seek}
    >
      {angle.parts.map((part) => {
        const place = inView(view, part.from_frame, part.to_frame);
        if (!place) return null;
        const clip = day.clips.find((one) => one.id === part.clip);
        return (
          <span
            key={`${part.clip} ${part.from_frame}`}
            title={clip?.relative}
            className="num @container absolute inset-y-0 min-w-px overflow-hidden border-b-[3px] bg-band leading-[21px] select-none"
            style={{ ...place, borderColor: hue(day.devices, angle.device) }}
          >
            {clip?.facts.picture && (part.to_frame - part.from_frame) / (view.to - view.from) > ROOM && (
              <Thumb clip={clip.id} as={angle} className="float-left h-[21px] w-auto" />
            )}
            <span className="hidden truncate px-1.5 @min-[48px]:block">{clip && stem(clip)}</span>
          </span>
        );
      })}
      {marked.slice(0, MARKED).map(({ run, place }) => (
        <span
          key={run.from}
          className="pointer-events-none absolute -inset-y-2.5 border-x border-accent"
          style={place}
        />
      ))}
      {(group.seams ?? []).map((seam) => (
        <span
          key={seam.at}
          data-seam={seam.at}
          className="pointer-events-none absolute -inset-y-2.5 -translate-x-1/2 border-l-2 border-dashed border-ink"
          style={{ left: `${(100 * (seam.at - view.from)) / (view.to - view.from)}%` }}
          hidden={seam.at < view.from || seam.at > view.to}
        />
      ))}
      {going && <span className="pointer-events-none absolute -inset-y-2.5 bg-ink/15" style={going} />}
      {at >= view.from && at <= view.to && (
        <span
          data-testid="playhead"
          className="pointer-events-none absolute -inset-y-2.5 w-0.5 -translate-x-1/2 bg-ink"
          style={{ left: `${(100 * (at - view.from)) / (view.to - view.from)}%` }}
        />
      )}
    </span>
  );
}

/** The first and last label that is shown, over the bars. */
export function Extent({ summary: { group }, view }: Pick<Props, 'summary' | 'view'>) {
  const label = (frame: number) =>
    timecode({ ...group.start, frames: group.start.frames + Math.round(frame) });
  return (
    <div className="flex justify-between pb-1 pl-[248px] text-soft">
      <span className="num">{label(view.from)}</span>
      <span className="num">{label(view.to)}</span>
    </div>
  );
}
