import type { Day } from '../../api/day';
import type { ProposedGroup } from '../../api/types';
import { hue } from '../../parts/Stamp';

const WIDTH = 150;
const HEIGHT = 18;

/** Who runs when in a group that is proposed: a line an angle, in the colours of the devices. */
export function ProposedStrip({ day, group: { strip, frames } }: { day: Day; group: ProposedGroup }) {
  const row = HEIGHT / Math.max(1, strip.length);
  const at = (frame: number) => (WIDTH * frame) / Math.max(1, frames);
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden className="shrink-0 bg-band">
      {strip.map(({ device, parts }, i) =>
        parts.map(([from, to]) => (
          <rect
            key={`${i} ${from}`}
            x={at(from)}
            y={i * row}
            width={Math.max(0.75, at(to) - at(from))}
            height={Math.max(0.75, row - (row > 3 ? 1 : 0))}
            fill={hue(day.devices, device)}
          />
        )),
      )}
    </svg>
  );
}
