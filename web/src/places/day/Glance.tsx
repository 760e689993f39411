import type { Day } from '../../api/day';
import { stemOf } from '../../model/names';

type Props = { day: Day; onChoose: (clip: number) => void; onSeveral: (clips: readonly number[]) => void };

/** So many clips are named. */
const NAMED = 4;

/** The health of the whole day after a pass, in one glance: a line a question, what is not well with its clips. */
export function Glance({ day, onChoose, onSeveral }: Props) {
  if (day.review.length === 0) return null;
  return (
    <section aria-label="The day in one glance" className="pt-3">
      <h2 className="font-semibold">The day in one glance</h2>
      <ul>
        {day.review.map(({ question, well, text, clips }) => (
          <li
            key={question}
            className={`border-t border-line py-1.5 ${well ? 'text-soft' : 'border-l-2 border-l-check pl-2'}`}
          >
            {text}
            {clips.length > 0 && (
              <span className="flex flex-wrap gap-x-2 text-[12px]">
                {clips.slice(0, NAMED).map((clip) => (
                  <button key={clip} type="button" className="num underline" onClick={() => onChoose(clip)}>
                    {stemOf(day, clip)}
                  </button>
                ))}
                {clips.length > 1 && (
                  <button type="button" className="text-accent underline" onClick={() => onSeveral(clips)}>
                    choose all {clips.length}
                  </button>
                )}
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
