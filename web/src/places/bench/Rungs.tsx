import type { FrameRate, Needle, Placement } from '../../api/types';
import { offset } from '../../model/format';

/** A place that would fit: how far from where the clip was placed, and how well. */
export type Rung = { shift: number; score: number };

/** Where it was placed, then what else would fit. */
export function rungsOf({ stretches, alternatives }: Placement): Rung[] {
  const start = stretches[0]?.start_s ?? 0;
  return [
    { shift: 0, score: 1 },
    ...alternatives.slice(0, 9).map((other) => ({ shift: other.start_s - start, score: other.score })),
  ];
}

type Props = {
  rungs: Rung[];
  shift: number;
  /** What the first rung is. */
  placed: string;
  rate: FrameRate;
  needle: Needle | null;
  needleError: string | null;
  /** How far the needle looks, seconds. */
  reach: number;
  onRung: (shift: number) => void;
  onTake: () => void;
  onReach: () => void;
};

/** The places that would fit, as rungs, and what is left at the playhead, as a needle. */
export function Rungs({
  rungs,
  shift,
  placed,
  rate,
  needle,
  needleError,
  reach,
  onRung,
  onTake,
  onReach,
}: Props) {
  return (
    <div className="flex w-[270px] shrink-0 flex-col gap-3 overflow-y-auto text-[12px]">
      <section aria-label="Places that would fit">
        <h2 className="pb-1 font-semibold">Where it could lie</h2>
        {rungs.slice(0, 5).map((rung, i) => {
          const here = Math.abs(rung.shift - shift) < 4e-6;
          return (
            <button
              key={rung.shift}
              type="button"
              aria-pressed={here}
              onClick={() => onRung(rung.shift)}
              className={`flex h-[19px] w-full items-center gap-2 text-left ${here ? 'font-semibold' : ''}`}
            >
              <b className="num w-3">{i}</b>
              <span className="num w-[150px]">{i === 0 ? placed : offset(rung.shift, rate)}</span>
              <span className="h-2 flex-1 bg-[#dce7e2]/10">
                <span
                  className={`block h-full ${here ? 'bg-[#4db3ac]' : 'bg-[#dce7e2]/45'}`}
                  style={{ width: `${Math.round(Math.min(1, rung.score) * 100)}%` }}
                />
              </span>
            </button>
          );
        })}
        {rungs.length === 1 && <p className="text-[#dce7e2]/75">Nothing else fits nearly as well.</p>}
      </section>
      <section aria-label="What is left here">
        <h2 className="font-semibold">What is left here</h2>
        <Scale needle={needle} reach={reach} />
        <p className="num" data-testid="needle">
          {needleError ?? said(needle, rate, reach)}
        </p>
        <p className="flex gap-4 pt-0.5">
          <button
            type="button"
            disabled={!needle?.clear}
            onClick={onTake}
            className="underline disabled:opacity-60"
          >
            take it
          </button>
          <button type="button" onClick={onReach} className="underline">
            {reach > 1 ? 'look nearer' : 'look farther'}
          </button>
        </p>
      </section>
    </div>
  );
}

function said(needle: Needle | null, rate: FrameRate, reach: number): string {
  if (!needle) return 'One of the two is silent here.';
  if (!needle.clear) return `Nothing stands clear within ${reach} s.`;
  return `${offset(needle.later_s, rate)}${needle.inverted ? ' · turned round' : ''}`;
}

/** A ruler of what is in reach, bent so that single frames are seen, and the needle on it. */
function Scale({ needle, reach }: { needle: Needle | null; reach: number }) {
  const bend = (seconds: number) => Math.sign(seconds) * Math.sqrt(Math.min(1, Math.abs(seconds) / reach));
  const x = (seconds: number) => `${50 + 48 * bend(seconds)}%`;
  return (
    <div aria-hidden className="relative my-1 h-5">
      <span className="absolute top-1/2 right-0 left-0 h-px bg-[#dce7e2]/45" />
      {[-0.04, 0, 0.04].map((at) => (
        <span
          key={at}
          className={`absolute w-px bg-[#dce7e2]/70 ${at === 0 ? 'top-0 h-5' : 'top-1.5 h-2'}`}
          style={{ left: x(at) }}
        />
      ))}
      {needle?.clear && (
        <span className="absolute top-0 h-5 w-[3px] bg-[#e0a341]" style={{ left: x(needle.later_s) }} />
      )}
    </div>
  );
}
