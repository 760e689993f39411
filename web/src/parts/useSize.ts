import { useEffect, useState } from 'react';

/** The size of an element, pixels, as it is now. */
export function useSize(box: HTMLElement | null): { width: number; height: number } {
  const [size, setSize] = useState({ width: 0, height: 0 });
  useEffect(() => {
    if (!box) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(box);
    return () => watch.disconnect();
  }, [box]);
  return size;
}
