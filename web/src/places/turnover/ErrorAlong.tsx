import type { SourceReport } from '../../api/types';
import { correctedAlong, uncorrectedAlong, type Off } from '../../model/corrected';

type Props = { sources: SourceReport[]; length: number; frame: number };

const WIDTH = 420;
const HEIGHT = 56;

/** How far sound is off along a picture: dashed as it ran, drawn as it is corrected, with the band of half a frame. */
export function ErrorAlong({ sources, length, frame }: Props) {
  const before = sources.map(uncorrectedAlong);
  const after = sources.map(correctedAlong);
  const most = Math.max(frame, ...[...before, ...after].flat().map(({ late }) => 1.1 * Math.abs(late)));
  const x = (at: number) => (WIDTH * at) / Math.max(length, 1e-9);
  const y = (late: number) => HEIGHT / 2 - (late / most) * (HEIGHT / 2 - 2);
  const path = (points: Off[]) =>
    points.map(({ at, late }, i) => `${i ? 'L' : 'M'}${x(at).toFixed(1)} ${y(late).toFixed(1)}`).join('');
  const band = y(-frame / 2) - y(frame / 2);
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="h-14 w-full max-w-[420px]"
        preserveAspectRatio="none"
        role="img"
        aria-label="How far the sound is off along the picture, before and after correction"
      >
        <rect x={0} y={y(frame / 2)} width={WIDTH} height={band} className="fill-accent/10" />
        <path d={`M0 ${y(0)}H${WIDTH}`} className="stroke-line" />
        {before.map((points, i) => (
          <path key={i} d={path(points)} className="fill-none stroke-check" strokeDasharray="4 3" />
        ))}
        {after.map((points, i) => (
          <path key={i} d={path(points)} className="fill-none stroke-accent" strokeWidth={1.6} />
        ))}
      </svg>
      <figcaption className="text-[12px] text-soft">
        <span className="num">± {(most / frame).toFixed(1)} f</span> · dashed: as it ran · line: as written
      </figcaption>
    </figure>
  );
}
