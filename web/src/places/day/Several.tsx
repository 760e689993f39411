import type { Day } from '../../api/day';
import type { ClipView, PassPlan, Verdict } from '../../api/types';
import { useCommands } from '../../api/commands';
import { length } from '../../model/format';
import { stem } from '../../model/names';
import { Button } from '../../parts/Button';
import { Stamp } from '../../parts/Stamp';
import { VerdictMark } from '../../parts/VerdictMark';

type Props = {
  day: Day;
  clips: ReadonlySet<number>;
  busy: boolean;
  onLook: (plan: Partial<PassPlan>) => void;
  onChoose: (clip: number) => void;
};

const ORDER: readonly Verdict[] = ['unplaced', 'check', 'by_hand', 'solid'];
/** So many are listed by name. */
const LISTED = 60;

/** What several chosen clips are together, and what can be done with them. */
export function Several({ day, clips: ids, busy, onLook, onChoose }: Props) {
  const { edit } = useCommands();
  const clips = day.clips.filter(({ id }) => ids.has(id));
  const verdicts = new Map(day.placements.map(({ clip, placement }) => [clip, placement.verdict]));
  const rank = (id: number) => ORDER.indexOf(verdicts.get(id) ?? 'solid');
  const seconds = clips.reduce((sum, { facts }) => sum + facts.duration_s, 0);
  const counts = ORDER.map(
    (verdict) => [verdict, clips.filter(({ id }) => verdicts.get(id) === verdict).length] as const,
  );
  const resting = clips.filter(({ part }) => part === 'no_sync');
  const idsOf = (some: ClipView[]) => some.map(({ id }) => id);
  const leaveOut = () =>
    void edit({ do: 'part', clips: idsOf(clips.filter((clip) => clip.part !== 'no_sync')), part: 'no_sync' });
  const takeBack = () => {
    // What has no sound takes part as a silent picture.
    for (const [part, some] of [
      ['sync', resting.filter(({ facts }) => facts.sound)],
      ['silent', resting.filter(({ facts }) => !facts.sound)],
    ] as const) {
      if (some.length > 0) void edit({ do: 'part', clips: idsOf(some), part });
    }
  };
  const listed = [...clips].sort((a, b) => rank(a.id) - rank(b.id)).slice(0, LISTED);
  return (
    <>
      <h2 className="text-[15px] font-semibold">{clips.length} clips chosen</h2>
      <p className="num pt-1 text-soft">{length(seconds)} in all</p>
      {day.pass && (
        <ul className="pt-2">
          {counts
            .filter(([, count]) => count > 0)
            .map(([verdict, count]) => (
              <li key={verdict} className="flex items-center gap-1.5">
                <span className="num w-8 text-right">{count}</span> <VerdictMark verdict={verdict} word />
              </li>
            ))}
        </ul>
      )}
      <section aria-label="For all of them" className="flex flex-col items-start gap-1.5 py-3">
        {day.pass && (
          <>
            <Button small disabled={busy} onClick={() => onLook({ clips: [...ids] })}>
              Place them anew
            </Button>
            <Button small disabled={busy} onClick={() => onLook({ clips: [...ids], effort: 'deep' })}>
              Place them anew, with deep effort
            </Button>
            <p className="text-soft">
              All others stay where they are; those laid by hand among these are let go.
            </p>
          </>
        )}
        {resting.length < clips.length && (
          <Button small onClick={leaveOut}>
            Leave them out of the sync
          </Button>
        )}
        {resting.length > 0 && (
          <Button small onClick={takeBack}>
            Let {resting.length === clips.length ? 'them' : `${resting.length} of them`} take part again
          </Button>
        )}
      </section>
      <ul className="border-t border-line">
        {listed.map((clip) => (
          <li key={clip.id}>
            <button
              type="button"
              onClick={() => onChoose(clip.id)}
              className="flex w-full items-center gap-1.5 border-b border-line py-0.5 text-left"
            >
              <Stamp devices={day.devices} id={clip.device} />
              <span className="num min-w-0 flex-1 truncate">{stem(clip)}</span>
              {verdicts.get(clip.id) && <VerdictMark verdict={verdicts.get(clip.id) ?? 'solid'} />}
            </button>
          </li>
        ))}
      </ul>
      {clips.length > LISTED && <p className="pt-1 text-soft">and {clips.length - LISTED} more</p>}
    </>
  );
}
