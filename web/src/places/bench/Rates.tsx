import { useMemo } from 'react';
import type { Day } from '../../api/day';
import type { ClipView } from '../../api/types';
import { useDraw } from '../../draw/useDraw';
import { signed } from '../../model/format';
import { meanRate, ratesOf } from '../../model/rates';

/** The least that the plot reaches to either side of the device's rate, ppm. */
const REACH = 2;

/** The rate of a clip's device over the day: one mark a clip with its uncertainty, this one's in full. */
export function Rates({ day, clip }: { day: Day; clip: ClipView }) {
  const rates = useMemo(() => ratesOf(day, clip.device), [day, clip.device]);
  const mean = meanRate(rates);
  const letter = day.devices.find(({ id }) => id === clip.device)?.letter ?? '';
  const canvas = useDraw(
    ({ pen, width, height, paint }) => {
      if (mean === null) return;
      const [from, to] = [rates[0]?.at ?? 0, rates.at(-1)?.at ?? 0];
      const reach = Math.max(
        REACH,
        ...rates.map(({ ppm, sigma }) => Math.abs(ppm - mean) + Math.min(sigma, REACH)),
      );
      const x = (at: number) => 5 + ((at - from) / Math.max(to - from, 1)) * (width - 10);
      const y = (ppm: number) => height / 2 - ((ppm - mean) / reach) * (height / 2 - 5);
      pen.fillStyle = paint('accent');
      pen.fillRect(0, y(mean), width, 1);
      for (const { clip: id, at, ppm, sigma } of rates) {
        const own = id === clip.id;
        pen.fillStyle = pen.strokeStyle = paint(own ? 'accent' : 'ink');
        pen.globalAlpha = own ? 1 : 0.45;
        pen.fillRect(x(at) - 0.5, y(ppm + sigma), 1, y(ppm - sigma) - y(ppm + sigma));
        pen.beginPath();
        pen.arc(x(at), y(ppm), own ? 4 : 2, 0, 2 * Math.PI);
        pen.fill();
      }
      pen.globalAlpha = 1;
    },
    [rates, mean, clip.id],
  );
  if (mean === null) return null;
  return (
    <section aria-label="Rate of the device" className="w-[190px] shrink-0">
      <h2 className="truncate font-semibold">
        {letter} over the day{' '}
        <span className="num pl-1 text-[12px] font-normal text-soft">{signed(mean, 1)} ppm</span>
      </h2>
      <div className="h-[62px]">
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Rates of ${rates.length} clips of ${letter}, ${signed(mean, 1)} ppm together`}
          className="h-full w-full"
        />
      </div>
    </section>
  );
}
