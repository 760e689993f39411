import { useQuery } from '@tanstack/react-query';
import { memo, useMemo, type MouseEvent, type PointerEvent } from 'react';
import type { Day } from '../../api/day';
import { clipLevelsQuery, peaksBetweenQuery } from '../../api/queries';
import type { Verdict } from '../../api/types';
import { Strip } from '../../draw/Strip';
import { clipAt, end, runs } from '../../model/axis';
import { pieces, verdicts, type Drawn, type DrawnPart } from '../../model/elastic';
import { apart, length, signed, speed } from '../../model/format';
import { audible, stem } from '../../model/names';
import { notesOf } from '../../model/notes';
import type { How } from '../../model/chosen';
import type { Slip } from '../../model/sheet';
import { Name } from '../../parts/Name';
import { hue } from '../../parts/Stamp';
import { VERDICT, VerdictMark } from '../../parts/VerdictMark';

/** What is written on a slip taller than this stays in sight, pixels: what stays is a layer of its own to the browser. */
export const STAYS = 240;
/** A strip taller than this is drawn as far as it is in sight, pixels. */
const TALL = 900;

type OneProps = {
  day: Day;
  slip: Slip;
  top: number;
  height: number;
  lane: number;
  lanes: number;
  /** Where something of it is folded, its parts. */
  parts: DrawnPart[];
  /** The part of the row that is in sight. */
  sight: { from: number; to: number };
  /** Seconds by which it moved since the pass that is compared. */
  moved: number;
  /** Pixels a second. */
  scale: number;
  chosen: boolean;
  onChoose: (clip: number, how: How) => void;
  /** It is taken to be dragged. */
  onGrab: (slip: Slip, top: number, event: PointerEvent) => void;
};

/** What is held while a clip is pressed. */
const how = (event: MouseEvent): How => ({
  extend: event.shiftKey,
  toggle: event.ctrlKey || event.metaKey,
});

/** A clip on the sheet: its sound from top to bottom, its name, its verdict, and what there is room for. */
export function SlipCard(props: OneProps) {
  const { day, slip, top, height, lane, lanes, moved, scale, chosen, onChoose, onGrab } = props;
  const { clip, placed } = slip;
  const colour = hue(day.devices, clip.device);
  const text = [...(moved ? [`moved ${apart(moved)}`] : []), ...lines(day, slip)];
  const verdict = placed?.placement.verdict;
  const share = `${100 / lanes}%`;
  const card = (
    <button
      type="button"
      onClick={(event) => onChoose(clip.id, how(event))}
      onPointerDown={(event) => event.button === 0 && placed && onGrab(slip, top, event)}
      aria-pressed={chosen}
      title={[clip.file_name, verdict && VERDICT[verdict], ...text].filter(Boolean).join('\n')}
      className={`absolute flex items-start border bg-sheet text-left contain-strict ${chosen ? 'z-10 outline-2 outline-accent' : 'border-line'} ${slip.isFirst ? 'border-dashed opacity-60' : ''}`}
      style={{
        top,
        height: Math.max(height - 2, 18),
        left: `calc(${lane} * ${share} + 4px)`,
        width: `calc(${share} - ${lane === lanes - 1 ? 10 : 6}px)`,
        borderLeft: `2px solid ${colour}`,
      }}
    >
      <span className="absolute inset-y-0 left-0 w-[18px] overflow-hidden">
        <Levels {...props} colour={colour} />
      </span>
      <span
        className={`${height > STAYS ? 'sticky top-1' : ''} ml-[18px] block min-w-0 flex-1 overflow-hidden py-px pl-0.5 text-[12px] leading-[1.3]`}
      >
        <span className="flex items-center gap-1">
          {verdict && <VerdictMark verdict={verdict} />}
          {height > 64 ? (
            <span className="num min-w-0 wrap-anywhere">{stem(clip)}</span>
          ) : (
            <Name text={stem(clip)} />
          )}
        </span>
        {text.slice(0, Math.max(0, Math.floor((height - 22) / 14))).map((line) => (
          <span key={line} className="num block truncate text-[11px] text-soft">
            {line}
          </span>
        ))}
      </span>
    </button>
  );
  // Where it lay in the pass that is compared, as far as the row shows it.
  const was = top - moved * scale;
  if (!moved || Math.abs(was - top) < 3 || was < 0) return card;
  return (
    <>
      <span
        aria-hidden
        className="pointer-events-none absolute right-0.5 left-0 border border-dashed border-accent"
        style={{ top: was, height: Math.max(height - 2, 20) }}
      />
      {card}
    </>
  );
}

type LevelsProps = Pick<OneProps, 'slip' | 'top' | 'height' | 'sight' | 'parts'> & { colour: string };

/** The sound of a slip: all of it, or of a tall one what is in sight. */
function Levels({ slip, top, height, sight, parts, colour }: LevelsProps) {
  if (parts.length > 0) {
    return parts
      .filter(
        (part) => !part.folded && top + part.top < sight.to && top + part.top + part.height > sight.from,
      )
      .flatMap((part) => {
        const near = { from: sight.from - top - part.top, to: sight.to - top - part.top };
        const found = pieces(part.to_s - part.from_s, part.height, near);
        return found.map((piece) => (
          <span
            key={`${part.from_s} ${piece.from_s} ${piece.to_s}`}
            className="absolute right-0 left-0"
            style={{ top: part.top + piece.top, height: piece.height }}
          >
            <PieceStrip
              slip={slip}
              from={part.from_s + piece.from_s}
              to={part.from_s + piece.to_s}
              colour={colour}
            />
          </span>
        ));
      });
  }
  if (height <= TALL) return <WholeStrip slip={slip} colour={colour} fine={height > 260} />;
  return pieces(slip.to - slip.from, height, { from: sight.from - top, to: sight.to - top }).map((piece) => (
    <span
      key={`${piece.from_s} ${piece.to_s}`}
      className="absolute right-0 left-0"
      style={{ top: piece.top, height: piece.height }}
    >
      <PieceStrip slip={slip} from={piece.from_s} to={piece.to_s} colour={colour} />
    </span>
  ));
}

/** The run of a clip that a slip is. */
function runOf({ placed, part }: Slip) {
  const run = runs(placed?.placement.stretches ?? [])[part];
  const [first, last] = [run?.[0], run?.at(-1)];
  return first && last ? { first, last, run } : null;
}

type WholeProps = { slip: Slip; colour: string; fine: boolean };

const WholeStrip = memo(function WholeStrip({ slip, colour, fine }: WholeProps) {
  const { clip, parts } = slip;
  const levels = useQuery(clipLevelsQuery(clip, fine ? 360 : 120));
  const own = useMemo(() => {
    const all = levels.data ?? [];
    const found = runOf(slip);
    if (!found || parts === 1) return all;
    const share = (s: number) => Math.round((s / clip.facts.duration_s) * all.length);
    return all.slice(share(found.first.clip_start_s), share(found.last.clip_end_s));
  }, [levels.data, slip, parts, clip.facts.duration_s]);
  return <Strip levels={own} colour={colour} down className="h-full w-5" />;
});

type PieceProps = { slip: Slip; from: number; to: number; colour: string };

/** A part of a slip, in seconds from where it begins. */
const PieceStrip = memo(function PieceStrip({ slip, from, to, colour }: PieceProps) {
  const { clip } = slip;
  const found = runOf(slip);
  const at = (seconds: number) => {
    if (!found) return seconds;
    const moment = found.first.start_s + seconds;
    const piece = found.run?.find((one) => moment < end(one)) ?? found.last;
    return Math.max(0, clipAt(piece, moment));
  };
  const peaks = useQuery(peaksBetweenQuery(clip, at(from), at(to), 300));
  const levels = useMemo(() => {
    const channels = audible(clip, peaks.data?.channels ?? []);
    const bins = (channels[0]?.length ?? 0) / 3;
    // The loudest channel says when something is to be heard.
    return Array.from({ length: bins }, (_, bin) =>
      Math.max(...channels.map((one) => (one[3 * bin + 1] ?? 0) / 258)),
    );
  }, [peaks.data, clip]);
  return <Strip levels={levels} colour={colour} down className="h-full w-5" />;
});

type ManyProps = {
  day: Day;
  item: Extract<Drawn, { many: unknown }>;
  chosen: ReadonlySet<number>;
  onChoose: (clip: number, how: How) => void;
  onCloser: () => void;
};

/** The end of a name: files of a device differ in that. */
const ending = (name: string) => name.slice(-4).trim();

const DOUBTS: readonly Verdict[] = ['check', 'unplaced'];

/** Clips too short to be told apart at this scale: how many of each verdict, the doubtful ones by name. */
export function ManyCard({ day, item, chosen, onChoose, onCloser }: ManyProps) {
  const { many, top, height } = item;
  const counts = verdicts(many);
  const doubts = many.filter(({ placed }) => placed && DOUBTS.includes(placed.placement.verdict));
  // Two names side by side, as many lines as there are.
  const room = 2 * Math.max(0, Math.floor((height - 20) / 17));
  const named = doubts.length > room ? Math.max(0, room - 1) : doubts.length;
  const [first] = many;
  if (!first) return null;
  const said = [...counts].map(([verdict, count]) => `${count} ${VERDICT[verdict]}`).join(', ');
  return (
    <div
      className={`absolute right-1.5 left-1 border bg-sheet contain-strict ${many.some(({ clip }) => chosen.has(clip.id)) ? 'z-10 outline-2 outline-accent' : 'border-line'}`}
      style={{
        top,
        height: Math.max(height - 2, 18),
        borderLeft: `2px solid ${hue(day.devices, first.clip.device)}`,
      }}
    >
      <button
        type="button"
        onClick={onCloser}
        title={`${many.length} clips, ${stem(first.clip)} to ${stem((many.at(-1) ?? first).clip)}${said && `: ${said}`}. Press to go closer.`}
        className="num flex w-full items-center gap-1.5 pl-1 text-left text-[12px]"
      >
        {counts.size === 0 && `${many.length} clips`}
        {[...counts].map(([verdict, count]) => (
          <span key={verdict} className="flex items-center gap-1 pr-1">
            <VerdictMark verdict={verdict} />
            {count}
          </span>
        ))}
      </button>
      <div className="grid grid-cols-2">
        {doubts.slice(0, named).map((slip) => (
          <button
            key={`${slip.clip.id} ${slip.part}`}
            type="button"
            onClick={(event) => onChoose(slip.clip.id, how(event))}
            className={`flex h-[17px] min-w-0 items-center gap-1 pl-1 text-left text-[11px] ${chosen.has(slip.clip.id) ? 'bg-band font-semibold' : ''}`}
          >
            {slip.placed && <VerdictMark verdict={slip.placed.placement.verdict} />}
            <span className="num truncate">{ending(stem(slip.clip))}</span>
          </button>
        ))}
        {named < doubts.length && room > 0 && (
          <button type="button" onClick={onCloser} className="h-[17px] pl-1 text-left text-[11px] text-check">
            {doubts.length - named} more
          </button>
        )}
      </div>
    </div>
  );
}

/** What is written on a slip, line by line, as far as it has room. */
function lines(day: Day, { clip, placed, part, parts, from, to }: Slip): string[] {
  const found = runs(placed?.placement.stretches ?? []);
  const [before, own] = [found[part - 1]?.at(-1), found[part]?.[0]];
  const last = found[part]?.at(-1);
  const text = [length(to - from) + (parts > 1 ? ` · ${part + 1} of ${parts}` : '')];
  if (own && day.pass?.reference === clip.device) text.push('reference');
  else if (own && last && last !== own) {
    text.push(`${signed(own.rate_ppm, 1)} to ${signed(last.rate_ppm, 1)} ppm`);
  } else if (own) text.push(speed(own.rate_ppm) ?? `${signed(own.rate_ppm, 1)} ppm`);
  if (before && own) text.push(`lost ${(own.start_s - end(before)).toFixed(3)} s`);
  if (clip.channels?.some((channel) => channel.audio_timecode)) text.push('audio tc');
  const slate = [clip.facts.scene, clip.facts.take].filter(Boolean).join(' / ');
  if (slate) text.push(slate);
  if (clip.marks.length > 0)
    text.push(clip.marks.length > 1 ? `${clip.marks.length} slates marked` : 'slate marked');
  return [...text, ...(notesOf(day.health).get(clip.id) ?? [])];
}
