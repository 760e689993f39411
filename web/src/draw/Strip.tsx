import { useDraw } from './useDraw';

type Props = { levels: number[]; colour: string; down?: boolean; className?: string };

/** Quiet sound is still to be seen: levels are drawn against the loudest, and bent upwards. */
const bend = (level: number) => level ** 0.65;

/** A waveform: levels as bars about a middle line; `down` lets time run down. */
export function Strip({ levels, colour, down, className = '' }: Props) {
  const canvas = useDraw(
    ({ pen, width, height, ink }) => {
      pen.fillStyle = ink;
      const [long, wide] = down ? [height, width] : [width, height];
      const top = bend(Math.max(8, ...levels));
      const step = long / Math.max(levels.length, 1);
      const bar = Math.max(1, step * 0.55);
      levels.forEach((level, i) => {
        const size = Math.max(1, (bend(level) / top) * wide);
        if (down) pen.fillRect((wide - size) / 2, i * step, size, bar);
        else pen.fillRect(i * step, (wide - size) / 2, bar, size);
      });
    },
    [levels, down, colour],
  );
  return <canvas ref={canvas} aria-hidden className={className} style={{ color: colour }} />;
}
