import { useMemo, useState } from 'react';
import type { Day } from '../../api/day';
import type { PassPlan, PlacementView } from '../../api/types';
import { zeroOf } from '../../model/axis';
import { clock } from '../../model/format';
import { stemOf } from '../../model/names';
import { against, near, reachAt } from '../../model/near';
import { Button } from '../../parts/Button';
import type { Rough } from './useRough';

type Props = {
  day: Day;
  placed: PlacementView;
  busy: boolean;
  /** Where it was dragged to. */
  rough: Rough | null;
  onLook: (plan: Partial<PassPlan>) => void;
};

const FIELD = 'num rounded-[3px] border border-line bg-sheet px-1.5 py-0.5';

/** Places one clip anew: with more effort, or near a place that a person knows. All others stay. */
export function LookAgain({ day, placed, busy, rough, onLook }: Props) {
  const zero = zeroOf(day.pass);
  const [at, setAt] = useState(clock(rough?.at ?? zero + (placed.placement.stretches[0]?.start_s ?? 0), 2));
  const [within, setWithin] = useState(String(rough ? reachAt(rough.scale) : 5));
  const { then, others } = useMemo(
    () => against(day, placed.clip, rough?.at ?? zero + (placed.placement.stretches[0]?.start_s ?? 0)),
    [day, placed, rough, zero],
  );
  const [other, setOther] = useState((then[0] ?? others[0])?.clip ?? 0);
  const start = seconds(at, zero);
  const reach = Number(within.replace(',', '.'));
  const valid = start !== null && reach > 0 && reach <= 600 && other > 0;
  const look = () => {
    if (start !== null) onLook({ near: near(day, placed.clip, other, start, reach) });
  };
  return (
    <section aria-label="Look again" className="border-t border-line py-2">
      <h3 className="font-semibold">Look again</h3>
      <div className="pt-1">
        <Button small disabled={busy} onClick={() => onLook({ clips: [placed.clip], effort: 'deep' })}>
          With deep effort
        </Button>
      </div>
      <form
        className="grid grid-cols-[auto_1fr] items-center gap-x-2 gap-y-1 pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (valid && !busy) look();
        }}
      >
        <label htmlFor="near-at" className="text-soft">
          Near
        </label>
        <input id="near-at" value={at} onChange={(e) => setAt(e.target.value)} className={FIELD} />
        <label htmlFor="near-within" className="text-soft">
          within
        </label>
        <span>
          <input
            id="near-within"
            value={within}
            onChange={(e) => setWithin(e.target.value)}
            className={`${FIELD} w-16`}
          />{' '}
          s
        </span>
        <label htmlFor="near-against" className="text-soft">
          against
        </label>
        <select
          id="near-against"
          value={other}
          onChange={(e) => setOther(Number(e.target.value))}
          className={`${FIELD} min-w-0`}
        >
          {[['Ran then', then] as const, ['Ran at another time', others] as const].map(
            ([when, some]) =>
              some.length > 0 && (
                <optgroup key={when} label={when}>
                  {some.map(({ clip }) => (
                    <option key={clip} value={clip}>
                      {stemOf(day, clip)}
                    </option>
                  ))}
                </optgroup>
              ),
          )}
        </select>
        <span />
        <span>
          <button
            type="submit"
            disabled={busy || !valid}
            className="rounded-[3px] border border-ink/70 px-2 py-0.5 hover:border-ink disabled:border-line disabled:text-soft"
          >
            Look near
          </button>
        </span>
      </form>
      {start === null && <p className="pt-1 text-soft">Write the time of day as 09:14:30 or 09:14:30.25.</p>}
    </section>
  );
}

/** A time of the day as it is written, in seconds; the nearer to the axis's zero of two days; `null` where it is none. */
function seconds(text: string, zero: number): number | null {
  const parts = /^(\d{1,2}):(\d{2}):(\d{2}(?:[.,]\d+)?)$/.exec(text.trim());
  if (!parts) return null;
  const day = Number(parts[1]) * 3600 + Number(parts[2]) * 60 + Number(parts[3]?.replace(',', '.'));
  return day - zero > 43_200 ? day - 86_400 : day - zero < -43_200 ? day + 86_400 : day;
}
