import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { SCALES, anchorAt, lay, placeOf, readable, wholeIn, type Anchor } from '../../model/elastic';
import type { Band } from '../../model/sheet';

/** Rows this far out of sight are drawn already, pixels; none while the scale changes, since all are drawn anew then. */
const BEYOND = 240;
/** So long after its last change the scale rests, milliseconds. */
const RESTS = 150;
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
  const resting = useRef<ReturnType<typeof setTimeout>>(undefined);
  const see = useCallback(() => {
    if (!box) return;
    const from = Math.floor(box.scrollTop / STEP) * STEP - BEYOND;
    const to = from + Math.ceil(box.clientHeight / STEP + 1) * STEP + 2 * BEYOND;
    setSeen((last) => (last.from === from && last.to === to ? last : { from, to }));
  }, [box]);
  const look = useCallback(() => {
    if (resting.current === undefined) see();
  }, [see]);

  /** Another scale; what is `at` pixels below the upper edge of the window stays there. */
  const zoomTo = useCallback(
    (to: number, at?: number) => {
      if (!box) return;
      const [was, tall] = [box.scrollTop, box.clientHeight];
      const where = at ?? tall / 2;
      const anchor = anchorAt(laid, was + where);
      const next = Math.min(SCALES.most, Math.max(SCALES.least, to));
      const then = lay(bands, next);
      const wanted = anchor ? placeOf(then, anchor) - where : was;
      const top = Math.min(Math.max(wanted, 0), Math.max(then.height - tall, 0));
      // Drawn at once, with what will be in sight: only then is there somewhere to scroll to.
      flushSync(() => {
        setScale(next);
        setSeen({ from: top, to: top + tall });
      });
      box.scrollTo({ top: wanted });
      clearTimeout(resting.current);
      resting.current = setTimeout(() => {
        resting.current = undefined;
        see();
      }, RESTS);
    },
    [bands, box, laid, see],
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
  const rows = useMemo(
    () => laid.rows.filter((row) => row.top + row.height > seen.from && row.top < seen.to),
    [laid, seen],
  );
  const view = { box, laid, rows, inSight: seen, scale, zoomTo, whole, show, look };
  return [setBox, view] as const;
}

export type SheetView = ReturnType<typeof useSheet>[1];
