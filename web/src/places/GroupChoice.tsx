import { useLocation } from 'wouter';
import type { DayView } from '../api/types';

type Props = { day: DayView; id: number; place: 'switch' | 'turnover' };

/** Chooses another group for a place that shows one. */
export function GroupChoice({ day, id, place }: Props) {
  const [, go] = useLocation();
  return (
    <label className="flex items-center gap-2">
      <span className="text-soft">Group</span>
      <select
        value={id}
        onChange={(event) => {
          go(`/${place}/${event.target.value}`);
          // The keys of the place go to the place, not to the list.
          event.target.blur();
        }}
        className="rounded-[3px] border border-line bg-sheet px-2 py-1"
      >
        {day.groups.map((one) => (
          <option key={one.id} value={one.id}>
            {one.group.name}
          </option>
        ))}
      </select>
    </label>
  );
}
