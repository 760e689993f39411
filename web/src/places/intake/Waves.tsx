import { useEffect, useRef } from 'react';

/** One channel's waveform: the body its level, the fringe its peaks. */
export function Waves({ peaks, tall, label }: { peaks: number[]; tall: boolean; label: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const draw = () => {
      const scale = window.devicePixelRatio;
      const width = Math.max(1, Math.round(element.clientWidth * scale));
      const height = Math.max(1, Math.round(element.clientHeight * scale));
      element.width = width;
      element.height = height;
      const bins = peaks.length / 3;
      const full = 32767;
      const largest = peaks.reduce((top, value) => Math.max(top, Math.abs(value)), 1);
      const gain = tall ? full / Math.max(largest, full / 200) : 1;
      const middle = height / 2;
      const y = (value: number) => middle - Math.max(-1, Math.min(1, (value * gain) / full)) * middle;
      const ink = getComputedStyle(element).color;
      context.fillStyle = ink;
      for (let i = 0; i < bins; i++) {
        const [low, high, rms] = [peaks[3 * i] ?? 0, peaks[3 * i + 1] ?? 0, peaks[3 * i + 2] ?? 0];
        const x = (i * width) / bins;
        const step = Math.max(1, width / bins);
        context.globalAlpha = 0.38;
        context.fillRect(x, y(high), step, Math.max(1, y(low) - y(high)));
        context.globalAlpha = 1;
        context.fillRect(x, y(rms), step, Math.max(1, y(-rms) - y(rms)));
      }
    };
    draw();
    const observer = new ResizeObserver(draw);
    observer.observe(element);
    return () => observer.disconnect();
  }, [peaks, tall]);
  return <canvas ref={canvas} role="img" aria-label={label} className="h-full w-full" />;
}
