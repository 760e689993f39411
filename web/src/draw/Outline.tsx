import { useEffect, useRef, useSyncExternalStore } from 'react';
import { colours } from './colours';
import { bend } from './Strip';
import { theme } from './theme';

const HEIGHT = 48;

/**
 * A waveform along, drawn once on a canvas of a pixel a level that the page then stretches: where it is zoomed all the time,
 * an outline would be filled anew for every picture of the screen.
 */
export function Outline({ levels, className = '' }: { levels: readonly number[]; className?: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useSyncExternalStore(theme.subscribe, theme.shown);
  useEffect(() => {
    const element = canvas.current;
    const pen = element?.getContext('2d');
    if (!element || !pen) return;
    element.width = Math.max(1, levels.length);
    element.height = HEIGHT;
    pen.fillStyle = colours(element)('soft');
    const top = bend(Math.max(8, ...levels));
    levels.forEach((level, i) => {
      const half = Math.max(1, (bend(level) / top) * (HEIGHT / 2));
      pen.fillRect(i, HEIGHT / 2 - half, 1, 2 * half);
    });
  }, [levels, shown]);
  return <canvas ref={canvas} aria-hidden data-strip className={className} />;
}
