import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Day } from '../../api/day';
import { besideQuery } from '../../api/queries';
import type { GroupSummary } from '../../api/types';
import { length, timecode } from '../../model/format';
import { stem, stemOf } from '../../model/names';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { Stamp } from '../../parts/Stamp';

type Props = {
  day: Day;
  summary: GroupSummary;
  version: number;
  /** The playhead, a frame of the group. */
  at: number;
  /** The clip at the playhead in the chosen angle. */
  here: number | null;
  onTake: (clip: number, at: number | null, instead?: boolean) => Promise<boolean>;
  onClose: () => void;
};

/** The clips that are not in a group: those that ran with it are taken in where they lie, others at the playhead. */
export function TakeClipIn({ day, summary, version, at, here, onTake, onClose }: Props) {
  const [wanted, setWanted] = useState('');
  const beside = useQuery(besideQuery(summary.id, version));
  const { group } = summary;
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const take = async (clip: number, begins: number | null, instead = false) => {
    if (await onTake(clip, begins, instead)) onClose();
  };
  const rows = (beside.data ?? []).flatMap((own) => {
    const clip = day.clips.find((one) => one.id === own.clip);
    return clip?.relative.toLowerCase().includes(wanted.toLowerCase()) ? [{ clip, begins: own.at }] : [];
  });
  return (
    <Ask width={820} title={<>Take a clip into {group.name}</>} onClose={onClose}>
      <label className="flex items-center gap-2 py-2">
        <span className="text-soft">Clips whose names hold</span>
        <input
          data-autofocus
          value={wanted}
          onChange={(event) => setWanted(event.target.value)}
          className="w-56 rounded-[3px] border border-line bg-sheet px-2 py-1"
        />
      </label>
      {beside.isError && <p className="text-fault">{beside.error.message}</p>}
      {beside.data && rows.length === 0 && (
        <p className="py-3 text-soft">Every picture clip of the day is in the group already.</p>
      )}
      <ul aria-label="Clips beside the group" className="min-h-0 overflow-y-auto border-t border-line">
        {rows.map(({ clip, begins }) => (
          <li key={clip.id} className="flex h-9 items-center gap-3 border-b border-line">
            <Stamp devices={day.devices} id={clip.device} />
            <span className="min-w-0 flex-1 truncate" title={clip.relative}>
              {stem(clip)}
            </span>
            <span className="num w-20 text-right text-soft">
              {clip.facts.picture?.still ? 'still' : length(clip.facts.duration_s)}
            </span>
            <span className="w-36 whitespace-nowrap text-soft">
              {clip.facts.picture?.still ? (
                'stands to the end'
              ) : begins === null ? (
                'at another time'
              ) : (
                <span className="num">from {label(begins)}</span>
              )}
            </span>
            <Button
              small
              disabled={begins === null}
              aria-label={`Take in ${stem(clip)} where it lies`}
              onClick={() => void take(clip.id, null)}
            >
              Where it lies
            </Button>
            <Button
              small
              aria-label={`Take in ${stem(clip)} at the playhead`}
              onClick={() => void take(clip.id, at)}
            >
              At the playhead
            </Button>
            {here !== null && (
              <Button
                small
                aria-label={`Instead of ${stemOf(day, here)}: ${stem(clip)}`}
                onClick={() => void take(clip.id, null, true)}
              >
                Instead of {stemOf(day, here)}
              </Button>
            )}
          </li>
        ))}
      </ul>
      <div className="flex justify-end pt-3">
        <Button onClick={onClose}>Leave it</Button>
      </div>
    </Ask>
  );
}
