import { useEffect, useRef, useSyncExternalStore, type DependencyList } from 'react';
import { colours, type Paint } from './colours';
import { theme } from './theme';

/** What a drawing is given: a pen in CSS pixels, the size, the theme's colours. */
export type Sheet = {
  pen: CanvasRenderingContext2D;
  width: number;
  height: number;
  paint: Paint;
  /** The colour of text there. */
  ink: string;
};

/** A canvas that is drawn anew when what it shows, its size or the theme changes. */
export function useDraw(draw: (sheet: Sheet) => void, depends: DependencyList) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const shown = useSyncExternalStore(theme.subscribe, theme.shown);
  useEffect(() => {
    const element = canvas.current;
    const pen = element?.getContext('2d');
    if (!element || !pen) return;
    const redraw = () => {
      const scale = window.devicePixelRatio;
      element.width = Math.max(1, Math.round(element.clientWidth * scale));
      element.height = Math.max(1, Math.round(element.clientHeight * scale));
      pen.scale(scale, scale);
      draw({
        pen,
        width: element.width / scale,
        height: element.height / scale,
        paint: colours(element),
        ink: getComputedStyle(element).color,
      });
    };
    redraw();
    const observer = new ResizeObserver(redraw);
    observer.observe(element);
    return () => observer.disconnect();
    // What is drawn is named by the caller.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [shown, ...depends]);
  return canvas;
}
