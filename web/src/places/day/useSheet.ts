import { useCallback, useEffect, useMemo, useState } from 'react';
import { flushSync } from 'react-dom';
import { SCALES, anchorAt, lay, placeOf, readable, wholeIn, type Anchor } from '../../model/elastic';
import type { Band } from '../../model/sheet';

/** Rows this far out of sight are drawn already, pixels. */
const BEYOND = 500;
/** What is in sight is looked at anew each so many pixels. */
const STEP = 160;
/** One notch of a wheel. */
export const NOTCH = 1.25;

/** The sheet at a scale: what its box is to be given to, and what is in sight of it and how to go closer and farther. */
export function useSheet(bands: Band[]) {
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const [chosenScale, setScale] = useState<number | null>(null);
  const fitting = useMemo(() => readable(bands), [bands]);
  const scale = chosenScale ?? fitting;
  const laid = useMemo(() => lay(bands, scale), [bands, scale]);
  const [seen, setSeen] = useState({ from: 0, to: 2000 });
  const look = useCallback(() => {
    if (!box) return;
    const from = Math.floor(box.scrollTop / STEP) * STEP;
    const to = from + Math.ceil(box.clientHeight / STEP + 1) * STEP;
    setSeen((last) => (last.from === from && last.to === to ? last : { from, to }));
  }, [box]);

  /** Another scale; what is `at` pixels below the upper edge of the window stays there. */
  const zoomTo = useCallback(
    (to: number, at?: number) => {
      if (!box) return;
      const where = at ?? box.clientHeight / 2;
      const anchor = anchorAt(laid, box.scrollTop + where);
      const next = Math.min(SCALES.most, Math.max(SCALES.least, to));
      // Drawn at once: only then is there somewhere to scroll to.
      flushSync(() => setScale(next));
      if (anchor) box.scrollTo({ top: placeOf(lay(bands, next), anchor) - where });
      look();
    },
    [bands, box, laid, look],
  );
  const whole = useCallback(() => setScale(wholeIn(bands, (box?.clientHeight ?? 600) - 16)), [bands, box]);

  useEffect(() => {
    if (!box) return;
    const observer = new ResizeObserver(look);
    observer.observe(box);
    return () => observer.disconnect();
  }, [box, look]);
  // Wheels are listened to by hand: what React listens to cannot keep the page from scrolling.
  useEffect(() => {
    if (!box) return;
    const turned = (event: WheelEvent) => {
      if (!event.ctrlKey && !event.altKey && !event.metaKey) return;
      event.preventDefault();
      const at = event.clientY - box.getBoundingClientRect().top;
      zoomTo(scale * NOTCH ** (-event.deltaY / 100), at);
    };
    box.addEventListener('wheel', turned, { passive: false });
    return () => box.removeEventListener('wheel', turned);
  }, [box, scale, zoomTo]);

  /** Brings a moment of a band into sight, where it is not. */
  const show = useCallback(
    (anchor: Anchor) => {
      if (!box) return;
      const y = placeOf(laid, anchor);
      if (y < box.scrollTop + 24 || y > box.scrollTop + box.clientHeight - 48) {
        box.scrollTo({ top: y - box.clientHeight / 3 });
      }
    },
    [box, laid],
  );
  const inSight = useMemo(() => ({ from: seen.from - BEYOND, to: seen.to + BEYOND }), [seen]);
  const rows = useMemo(
    () => laid.rows.filter((row) => row.top + row.height > inSight.from && row.top < inSight.to),
    [laid, inSight],
  );
  const view = { box, laid, rows, inSight, scale, zoomTo, whole, show, look };
  return [setBox, view] as const;
}

export type SheetView = ReturnType<typeof useSheet>[1];
