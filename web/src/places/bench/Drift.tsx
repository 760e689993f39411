import type { ClipView, FrameRate, Placement, Residual } from '../../api/types';
import { useDraw } from '../../draw/useDraw';
import { late } from '../../model/axis';
import { offset, signed } from '../../model/format';
import { frameOf } from '../../model/pair';

type Props = {
  clip: ClipView;
  /** Where it lies; null where the pass has no place for it. */
  placed: Placement | null;
  residuals: Residual[];
  rate: FrameRate;
};

/** How fast the clip's clock runs, and what is left along it after that was corrected, with the band of half a frame. */
export function Drift({ clip, placed, residuals, rate }: Props) {
  const own = placed?.stretches[0];
  return (
    <section aria-label="Drift" className="min-w-0 flex-1">
      <h2 className="font-semibold">
        Drift{' '}
        {placed && own && (
          <span className="num pl-2 text-[12px] font-normal text-soft">
            {signed(own.rate_ppm, 1)} ppm ± {own.rate_sigma_ppm.toFixed(2)}, uncorrected the end would be{' '}
            {offset(-late(placed.stretches), rate)} out
          </span>
        )}
      </h2>
      <div className="h-[62px]">
        {residuals.length === 0 ? (
          <p className="text-soft">Nothing was measured along it: it does not lie by its sound.</p>
        ) : (
          <Plot residuals={residuals} duration={clip.facts.duration_s} frame={frameOf(rate)} />
        )}
      </div>
    </section>
  );
}

function Plot({ residuals, duration, frame }: { residuals: Residual[]; duration: number; frame: number }) {
  const canvas = useDraw(
    ({ pen, width, height, paint }) => {
      const most = Math.max(frame, ...residuals.map(({ error_ms }) => 0.0011 * Math.abs(error_ms)));
      const right = width - 44;
      const y = (seconds: number) => height / 2 - (seconds / most) * (height / 2 - 3);
      pen.fillStyle = paint('accent');
      pen.globalAlpha = 0.1;
      pen.fillRect(0, y(frame / 2), right, y(-frame / 2) - y(frame / 2));
      pen.globalAlpha = 1;
      pen.fillRect(0, y(0), right, 1);
      pen.fillStyle = paint('ink');
      for (const { clip_s, error_ms } of residuals) {
        pen.beginPath();
        pen.arc((clip_s / duration) * (right - 6) + 3, y(error_ms / 1000), 2, 0, 2 * Math.PI);
        pen.fill();
      }
      pen.fillStyle = paint('soft');
      pen.font = '11px "Atkinson Hyperlegible Mono", monospace';
      pen.fillText('+½ f', right + 6, y(frame / 2) + 4);
      pen.fillText('−½ f', right + 6, y(-frame / 2) + 4);
    },
    [residuals, duration, frame],
  );
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={`What is left along the clip: ${residuals.length} measurements`}
      className="h-full w-full"
    />
  );
}
