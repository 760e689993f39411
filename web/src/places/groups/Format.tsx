import { useState } from 'react';
import type { Day } from '../../api/day';
import { useCommands, useRefresh } from '../../api/commands';
import type { FrameRate, GroupSummary, StartsAt } from '../../api/types';
import { rate, timecode } from '../../model/format';
import { seenOf } from '../../model/angles';
import { stemOf } from '../../model/names';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { convertedSaid } from './converted';

type Props = {
  day: Day;
  summary: GroupSummary;
  version: number;
  /** With the group's number: at another rate it is another one. */
  onDone: (group: number) => void;
  onClose: () => void;
};

/** What groups are counted at. */
const RATES: FrameRate[] = [
  [24_000, 1001],
  [24, 1],
  [25, 1],
  [30_000, 1001],
  [30, 1],
  [50, 1],
  [60_000, 1001],
  [60, 1],
].map(([num = 25, den = 1]) => ({ num, den }));

/** Whether drop-frame counting exists for it. */
const canDrop = ({ num, den }: FrameRate) => den === 1001 && num % 30_000 === 0;

const key = ({ num, den }: FrameRate) => `${num}/${den}`;

/** The format of a group: its rate, how it counts and from where, its size. */
export function Format({ day, summary, version, onDone, onClose }: Props) {
  const { group } = summary;
  const parts = seenOf(group).flatMap((angle) => angle.parts);
  const [own, setOwn] = useState(group.start.rate);
  const [drop, setDrop] = useState(group.start.drop);
  const [size, setSize] = useState(`${group.width}×${group.height}`);
  const [from, setFrom] = useState<StartsAt['from']>('typed');
  const [label, setLabel] = useState(timecode(group.start));
  const [clip, setClip] = useState(parts[0]?.clip ?? 0);
  const run = useCommands();
  const refresh = useRefresh();
  const rates = [...RATES, own, ...parts.map((part) => part.rate)];
  const offered = [...new Map(rates.map((one) => [key(one), one])).values()].sort(
    (a, b) => a.num / a.den - b.num / b.den,
  );
  const clips = [...new Set(parts.map((part) => part.clip))];
  const sizes = [
    ...new Set([
      `${group.width}×${group.height}`,
      ...clips.flatMap((id) => {
        const picture = day.clips.find((one) => one.id === id)?.facts.picture;
        return picture ? [`${picture.width}×${picture.height}`] : [];
      }),
      '1920×1080',
      '3840×2160',
    ]),
  ];
  const start: StartsAt = from === 'clip' ? { from, clip } : from === 'typed' ? { from, label } : { from };
  const take = async () => {
    const [width = 0, height = 0] = size.split('×').map(Number);
    const counts = drop && canDrop(own);
    const done = await run.formatGroup(summary.id, {
      version,
      rate: own,
      drop: counts,
      width,
      height,
      start,
    });
    await refresh.day();
    if (done?.group) onDone(done.group);
  };
  return (
    <Ask title={<>Format of {group.name}</>} onClose={onClose} width={560}>
      <form
        className="flex flex-col gap-2.5 pt-3"
        onSubmit={(event) => {
          event.preventDefault();
          void take();
        }}
      >
        <div className="flex items-center gap-4">
          <Choice
            label="Frames a second"
            value={key(own)}
            onChange={(value) => setOwn(offered.find((one) => key(one) === value) ?? own)}
          >
            {offered.map((one) => (
              <option key={key(one)} value={key(one)}>
                {rate(one)}
              </option>
            ))}
          </Choice>
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              disabled={!canDrop(own)}
              checked={drop && canDrop(own)}
              onChange={(event) => setDrop(event.target.checked)}
            />
            drop-frame
          </label>
          <Choice label="Size" value={size} onChange={setSize}>
            {sizes.map((one) => (
              <option key={one} value={one}>
                {one}
              </option>
            ))}
          </Choice>
        </div>
        <div className="flex items-center gap-4">
          <Choice
            label="Starts at"
            value={from}
            onChange={(value) => setFrom(STARTS.find(([one]) => one === value)?.[0] ?? 'typed')}
          >
            {STARTS.map(([one, words]) => (
              <option key={one} value={one}>
                {words}
              </option>
            ))}
          </Choice>
          {from === 'typed' && (
            <input
              aria-label="Label of the first frame"
              value={label}
              onChange={(event) => setLabel(event.target.value)}
              className="num w-32 rounded-[3px] border border-line bg-sheet px-2 py-1"
            />
          )}
          {from === 'clip' && (
            <Choice label="that of" value={clip} onChange={(value) => setClip(Number(value))}>
              {clips.map((id) => (
                <option key={id} value={id}>
                  {stemOf(day, id)}
                </option>
              ))}
            </Choice>
          )}
        </div>
        {key(own) === key(group.start.rate) ? (
          summary.converted.length > 0 && <p className="text-soft">{convertedSaid(summary.converted)}</p>
        ) : (
          <p className="text-soft">
            Counted at another rate it is another group: cuts go to the frames of the same moments. Undo
            brings back this one.
          </p>
        )}
        <div className="flex justify-end gap-2 pt-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button main type="submit">
            Have it so
          </Button>
        </div>
      </form>
    </Ask>
  );
}

const STARTS: [StartsAt['from'], string][] = [
  ['typed', 'what is typed'],
  ['day', 'the time of day'],
  ['zero', 'nought'],
  ['hour', 'one o’clock'],
  ['clip', 'a clip’s timecode'],
];
