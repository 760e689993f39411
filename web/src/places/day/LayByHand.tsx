import { useState } from 'react';
import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import type { ClipView } from '../../api/types';
import { zeroOf } from '../../model/axis';
import { clock, frameSeconds } from '../../model/format';
import { Button } from '../../parts/Button';

type Props = {
  day: Day;
  clip: ClipView;
  /** Where it was dragged to, seconds of the day. */
  rough: number | null;
  /** It was laid there. */
  onLaid: () => void;
};

/** Nudges a clip by hand: each makes a pass of its own, so that the one before is the way back. */
export function LayByHand({ day, clip, rough, onLaid }: Props) {
  const { layByHand } = useCommands();
  const [by, setBy] = useState('');
  const start = day.placements.find((one) => one.clip === clip.id)?.placement.stretches[0]?.start_s;
  const frame = clip.facts.picture ? frameSeconds(clip.facts.picture.rate) : 0.04;
  const lay = (seconds: number) => void layByHand({ clip: clip.id, start_us: Math.round(seconds * 1e6) });
  const typed = Number(by.replace(',', '.'));
  if (start === undefined && rough === null) return null;
  const layThere = async (at: number) => {
    if (
      (await layByHand({ clip: clip.id, start_us: Math.round((at - zeroOf(day.pass)) * 1e6) })) !== undefined
    )
      onLaid();
  };
  return (
    <section aria-label="By hand" className="border-t border-line py-2">
      <h3 className="font-semibold">By hand</h3>
      {rough !== null && (
        <div className="pt-1">
          <Button small onClick={() => void layThere(rough)}>
            Lay it at {clock(rough, 2)}
          </Button>
        </div>
      )}
      {start !== undefined && (
        <div className="flex flex-wrap items-center gap-1.5 pt-1">
          <Button small onClick={() => lay(start - frame)}>
            1 f earlier
          </Button>
          <Button small onClick={() => lay(start + frame)}>
            1 f later
          </Button>
          <form
            className="flex items-center gap-1.5"
            onSubmit={(event) => {
              event.preventDefault();
              if (by.trim() !== '' && Number.isFinite(typed)) lay(start + typed / 1000);
            }}
          >
            <input
              aria-label="Milliseconds later"
              value={by}
              onChange={(event) => setBy(event.target.value)}
              placeholder="+12.5"
              className="num w-16 rounded-[3px] border border-line bg-sheet px-1.5 py-0.5"
            />
            ms
            <button
              type="submit"
              disabled={by.trim() === '' || !Number.isFinite(typed)}
              className="rounded-[3px] border border-ink/70 px-2 py-0.5 disabled:border-line disabled:text-soft"
            >
              Move
            </button>
          </form>
        </div>
      )}
    </section>
  );
}
