import type { Day } from '../../api/day';
import type { ArrivingClip } from '../../api/types';
import { signed } from '../../model/format';
import { stemOf } from '../../model/names';

/** First places a running pass found, newest first: they may move yet. */
export function Arriving({ day, arriving }: { day: Day; arriving: ArrivingClip[] }) {
  const sure = arriving.filter((clip) => clip.sure).length;
  return (
    <p className="num border-b border-line px-4 py-2 text-[12px]" data-testid="arriving" aria-live="polite">
      <b className="font-semibold">{arriving.length} found so far</b>
      <span className="text-soft">
        , {sure} beyond doubt:{' '}
        {arriving
          .slice(-6)
          .reverse()
          .map((clip) => `${stemOf(day, clip.clip)} at ${signed(clip.start_s, 1)} s`)
          .join(', ')}
      </span>
    </p>
  );
}
