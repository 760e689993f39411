import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { useCommands } from '../../api/commands';
import { soundQuery } from '../../api/queries';
import type { ClipView, FrameRate, Placement, Proposal, Residual } from '../../api/types';
import { useDraw } from '../../draw/useDraw';
import { uncorrected, type Break } from '../../model/breaks';
import { offset, signed } from '../../model/format';
import { frameOf } from '../../model/pair';
import { Correct } from '../../parts/Correct';

type Props = {
  clip: ClipView;
  /** Where it lies; null where the pass has no place for it. */
  placed: Placement | null;
  residuals: Residual[];
  breaks: Break[];
  /** What is best done about its clock; null where nothing is known. */
  proposal: Proposal | null;
  rate: FrameRate;
  /** The playhead in the clip's own time. */
  at: number;
  does: { move: (number: number) => void; remove: (number: number) => void };
};

/** How fast the clip's clock runs, what is left along it with the band of half a frame, before and after correction, and its breaks. */
export function Drift({ clip, placed, residuals, breaks, proposal, rate, at, does }: Props) {
  const [before, setBefore] = useState(false);
  const own = placed?.stretches[0];
  return (
    <section aria-label="Drift" className="min-w-0 flex-1">
      <h2 className="flex items-baseline gap-2 font-semibold">
        Drift
        {own && (
          <span className="num flex-1 text-[12px] font-normal text-soft">
            {signed(own.rate_ppm, 1)} ppm ± {own.rate_sigma_ppm.toFixed(2)}
          </span>
        )}
        {placed && residuals.length > 0 && (
          <button
            type="button"
            aria-pressed={before}
            onClick={() => setBefore(!before)}
            className="text-[12px] font-normal whitespace-nowrap underline"
          >
            {before ? 'before correction' : 'after correction'}
          </button>
        )}
      </h2>
      {placed && proposal && (
        <div className="flex items-center gap-2 text-[12px]">
          <p className="num min-w-0 flex-1 text-soft" data-testid="proposal">
            {proposal.why}
          </p>
          {!clip.facts.picture && <OwnClock clip={clip} />}
        </div>
      )}
      <div className="h-[62px]">
        {!placed || residuals.length === 0 ? (
          <p className="text-soft">Nothing was measured along it: it does not lie by its sound.</p>
        ) : (
          <Plot
            placed={placed}
            residuals={residuals}
            breaks={breaks}
            before={before}
            duration={clip.facts.duration_s}
            frame={frameOf(rate)}
            at={at}
          />
        )}
      </div>
      {breaks.slice(0, 3).map(({ clip_s, step_s }, i) => (
        <p key={clip_s} className="num flex h-[22px] items-center gap-3 text-[12px] whitespace-nowrap">
          <span className="flex-1">
            break at {clip_s.toFixed(2)} s, {offset(step_s, rate)}
          </span>
          <button type="button" className="underline" onClick={() => does.move(i)}>
            move here
          </button>
          <button type="button" className="underline" onClick={() => does.remove(i)}>
            take out
          </button>
        </p>
      ))}
      {breaks.length > 3 && <p className="text-[12px] text-soft">and {breaks.length - 3} more breaks</p>}
    </section>
  );
}

/** What is done about one sound's clock where it goes out. */
function OwnClock({ clip }: { clip: ClipView }) {
  const sound = useQuery(soundQuery).data;
  const { editSound } = useCommands();
  if (!sound) return null;
  const { turns, habit } = sound;
  const own = habit.clips.find(([id]) => id === clip.id)?.[1];
  const its = habit.devices.find(([id]) => id === clip.device)?.[1];
  return (
    <Correct
      label="as sound"
      value={own ?? its}
      onChange={(handling) =>
        void editSound({
          version: turns.version,
          change: { do: 'correct', devices: [], clips: [clip.id], handling },
        })
      }
    />
  );
}

type PlotProps = {
  placed: Placement;
  residuals: Residual[];
  breaks: Break[];
  before: boolean;
  duration: number;
  frame: number;
  at: number;
};

function Plot({ placed, residuals, breaks, before, duration, frame, at }: PlotProps) {
  const canvas = useDraw(
    ({ pen, width, height, paint }) => {
      const { stretches } = placed;
      const was = (clip: number) => (before ? uncorrected(stretches, clip) : 0);
      const points = residuals.map(({ clip_s, error_ms }) => ({
        clip_s,
        left: was(clip_s) + error_ms / 1000,
      }));
      const ends = stretches.flatMap((own) => [own.clip_start_s, own.clip_end_s - 1e-6]);
      const all = [...points.map(({ left }) => left), ...ends.map(was)];
      const most = Math.max(frame, ...all.map((left) => 1.1 * Math.abs(left)));
      const right = width - 44;
      const x = (clip: number) => (clip / duration) * (right - 6) + 3;
      const y = (seconds: number) => height / 2 - (seconds / most) * (height / 2 - 3);
      pen.fillStyle = paint('accent');
      pen.globalAlpha = 0.1;
      pen.fillRect(0, y(frame / 2), right, y(-frame / 2) - y(frame / 2));
      pen.globalAlpha = 1;
      pen.fillRect(0, y(0), right, 1);
      pen.strokeStyle = paint('check');
      pen.beginPath();
      // The clock that is corrected, and its steps; after correction only where the steps are.
      if (before)
        ends.forEach((clip, i) =>
          i ? pen.lineTo(x(clip), y(was(clip))) : pen.moveTo(x(clip), y(was(clip))),
        );
      for (const { clip_s } of before ? [] : breaks) {
        pen.moveTo(x(clip_s), 0);
        pen.lineTo(x(clip_s), height);
      }
      pen.stroke();
      pen.fillStyle = paint('ink');
      for (const { clip_s, left } of points) {
        pen.beginPath();
        pen.arc(x(clip_s), y(left), 2, 0, 2 * Math.PI);
        pen.fill();
      }
      if (at >= 0 && at <= duration) {
        pen.fillStyle = paint('accent');
        pen.fillRect(Math.round(x(at)), 0, 1, height);
      }
      pen.fillStyle = paint('soft');
      pen.font = '11px "Atkinson Hyperlegible Mono", monospace';
      if (most < 4 * frame) {
        pen.fillText('+½ f', right + 6, y(frame / 2) + 4);
        pen.fillText('−½ f', right + 6, y(-frame / 2) + 4);
      } else {
        pen.fillText(`+${Math.round(most / frame)} f`, right + 6, 10);
        pen.fillText(`−${Math.round(most / frame)} f`, right + 6, height - 3);
      }
    },
    [placed, residuals, breaks, before, duration, frame, at],
  );
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={`What is left along the clip ${before ? 'before' : 'after'} correction: ${residuals.length} measurements, ${breaks.length} breaks`}
      className="h-full w-full"
    />
  );
}
