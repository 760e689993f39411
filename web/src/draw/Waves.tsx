import { useDraw } from './useDraw';

const FULL = 32_767;

/** One channel's waveform: the body its level, the fringe its peaks. */
export function Waves({ peaks, tall, label }: { peaks: number[]; tall: boolean; label: string }) {
  const canvas = useDraw(
    ({ pen, width, height, ink }) => {
      const bins = peaks.length / 3;
      const largest = peaks.reduce((top, value) => Math.max(top, Math.abs(value)), 1);
      const gain = tall ? FULL / Math.max(largest, FULL / 200) : 1;
      const middle = height / 2;
      const y = (value: number) => middle - Math.max(-1, Math.min(1, (value * gain) / FULL)) * middle;
      const step = Math.max(1, width / bins);
      pen.fillStyle = ink;
      for (let i = 0; i < bins; i++) {
        const [low, high, rms] = [peaks[3 * i] ?? 0, peaks[3 * i + 1] ?? 0, peaks[3 * i + 2] ?? 0];
        const x = (i * width) / bins;
        pen.globalAlpha = 0.38;
        pen.fillRect(x, y(high), step, Math.max(1, y(low) - y(high)));
        pen.globalAlpha = 1;
        pen.fillRect(x, y(rms), step, Math.max(1, y(-rms) - y(rms)));
      }
    },
    [peaks, tall],
  );
  return <canvas ref={canvas} role="img" aria-label={label} className="h-full w-full" />;
}
