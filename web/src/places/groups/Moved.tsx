import { useQuery } from '@tanstack/react-query';
import type { Day } from '../../api/day';
import { movedQuery } from '../../api/queries';
import type { GroupSummary } from '../../api/types';
import { stemOf } from '../../model/names';
import { Button } from '../../parts/Button';

type Props = { day: Day; summary: GroupSummary; onRelay: (clips: number[]) => void };

/** So many are named. */
const NAMED = 6;

const by = (frames: number) =>
  `${frames > 0 ? '+' : '−'}${Math.abs(frames).toLocaleString('en', { maximumFractionDigits: 1 })} f`;

/** Which clips of a group that a person put together lie elsewhere than the day has them now: nothing follows by itself. */
export function Moved({ day, summary, onRelay }: Props) {
  const { version } = day.groups_turns;
  const moved = useQuery({
    ...movedQuery(summary.id, version, day.pass?.id ?? 0),
    enabled: summary.cast,
  }).data;
  if (!summary.cast || !moved || moved.length === 0) return null;
  const named = moved.slice(0, NAMED).map(({ clip, frames }) => `${stemOf(day, clip)} ${by(frames)}`);
  const rest = moved.length - named.length;
  return (
    <div
      role="status"
      className="mt-3 flex items-center gap-3 border-l-[3px] border-check bg-band px-3 py-1.5"
    >
      <span className="min-w-0 flex-1">
        You put this group together. Off from where the day has them:{' '}
        <span className="num">{named.join(', ')}</span>
        {rest > 0 && ` and ${rest} more`}
      </span>
      <Button small onClick={() => onRelay(moved.map(({ clip }) => clip))}>
        Lay as the day has them
      </Button>
    </div>
  );
}
