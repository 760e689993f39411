import { useEffect, useRef, useState, type PointerEvent } from 'react';
import { useDraw } from '../../draw/useDraw';
import { ruler } from '../../model/elastic';
import { clock } from '../../model/format';
import { ownAt, type Window } from '../../model/mirror';
import { ChannelChoice } from './ChannelChoice';
import { useSound, type Half, type Sound } from './useSound';

/** What a finger covers, and the room for the times at the foot, pixels. */
const FINGER = 24;
const FOOT = 18;

/** Where the names stand: each at the far edge of its waveform. */
const TOPS = {
  two: ['4px', 'calc(100% - 40px)'],
  three: ['4px', 'calc(66.7% - 38px)', 'calc(66.7% - 12px)'],
};

/** How far down the line lies between the two: in the middle, or a third of the way where another one is beside them. */
const lineOf = (height: number, isThree: boolean) => (isThree ? (height - FOOT) / 3 : height / 2);

/** Whether a press is on the clip, below the line; not on what is beside the two. */
const isBelow = (y: number, height: number, isThree: boolean) => {
  const line = lineOf(height, isThree);
  return y > line && y < 2 * line;
};

type Props = {
  reference: Half;
  clip: Half;
  /** Another one beside them, to see who is off. */
  third: Half | null;
  window: Window;
  /** The playhead on the axis, seconds. */
  at: number;
  /** Time of day of the axis's zero. */
  zero: number;
  /** How much taller than it is. */
  gain: number;
  /** Moments on the axis that are marked, with a word. */
  lines: { at: number; word: string; below?: boolean }[];
  onChannel: (clip: number, channel: number | null) => void;
  onSeek: (at: number) => void;
  onZoom: (at: number, by: number) => void;
  onPan: (by: number) => void;
  /** The clip is dragged so many seconds later; the last one says that it is let go. A finger covers so many seconds. */
  onDrag: (by: number, done: boolean, finger: number) => void;
};

/** The reference above the line, the clip below it: in step, the halves match. */
export function Mirror(props: Props) {
  const { reference, clip, third, window, at, zero, gain, lines, onChannel, onSeek, onZoom, onPan, onDrag } =
    props;
  const [above, below, beside] = [
    useSound(reference, window),
    useSound(clip, window),
    useSound(third, window),
  ];
  const box = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<{ x: number; clip: boolean } | null>(null);
  const span = window.to - window.from;
  const canvas = useDraw(
    ({ pen, width, height, paint }) => {
      const middle = Math.round(lineOf(height, third !== null));
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
      const draw = (own: Half, { sound, loudest }: Sound, base: number, up: boolean) => {
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
          pen.fillRect(pixel, up ? base - size : base + 1, 1, size);
        }
      };
      draw(reference, above, middle, true);
      draw(clip, below, middle, false);
      pen.fillStyle = paint('ink');
      pen.fillRect(0, middle, width, 1);
      if (third) {
        const ground = height - FOOT;
        draw(third, beside, ground, true);
        pen.fillStyle = paint('ink');
        pen.fillRect(0, ground, width, 1);
      }
      pen.fillStyle = paint('check');
      for (const line of lines) {
        const place = x(line.at);
        if (place < -60 || place > width) continue;
        pen.fillRect(place, line.below ? middle : 0, 1, middle);
        pen.fillText(line.word, place + 3, line.below ? 2 * middle - 20 : 12);
      }
      const place = x(at);
      pen.fillStyle = paint('accent');
      pen.fillRect(Math.round(place), 0, 2, height);
      pen.textAlign = place > width - 110 ? 'right' : 'left';
      pen.fillText(clock(zero + at, 3), place + (place > width - 110 ? -5 : 6), 24);
    },
    [reference, clip, third, above, below, beside, window, at, zero, gain, lines],
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
    const low = isBelow(event.clientY - edges.top, edges.height, third !== null);
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
        aria-label={`${reference.name} above, ${clip.name} below${third ? `, ${third.name} beside them` : ''}, ${span.toFixed(span < 10 ? 3 : 0)} seconds`}
        className="h-full w-full"
      />
      {[reference, clip, ...(third ? [third] : [])].map((own, i) => (
        <span
          key={own.clip.id}
          className="num absolute left-3 flex items-center gap-2 font-semibold"
          style={{
            top: TOPS[third ? 'three' : 'two'][i],
            color: own.colour === 'ink' ? undefined : own.colour,
          }}
        >
          {own.name}
          <ChannelChoice
            clip={own.clip}
            channel={own.channel}
            onChoose={(channel) => onChannel(own.clip.id, channel)}
          />
        </span>
      ))}
    </div>
  );
}
