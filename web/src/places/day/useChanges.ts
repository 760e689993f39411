import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { changesQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import type { Changed, PassView } from '../../api/types';

export type Changes = {
  /** The passes the shown one can be compared with. */
  others: PassView[];
  /** The one it is compared with; 0 where there is none. */
  from: number;
  setFrom: (pass: number) => void;
  /** What moved or changed its verdict since, the farthest first. */
  changes: Changed[] | undefined;
};

/** What the shown pass changed since another one: the one before it, until a person chooses. */
export function useChanges(day: Day): Changes {
  const [chosen, setFrom] = useState(0);
  const others = useMemo(() => day.passes.filter((pass) => pass.id !== day.pass?.id), [day]);
  const before = others.filter((pass) => pass.number < (day.pass?.number ?? 0)).at(-1) ?? others.at(-1);
  const from = others.some((pass) => pass.id === chosen) ? chosen : (before?.id ?? 0);
  const { data } = useQuery(changesQuery(from, day.pass?.id));
  const changes = from ? data : undefined;
  return useMemo(() => ({ others, from, setFrom, changes }), [others, from, changes]);
}
