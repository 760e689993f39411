import { useQuery } from '@tanstack/react-query';
import { memo, useMemo, type MouseEvent } from 'react';
import type { Day } from '../../api/day';
import { clipLevelsQuery } from '../../api/queries';
import type { ClipView } from '../../api/types';
import { Strip } from '../../draw/Strip';
import type { How } from '../../model/chosen';
import { length } from '../../model/format';
import { stem } from '../../model/names';
import { MARGIN, type Take, type TakePart, type Track } from '../../model/tracks';
import { Name } from '../../parts/Name';
import { Stamp, hue } from '../../parts/Stamp';
import { VERDICT, VerdictMark } from '../../parts/VerdictMark';

type Props = {
  day: Day;
  tracks: Track[];
  chosen: ReadonlySet<number>;
  onChoose: (clip: number, how: How) => void;
};

/** Performances to tracks: under each track its takes, one above the other, where on the track each was made. */
export function Tracks({ day, tracks, chosen, onChoose }: Props) {
  return tracks.map((track) => (
    <section key={track.clip.id} aria-label={`Track ${stem(track.clip)}`} className="px-2 pt-3 pb-4">
      <div className="flex items-stretch border-b border-ink">
        <h2 className="flex w-[190px] shrink-0 items-center gap-2 pr-2 font-semibold">
          <Stamp devices={day.devices} id={track.clip.device} />
          <Name text={stem(track.clip)} className="flex-1" />
        </h2>
        <div className="relative h-14 flex-1 bg-sheet">
          <Part
            clip={track.clip}
            part={{
              from: 0,
              to: track.length,
              clipFrom: 0,
              clipTo: track.clip.facts.duration_s,
              before: false,
              after: false,
            }}
            track={track}
            colour="var(--ink)"
          />
          <Times track={track} />
        </div>
      </div>
      {track.takes.map((take) => (
        <TakeRow
          key={take.clip.id}
          day={day}
          take={take}
          track={track}
          chosen={chosen.has(take.clip.id)}
          onChoose={onChoose}
        />
      ))}
      {track.takes.length === 0 && <p className="py-2 text-soft">No take was made to it.</p>}
    </section>
  ));
}

/** Where on the width of a track a moment of it is, percent. */
const across = ({ length }: Track, at: number) =>
  (100 * (at + MARGIN * length)) / ((1 + 2 * MARGIN) * length);

/** Times along a track: as many as can be read. */
function Times({ track }: { track: Track }) {
  const steps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800];
  const step = steps.find((one) => track.length / one <= 8) ?? 3600;
  return Array.from({ length: Math.floor(track.length / step) + 1 }, (_, i) => i * step).map((at) => (
    <span
      key={at}
      className="num absolute bottom-0 border-l border-line pl-1 text-[11px] leading-none text-soft"
      style={{ left: `${across(track, at)}%` }}
    >
      {length(at).replace(/\.00$/, '')}
    </span>
  ));
}

type RowProps = {
  day: Day;
  take: Take;
  track: Track;
  chosen: boolean;
  onChoose: (clip: number, how: How) => void;
};

const TakeRow = memo(function TakeRow({ day, take, track, chosen, onChoose }: RowProps) {
  const { clip, placed, parts } = take;
  const { verdict } = placed.placement;
  const slate = [clip.scene, clip.take].filter(Boolean).join(' / ');
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={(event: MouseEvent) =>
        onChoose(clip.id, { extend: event.shiftKey, toggle: event.ctrlKey || event.metaKey })
      }
      title={[clip.file_name, VERDICT[verdict], slate].filter(Boolean).join('\n')}
      className={`flex h-9 w-full items-stretch border-b border-line text-left ${chosen ? 'bg-sheet outline-2 -outline-offset-2 outline-accent' : ''}`}
    >
      <span className="flex w-[190px] shrink-0 items-center gap-2 pr-2">
        <Stamp devices={day.devices} id={clip.device} />
        <VerdictMark verdict={verdict} />
        <Name text={stem(clip)} className="flex-1" />
        <span className="num text-[12px] text-soft">{slate}</span>
      </span>
      <span className="relative flex-1">
        {parts.map((part) => (
          <Part
            key={part.from}
            clip={clip}
            part={part}
            track={track}
            colour={hue(day.devices, clip.device)}
          />
        ))}
      </span>
    </button>
  );
});

type PartProps = { clip: ClipView; part: TakePart; track: Track; colour: string };

/** A stretch of a clip where on the track it was made; ragged where the clip goes on. */
function Part({ clip, part, track, colour }: PartProps) {
  const { data } = useQuery(clipLevelsQuery(clip, 600));
  const levels = useMemo(() => {
    const all = data ?? [];
    const at = (moment: number) => Math.round((moment / clip.facts.duration_s) * all.length);
    return all.slice(at(part.clipFrom), at(part.clipTo));
  }, [data, clip.facts.duration_s, part]);
  return (
    <span
      className={`absolute inset-y-1 overflow-hidden border-y border-line bg-sheet ${part.before ? 'border-l border-l-ink/40 [border-left-style:dashed]' : 'border-l-2'} ${part.after ? 'border-r [border-right-style:dashed]' : 'border-r'}`}
      style={{
        left: `${across(track, part.from)}%`,
        width: `${across(track, part.to) - across(track, part.from)}%`,
        borderLeftColor: part.before ? undefined : colour,
      }}
    >
      <Strip levels={levels} colour={colour} className="h-full w-full" />
    </span>
  );
}
