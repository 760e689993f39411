import { useEffect, useRef } from 'react';
import { meterHeight } from '../../model/grid';
import type { GridMix } from '../../play/gridMix';

/** How fast a meter falls, share of its height a frame. */
const FALL = 0.02;

/** Meters of tracks and outputs while it plays: each is a bar that is as wide as its loudest sample is high. */
export function useMeters(mix: GridMix | null, playing: boolean) {
  const bars = useRef(new Map<string, HTMLElement>());
  useEffect(() => {
    if (!mix || !playing) return;
    const shown = new Map<string, number>();
    const drawn = bars.current;
    const draw = (name: string, peak: number) => {
      const height = Math.max(meterHeight(peak), (shown.get(name) ?? 0) - FALL);
      shown.set(name, height);
      const bar = drawn.get(name);
      if (!bar) return;
      bar.style.transform = `scaleX(${height})`;
      bar.dataset['full'] = String(peak >= 1);
    };
    let tick = 0;
    const step = () => {
      const { sources, outputs } = mix.peaks();
      sources.forEach((peak, i) => draw(`s${i}`, peak));
      outputs.forEach((peak, i) => draw(`o${i}`, peak));
      tick = requestAnimationFrame(step);
    };
    tick = requestAnimationFrame(step);
    return () => {
      cancelAnimationFrame(tick);
      for (const bar of drawn.values()) bar.style.transform = 'scaleX(0)';
    };
  }, [mix, playing]);
  /** Takes the bar of that name. */
  return (name: string) => (bar: HTMLElement | null) => {
    if (bar) bars.current.set(name, bar);
    else bars.current.delete(name);
  };
}
