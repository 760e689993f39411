import type { Residual } from '../../api/types';
import { useDraw } from '../../draw/useDraw';

type Props = {
  residuals: Residual[];
  /** Length of the clip and of a frame, seconds. */
  duration: number;
  frame: number;
};

/** What is left along the clip after its rate was corrected, with the band of half a frame. */
export function Drift({ residuals, duration, frame }: Props) {
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
    <div className="h-[62px]">
      {residuals.length === 0 ? (
        <p className="text-soft">Nothing was measured along it: it does not lie by its sound.</p>
      ) : (
        <canvas
          ref={canvas}
          role="img"
          aria-label={`What is left along the clip: ${residuals.length} measurements`}
          className="h-full w-full"
        />
      )}
    </div>
  );
}
