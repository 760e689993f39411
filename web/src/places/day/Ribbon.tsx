import { useEffect, useMemo, useState, type PointerEvent } from 'react';
import type { Day } from '../../api/day';
import type { DeviceView } from '../../api/types';
import { useDraw } from '../../draw/useDraw';
import { anchorAt } from '../../model/elastic';
import { clock } from '../../model/format';
import type { Band } from '../../model/sheet';
import { hue } from '../../parts/Stamp';
import type { SheetView } from './useSheet';

type Props = { day: Day; bands: Band[]; devices: DeviceView[]; view: SheetView };

/** Space above and below. */
const EDGE = 6;

/** The whole day, true to time: who ran when, what needs eyes, and what of it the window shows. It can be dragged. */
export function Ribbon({ day, bands, devices, view }: Props) {
  const [window, setWindow] = useState<[number, number] | null>(null);
  const { box, laid, show } = view;
  const [from, to] = useMemo(
    () => [
      bands.reduce((least, band) => Math.min(least, band.from), Infinity),
      bands.reduce((most, band) => Math.max(most, band.to), -Infinity),
    ],
    [bands],
  );
  useEffect(() => {
    if (!box) return;
    let asked = 0;
    const look = () => {
      cancelAnimationFrame(asked);
      asked = requestAnimationFrame(() => {
        const at = (y: number) => {
          const anchor = anchorAt(laid, y);
          return anchor && anchor.band.from + anchor.share * (anchor.band.to - anchor.band.from);
        };
        const [top, bottom] = [at(box.scrollTop), at(box.scrollTop + box.clientHeight)];
        if (top !== null && bottom !== null) setWindow([top, bottom]);
      });
    };
    look();
    box.addEventListener('scroll', look, { passive: true });
    return () => {
      cancelAnimationFrame(asked);
      box.removeEventListener('scroll', look);
    };
  }, [box, laid]);
  const span = Math.max(to - from, 1);
  const colours = useMemo(
    () => devices.map(({ id }) => [id, hue(day.devices, id)] as const),
    [devices, day.devices],
  );
  const canvas = useDraw(
    ({ pen, width, height, paint }) => {
      const y = (moment: number) => EDGE + ((moment - from) / span) * (height - 2 * EDGE);
      const wide = (width - 12) / Math.max(colours.length, 1);
      colours.forEach(([id, colour], i) => {
        pen.fillStyle = paint(colour);
        for (const band of bands) {
          for (const slip of band.slips) {
            if (slip.clip.device !== id) continue;
            const top = y(slip.from);
            pen.fillRect(3 + i * wide, top, Math.max(1, wide - 1), Math.max(1, y(slip.to) - top));
          }
        }
      });
      pen.fillStyle = paint('check');
      for (const { slips } of bands) {
        for (const { placed, from: at } of slips) {
          if (placed?.placement.verdict === 'check') pen.fillRect(width - 7, y(at) - 1, 7, 2);
        }
      }
    },
    [bands, colours, from, span],
  );
  if (bands.length === 0) return null;
  const share = (moment: number) => Math.min(1, Math.max(0, (moment - from) / span));
  const go = (event: PointerEvent<HTMLDivElement>) => {
    const edges = event.currentTarget.getBoundingClientRect();
    const moment = from + ((event.clientY - edges.top - EDGE) / (edges.height - 2 * EDGE)) * span;
    const near = bands.reduce((best, band) => {
      const off = (one: Band) => Math.max(one.from - moment, moment - one.to, 0);
      return off(band) < off(best) ? band : best;
    });
    const inside = (moment - near.from) / Math.max(near.to - near.from, 1e-3);
    show({ band: near, share: Math.min(1, Math.max(0, inside)) });
  };
  return (
    <div
      className="relative w-[46px] shrink-0 cursor-pointer touch-none border-r border-line bg-sheet"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        go(event);
      }}
      onPointerMove={(event) => event.buttons > 0 && go(event)}
    >
      <canvas
        ref={canvas}
        role="img"
        aria-label={`The whole day, ${clock(from)} to ${clock(to)}`}
        className="absolute inset-0 h-full w-full"
      />
      {window && (
        <div
          aria-hidden
          data-testid="window"
          className="pointer-events-none absolute right-0 left-0 border border-accent bg-accent/12"
          style={{
            top: `calc(${EDGE}px + ${share(window[0])} * (100% - ${2 * EDGE}px))`,
            height: `max(4px, calc(${share(window[1]) - share(window[0])} * (100% - ${2 * EDGE}px)))`,
          }}
        />
      )}
    </div>
  );
}
