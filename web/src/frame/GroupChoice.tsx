import { useLocation } from 'wouter';
import type { Day } from '../api/day';
import { Choice } from '../parts/Choice';

type Props = { day: Day; id: number; place: 'switch' | 'turnover' };

/** Chooses another group for a place that shows one. */
export function GroupChoice({ day, id, place }: Props) {
  const [, go] = useLocation();
  return (
    <Choice label="Group" value={id} onChange={(group) => go(`/${place}/${group}`)}>
      {day.groups.map((one) => (
        <option key={one.id} value={one.id}>
          {one.group.name}
        </option>
      ))}
    </Choice>
  );
}
