import { useEffect, useRef } from 'react';

type Props = { levels: number[]; colour: string; down?: boolean; className?: string };

/** A waveform: levels as bars about a middle line; `down` lets time run down. */
export function Strip({ levels, colour, down, className = '' }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const draw = () => {
      const scale = window.devicePixelRatio;
      element.width = Math.max(1, Math.round(element.clientWidth * scale));
      element.height = Math.max(1, Math.round(element.clientHeight * scale));
      context.fillStyle = getComputedStyle(element).color;
      const long = down ? element.height : element.width;
      const wide = down ? element.width : element.height;
      // Quiet sound is still to be seen: levels are drawn against the loudest, and bent upwards.
      const bend = (level: number) => level ** 0.65;
      const top = bend(Math.max(8, ...levels));
      const step = long / Math.max(levels.length, 1);
      levels.forEach((level, i) => {
        const size = Math.max(1, (bend(level) / top) * wide);
        const from = i * step;
        const bar = Math.max(1, step * 0.55);
        if (down) context.fillRect((wide - size) / 2, from, size, bar);
        else context.fillRect(from, (wide - size) / 2, bar, size);
      });
    };
    draw();
    const observer = new ResizeObserver(draw);
    observer.observe(element);
    return () => observer.disconnect();
  }, [levels, down, colour]);
  return <canvas ref={canvas} aria-hidden className={className} style={{ color: colour }} />;
}
