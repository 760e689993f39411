import { useQueries, type UseQueryResult } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { MATCHED_RATE, peaksBetweenQuery, samplesQuery } from '../../api/queries';
import type { ClipView, PeaksView } from '../../api/types';
import type { Paint } from '../../draw/colours';
import { useDraw } from '../../draw/useDraw';
import { ruler } from '../../model/elastic';
import { clock } from '../../model/format';
import { audible } from '../../model/names';
import { ownAt, pieces, type Heard, type Window } from '../../model/mirror';

/** A clip in the mirror: where it is heard, and in which colour it is drawn. */
export type Half = {
  clip: ClipView;
  heard: Heard;

  colour: Parameters<Paint>[0];
  name: string;
};

/** What a finger covers, pixels. */
const FINGER = 24;

type Props = {
  reference: Half;
  clip: Half;
  window: Window;
  /** The playhead on the axis, seconds. */
  at: number;
  /** Time of day of the axis's zero. */
  zero: number;
  /** How much taller than it is. */
  gain: number;
  /** Moments on the axis that are marked, with a word. */
  lines: { at: number; word: string; below?: boolean }[];
  onSeek: (at: number) => void;
  onZoom: (at: number, by: number) => void;
  onPan: (by: number) => void;
  /** The clip is dragged so many seconds later; the last one says that it is let go. A finger covers so many seconds. */
  onDrag: (by: number, done: boolean, finger: number) => void;
};

/** Below this window samples are drawn, seconds. */
const NEAR_S = 6;

/** Lowest and highest between two moments of a clip's own time, −1 to 1; nothing where there is none. */
type Sound = (from: number, to: number) => [low: number, high: number] | null;

/** What came of queries, in their order. */
const peaksOf = (results: UseQueryResult<PeaksView>[]) => results.map(({ data }) => data);
const samplesOf = (results: UseQueryResult<Float32Array<ArrayBuffer>>[]) => results.map(({ data }) => data);

/** What is drawn of a half in a window: from peaks far out, from samples near. */
function useSound({ clip, heard }: Half, window: Window): { sound: Sound; loudest: number } {
  const near = window.to - window.from < NEAR_S;
  const { duration_s: duration } = clip.facts;
  const wanted = useMemo(() => pieces(heard, window, duration), [heard, window, duration]);
  const peaks = useQueries({
    queries: near ? [] : wanted.map(({ from, to }) => peaksBetweenQuery(clip, from, to, 2000)),
    combine: peaksOf,
  });
  const samples = useQueries({
    queries: near ? wanted.map(({ from, to }) => samplesQuery(clip.id, from, to - from)) : [],
    combine: samplesOf,
  });
  return useMemo(() => {
    const found: { from: number; to: number; read: (bin: number) => [number, number]; bins: number }[] = [];
    let loudest = 0.01;
    wanted.forEach(({ from }, i) => {
      const [peak, sample] = [peaks[i], samples[i]];
      if (peak) {
        const shown = audible(clip, peak.channels);
        const bins = (shown[0]?.length ?? 0) / 3;
        const read = (bin: number): [number, number] => [
          Math.min(...shown.map((one) => one[3 * bin] ?? 0)) / 32_768,
          Math.max(...shown.map((one) => one[3 * bin + 1] ?? 0)) / 32_768,
        ];
        for (let bin = 0; bin < bins; bin += 4) {
          const [low, high] = read(bin);
          loudest = Math.max(loudest, high, -low);
        }
        found.push({ from: peak.from_s, to: peak.to_s, read, bins });
      }
      if (sample && sample.length > 0) {
        for (let at = 0; at < sample.length; at += 3) loudest = Math.max(loudest, Math.abs(sample[at] ?? 0));
        found.push({
          from,
          to: from + sample.length / MATCHED_RATE,
          bins: sample.length,
          read: (bin) => [sample[bin] ?? 0, sample[bin] ?? 0],
        });
      }
    });
    const sound: Sound = (from, to) => {
      const piece = found.find((one) => from >= one.from - 1e-9 && from < one.to);
      if (!piece || piece.bins === 0) return null;
      const bin = (moment: number) => ((moment - piece.from) / (piece.to - piece.from)) * piece.bins;
      const [first, last] = [Math.floor(bin(from)), Math.max(Math.ceil(bin(to)), Math.floor(bin(from)) + 1)];
      let [low, high] = [1, -1];
      for (let i = first; i < Math.min(last, piece.bins); i++) {
        const [least, most] = piece.read(i);
        low = Math.min(low, least);
        high = Math.max(high, most);
      }
      return low > high ? null : [low, high];
    };
    return { sound, loudest };
  }, [clip, wanted, peaks, samples]);
}

/** The reference above the line, the clip below it: in step, the halves match. */
export function Mirror(props: Props) {
  const { reference, clip, window, at, zero, gain, lines, onSeek, onZoom, onPan, onDrag } = props;
  const [above, below] = [useSound(reference, window), useSound(clip, window)];
  const box = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<{ x: number; clip: boolean } | null>(null);
  const span = window.to - window.from;
  const canvas = useDraw(
    ({ pen, width, height, paint }) => {
      const middle = Math.round(height / 2);
      const half = middle - 20;
      const x = (moment: number) => ((moment - window.from) / span) * width;
      pen.font = '11px "Atkinson Hyperlegible Mono", monospace';
      pen.fillStyle = paint('soft');
      for (const mark of ruler(zero + window.from, zero + window.to, width / span, 110)) {
        const place = x(mark.at - zero);
        pen.globalAlpha = 0.3;
        pen.fillRect(place, 0, 1, height);
        pen.globalAlpha = 1;
        pen.fillText(clock(mark.at, mark.step < 1 ? 2 : 0), place + 4, height - 5);
      }
      const draw = (own: Half, { sound, loudest }: { sound: Sound; loudest: number }, up: boolean) => {
        pen.fillStyle = paint(own.colour);
        const tall = (gain * half) / loudest;
        for (let pixel = 0; pixel < width; pixel++) {
          const from = window.from + (pixel / width) * span;
          const [a, b] = [ownAt(own.heard, from), ownAt(own.heard, from + span / width)];
          if (b <= 0 || a >= own.clip.facts.duration_s) continue;
          const found = sound(a, b);
          if (!found) continue;
          // Both halves of a swing count: what is low below is high above.
          const size = Math.min(half, Math.max(1, Math.max(found[1], -found[0]) * tall));
          pen.fillRect(pixel, up ? middle - size : middle + 1, 1, size);
        }
      };
      draw(reference, above, true);
      draw(clip, below, false);
      pen.fillStyle = paint('ink');
      pen.fillRect(0, middle, width, 1);
      pen.fillStyle = paint('check');
      for (const line of lines) {
        const place = x(line.at);
        if (place < -60 || place > width) continue;
        pen.fillRect(place, line.below ? middle : 0, 1, middle);
        pen.fillText(line.word, place + 3, line.below ? height - 20 : 12);
      }
      const place = x(at);
      pen.fillStyle = paint('accent');
      pen.fillRect(Math.round(place), 0, 2, height);
      pen.textAlign = place > width - 110 ? 'right' : 'left';
      pen.fillText(clock(zero + at, 3), place + (place > width - 110 ? -5 : 6), 24);
    },
    [reference, clip, above, below, window, at, zero, gain, lines],
  );
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const turned = (event: WheelEvent) => {
      event.preventDefault();
      const edges = element.getBoundingClientRect();
      if (event.ctrlKey || event.altKey || event.metaKey) {
        onZoom(
          window.from + ((event.clientX - edges.left) / edges.width) * span,
          1.25 ** (-event.deltaY / 100),
        );
      } else
        onPan(
          ((Math.abs(event.deltaX) > Math.abs(event.deltaY) ? event.deltaX : event.deltaY) / edges.width) *
            span,
        );
    };
    element.addEventListener('wheel', turned, { passive: false });
    return () => element.removeEventListener('wheel', turned);
  }, [window, span, onZoom, onPan]);
  const seconds = (event: PointerEvent<HTMLDivElement>, pixels: number) =>
    (pixels / event.currentTarget.getBoundingClientRect().width) * span;
  const down = (event: PointerEvent<HTMLDivElement>) => {
    const edges = event.currentTarget.getBoundingClientRect();
    event.currentTarget.setPointerCapture(event.pointerId);
    const low = event.clientY > edges.top + edges.height / 2;
    setDrag({ x: event.clientX, clip: low });
    if (!low) onSeek(window.from + ((event.clientX - edges.left) / edges.width) * span);
  };
  const dragged = (event: PointerEvent<HTMLDivElement>) => {
    if (!drag || event.buttons === 0) return;
    const edges = event.currentTarget.getBoundingClientRect();
    if (drag.clip) onDrag(seconds(event, event.clientX - drag.x), false, seconds(event, FINGER));
    else onSeek(window.from + ((event.clientX - edges.left) / edges.width) * span);
  };
  return (
    <div
      ref={box}
      className="relative h-full touch-none"
      onPointerDown={down}
      onPointerMove={dragged}
      onPointerUp={(event) => {
        if (drag?.clip) onDrag(seconds(event, event.clientX - drag.x), true, seconds(event, FINGER));
        setDrag(null);
      }}
    >
      <canvas
        ref={canvas}
        role="img"
        aria-label={`${reference.name} above, ${clip.name} below, ${span.toFixed(span < 10 ? 3 : 0)} seconds`}
        className="h-full w-full"
      />
      <span className="num pointer-events-none absolute top-1 left-3 font-semibold">{reference.name}</span>
      <span
        className="num pointer-events-none absolute bottom-5 left-3 font-semibold"
        style={{ color: clip.colour }}
      >
        {clip.name}
      </span>
    </div>
  );
}
