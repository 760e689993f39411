import { memo } from 'react';

type Props = { levels: readonly number[]; colour: string; down?: boolean; className?: string };

/** Quiet sound is still to be seen: levels are drawn against the loudest, and bent upwards. */
export const bend = (level: number) => level ** 0.65;

/** Units across; a level is one along. The box it is in stretches both. */
const ACROSS = 40;

/** The outline of a waveform about a middle line, there on one side and back on the other. */
export function outline(levels: readonly number[], down: boolean): string {
  const top = bend(Math.max(8, ...levels));
  const middle = ACROSS / 2;
  const half = levels.map((level) => Math.max(1, (bend(level) / top) * middle));
  const point = (i: number, side: number) => {
    const across = (middle + side * (half[i] ?? 1)).toFixed(1);
    return down ? `${across} ${i + 0.5}` : `${i + 0.5} ${across}`;
  };
  const there = half.map((_, i) => point(i, 1));
  const back = half.map((_, i) => point(i, -1)).reverse();
  return levels.length > 0 ? `M${[...there, ...back].join('L')}Z` : '';
}

/** Outlines of levels that were drawn before: slips come and go while a sheet is zoomed. */
const drawn = {
  down: new WeakMap<readonly number[], string>(),
  along: new WeakMap<readonly number[], string>(),
};

function outlineOf(levels: readonly number[], down: boolean): string {
  const known = down ? drawn.down : drawn.along;
  const path = known.get(levels) ?? outline(levels, down);
  known.set(levels, path);
  return path;
}

/**
 * A waveform; `down` lets time run down. An outline and no canvas: a sheet has hundreds of them, and each canvas would be a
 * layer of its own to be put together sixty times a second.
 */
export const Strip = memo(function Strip({ levels, colour, down = false, className = '' }: Props) {
  const long = Math.max(1, levels.length);
  const [width, height] = down ? [ACROSS, long] : [long, ACROSS];
  return (
    <svg
      aria-hidden
      data-strip
      viewBox={`0 0 ${width} ${height}`}
      preserveAspectRatio="none"
      className={className}
    >
      <path d={outlineOf(levels, down)} fill={colour} />
    </svg>
  );
});
