import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Day } from '../../api/day';
import { soundQuery } from '../../api/queries';
import type { Angle, GroupChange, GroupSummary } from '../../api/types';
import { angleName, angleOf, rankOf, seenOf } from '../../model/angles';
import { edgeSaid } from '../../model/edges';
import { frameSeconds, length, rate, timecode } from '../../model/format';
import { outAt } from '../../model/seam';
import { islandOf, ran } from '../../model/island';
import { Button } from '../../parts/Button';
import { Editable } from '../../parts/Editable';
import { SoundGrid } from '../../parts/grid/SoundGrid';
import { SoundLaid } from '../../parts/SoundUnder';
import { Stamp } from '../../parts/Stamp';
import { AngleTools } from './AngleTools';
import { convertedSaid } from './converted';
import { Bars, Extent } from './Coverage';
import type { AngleHands } from './useAngles';
import { Level } from '../../parts/Level';
import { Moved } from './Moved';
import { Stretches } from './Stretches';
import type { Hands, Shaping } from './useShaping';
import { usePlay } from './usePlay';
import { useWheel, type View } from '../../parts/useView';

type Props = {
  day: Day;
  summary: GroupSummary;
  /** The playhead, a frame of the group. */
  at: number;
  /** The frame from which a piece is to be taken out, where that is said. */
  outFrom: number | null;
  view: View;
  stretches: Shaping['stretches'];
  hands: Hands;
  angles: AngleHands;
  onTakeIn: () => void;
  onTitle: () => void;
  onFormat: () => void;
  onThrough: () => void;
  onShape: (change: GroupChange) => void;
};

/** One group: its name and format, who ran when in which order, where it is trimmed, and its sound. */
export function Detail({
  day,
  summary,
  at,
  outFrom,
  view,
  stretches,
  hands,
  angles,
  onTakeIn,
  onTitle,
  onFormat,
  onThrough,
  onShape,
}: Props) {
  const { sound, playing, silent, play } = usePlay(summary, at, hands.seek);
  const { group, window } = summary;
  const seconds = (frames: number) => length(frames * frameSeconds(group.start.rate));
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const { runs, wanted } = stretches;
  const [list, setList] = useState<HTMLOListElement | null>(null);
  useWheel(list, view);
  const island = islandOf(day, group.component);
  const laid = useQuery(soundQuery).data?.groups.find(({ report }) => report.belongs_to === group.name);
  const trimmed = summary.whole_frames - (window[1] - window[0]);
  const out = window[1] - window[0] - group.frames;
  const outHere = outAt(summary, at);
  const facts: [string, string][] = [
    [
      'Format',
      `${group.width}×${group.height} · ${rate(group.start.rate)} fps${group.start.drop ? ' drop-frame' : ''}`,
    ],
    ...(summary.converted.length > 0
      ? [['Converted', convertedSaid(summary.converted)] satisfies [string, string]]
      : []),
    ['Starts', timecode(group.start)],
    [
      'Extent',
      [
        `${seconds(group.frames)} · ${group.frames} f`,
        ...(trimmed > 0 ? [`${seconds(trimmed)} trimmed off`] : []),
        ...(out > 0 ? [`${seconds(out)} taken out`] : []),
      ].join(' · '),
    ],
    ...(island
      ? [['On the day', ran(day, island) ?? 'nothing says when it ran'] satisfies [string, string]]
      : []),
    ['Line', summary.switches > 1 ? `${summary.switches} stretches` : 'not cut yet'],
  ];
  const name = (angle: Angle) => angleName(day, group, angle);
  const keyed = seenOf(group);
  const said = edgeSaid(group, at, name);
  const row = (angle: Angle, number: number | null) => {
    const key = keyed.indexOf(angle);
    const chosen = number !== null && angle.id === angles.chosen;
    return (
      <li
        key={number === null ? 'sound' : angle.id}
        className={`flex h-11 items-center gap-3 border-t border-line last:border-b ${chosen ? 'bg-band' : ''}`}
      >
        <b className="num w-4 text-right">{key < 0 ? '' : key + 1}</b>
        <span className="flex w-7 shrink-0">
          <Stamp devices={day.devices} id={angle.device} rank={number === null ? 0 : rankOf(group, angle)} />
        </span>
        {number === null ? (
          <span className="w-24 truncate" title={name(angle)}>
            {name(angle)}
          </span>
        ) : (
          <button
            type="button"
            aria-pressed={chosen}
            title={name(angle)}
            onClick={() => angles.choose(angle.id)}
            className={`w-24 truncate text-left ${angle.hidden ? 'text-soft line-through' : ''}`}
          >
            {name(angle)}
          </button>
        )}
        {number === null ? (
          <span className="w-[60px] text-soft">sound</span>
        ) : (
          <span className="flex w-[60px] gap-1">
            {([-1, 1] as const).map((by) => (
              <Button
                key={by}
                small
                disabled={by < 0 ? number === 0 : number === group.angles.length - 1}
                aria-label={`Move ${name(angle)} ${by < 0 ? 'up' : 'down'}`}
                onClick={() =>
                  onShape({ do: 'move_angle', group: summary.id, from: number, to: number + by })
                }
              >
                {by < 0 ? '↑' : '↓'}
              </Button>
            ))}
          </span>
        )}
        <Bars
          day={day}
          summary={summary}
          angle={angle}
          view={view.view}
          runs={runs}
          at={at}
          outFrom={outFrom}
          onSeek={hands.seek}
        />
      </li>
    );
  };
  return (
    <section aria-label="Group" className="min-w-0 flex-1 overflow-y-auto bg-sheet px-6 py-4">
      <Editable
        label="Name of the group"
        value={group.name}
        max={80}
        onSave={(text) => onShape({ do: 'rename', group: summary.id, name: text })}
        className="w-full text-[18px] font-semibold"
      />
      <Moved day={day} summary={summary} onRelay={angles.relay} />
      <dl className="grid max-w-[620px] grid-cols-[130px_1fr] pt-3">
        {facts.map(([what, value]) => (
          <div
            key={what}
            className="col-span-2 grid min-h-7 grid-cols-subgrid items-center border-t border-line"
          >
            <dt className="text-soft">{what}</dt>
            <dd className={`flex items-center gap-3 ${what === 'Converted' ? '' : 'num'}`}>
              {value}
              {what === 'Format' && (
                <Button small className="font-sans" onClick={onFormat}>
                  Change…
                </Button>
              )}
            </dd>
          </div>
        ))}
      </dl>
      <div className="flex items-center gap-2 pt-5 pb-2">
        <h2 className="flex-1 text-[14px] font-semibold">Coverage and angle order</h2>
        <Button small onClick={onThrough} title="viewing LUTs, and how the angles differ">
          Seen through…
        </Button>
        <Button small onClick={onTakeIn}>
          Take a clip in…
        </Button>
        <Button small onClick={onTitle}>
          Title…
        </Button>
        <Button small onClick={angles.add} title="an angle for what comes later">
          Empty angle
        </Button>
      </div>
      <div className="flex flex-wrap items-center gap-2 pb-2">
        <span className="num" aria-label="Playhead">
          {label(at)}
        </span>
        <span className="min-w-44 flex-1 truncate text-soft" title={said}>
          {said}
        </span>
        <Button small disabled={at === 0 || at >= group.frames} onClick={hands.head}>
          Head here
        </Button>
        <Button small disabled={at === 0 || at >= group.frames} onClick={hands.tail}>
          Tail here
        </Button>
        <Button small disabled={trimmed === 0} onClick={hands.untrim}>
          Untrim
        </Button>
        {runs.length > 0 && (
          <Button small onClick={hands.toCovered}>
            {wanted === keyed.length ? 'To what all cover' : 'To this stretch'}
          </Button>
        )}
        <Button small disabled={at === 0 || at >= group.frames} onClick={hands.split}>
          Split here
        </Button>
        <Button
          small
          aria-pressed={outFrom !== null}
          title="out of all angles, the sound and the line; what follows moves up"
          onClick={hands.takeOut}
        >
          {outFrom === null ? 'Take out from here' : `Take out ${seconds(Math.abs(at - outFrom))} to here`}
        </Button>
        {outHere > 0 && (
          <Button small onClick={hands.putBack}>
            Put {seconds(outHere)} back
          </Button>
        )}
      </div>
      <AngleTools
        day={day}
        summary={summary}
        angle={angleOf(group, angles.chosen ?? undefined)}
        hands={angles}
      />
      <Extent summary={summary} view={view.view} />
      <ol ref={setList}>
        {group.angles.map((angle, i) => row(angle, i))}
        {group.sound && row(group.sound, null)}
      </ol>
      {group.sound && <Level summary={summary} view={view.view} />}
      <Stretches
        summary={summary}
        wanted={wanted}
        runs={runs}
        at={at}
        onWant={stretches.setWanted}
        onSeek={hands.seek}
      />
      <h2 className="pt-6 pb-2 text-[14px] font-semibold">Sound</h2>
      {silent !== null && (
        <p role="status" className="pb-2 text-check">
          The sound cannot be played: {silent}
        </p>
      )}
      <SoundGrid day={day} sound={sound} playing={playing} onPlay={play} id="sound-grid" />
      {laid && (
        <>
          <h2 className="pt-6 pb-2 text-[14px] font-semibold">Sound that goes out</h2>
          <SoundLaid report={laid.report} />
        </>
      )}
    </section>
  );
}
