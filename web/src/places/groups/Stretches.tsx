import { frameSeconds, length, timecode } from '../../model/format';
import type { GroupSummary } from '../../api/types';
import type { Run, Wanted } from '../../model/coverage';
import { seenOf } from '../../model/angles';
import { Choice } from '../../parts/Choice';

type Props = {
  summary: GroupSummary;
  wanted: Wanted;
  runs: Run[];
  at: number;
  onWant: (wanted: Wanted) => void;
  onSeek: (frame: number) => void;
};

/** Every stretch in which so many angles run, or none: one after the other, each a way there. */
export function Stretches({ summary: { group }, wanted, runs, at, onWant, onSeek }: Props) {
  const all = seenOf(group).length;
  const seconds = ({ from, to }: Run) => length((to - from) * frameSeconds(group.start.rate));
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const counts = Array.from({ length: all }, (_, i) => all - i);
  return (
    <div className="flex items-start gap-3 pt-2.5">
      <Choice
        label="Stretches that"
        value={wanted}
        onChange={(value) => onWant(value === 'nobody' ? 'nobody' : Number(value))}
      >
        {counts.map((many) => (
          <option key={many} value={many}>
            {many === all ? 'all cover' : `${many} or more`}
          </option>
        ))}
        <option value="nobody">nobody covers</option>
      </Choice>
      <ul
        aria-label="Stretches"
        className="flex max-h-[88px] min-w-0 flex-1 flex-wrap gap-1.5 overflow-y-auto"
      >
        {runs.length === 0 && <li className="py-0.5 text-soft">none</li>}
        {runs.map((run) => (
          <li key={run.from}>
            <button
              type="button"
              aria-current={at >= run.from && at < run.to}
              onClick={() => onSeek(run.from)}
              className="num rounded-[3px] border border-line px-2 py-0.5 hover:border-ink aria-[current=true]:border-ink"
            >
              {label(run.from)} <span className="text-soft">{seconds(run)}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
