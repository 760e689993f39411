import { useEffect, useState } from 'react';
import { moved, showing, zoomed, type Window } from '../model/mirror';

/** So much by a notch of the wheel, or a key. */
const NOTCH = 1.25;
/** The fewest frames that are shown, across all of the width. */
const FEWEST = 12;

/** The frames of a group that its bars show: all of them, or a window that is zoomed and moved. */
export function useView(group: number | undefined, frames: number) {
  const whole: Window = { from: 0, to: Math.max(frames, 1) };
  const [held, setHeld] = useState<{ group: number | undefined; window: Window } | null>(null);
  const view = held?.group === group && held && held.window.to <= whole.to ? held.window : whole;
  const set = (window: Window) => setHeld({ group, window });
  const zoom = (by: number, at: number) => {
    const next = zoomed(view, Math.min(Math.max(at, view.from), view.to), by, whole);
    if (by < 1 || next.to - next.from >= FEWEST) set(next);
  };
  return {
    view,
    zoom,
    /** Moves it by a share of its width. */
    slide: (share: number) => set(moved(view, share * (view.to - view.from), whole)),
    /** Brings a frame into sight. */
    show: (at: number) => {
      if (view !== whole) set(showing(view, at, whole));
    },
  };
}

export type View = ReturnType<typeof useView>;

/** The wheel over `box`: with a key held it zooms about the frame under the pointer, sideways it moves along. */
export function useWheel(box: HTMLElement | null, { view, zoom, slide }: View) {
  useEffect(() => {
    if (!box) return;
    const turned = (event: WheelEvent) => {
      const bars = box.querySelector('[data-bars]')?.getBoundingClientRect();
      if (!bars) return;
      if (event.ctrlKey || event.altKey || event.metaKey) {
        event.preventDefault();
        const share = (event.clientX - bars.left) / Math.max(1, bars.width);
        zoom(NOTCH ** (-event.deltaY / 100), view.from + share * (view.to - view.from));
      } else if (event.deltaX !== 0 || event.shiftKey) {
        event.preventDefault();
        slide((event.deltaX || event.deltaY) / Math.max(1, bars.width));
      }
    };
    // Listened to by hand: what React listens to cannot keep the page from scrolling.
    box.addEventListener('wheel', turned, { passive: false });
    return () => box.removeEventListener('wheel', turned);
  }, [box, view, zoom, slide]);
}
