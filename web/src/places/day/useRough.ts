import { useCallback, useState } from 'react';
import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import type { ClipView } from '../../api/types';
import { zeroOf } from '../../model/axis';
import { momentAt, placeOf } from '../../model/elastic';
import type { Band, Slip } from '../../model/sheet';
import type { SheetView } from './useSheet';

/** A place that a hand gave a clip, to be looked near: of the clip's beginning, in seconds of the day. */
export type Rough = {
  clip: number;
  at: number;
  /** What it was put beside. */
  band: Band;
  /** Pixels a second there. */
  scale: number;
  /** It is still in the hand. */
  held: boolean;
  /** The pass in which it was put there: in another it would be somewhere else. */
  pass: number | undefined;
};

/** What is dragged: a clip, and how far below its upper edge it was taken; a long one begins so many seconds before that. */
type Grab = { clip: number; below: number; before: number };

/** Nearer than this to where it was taken it was pressed, not dragged, pixels. */
const PRESSED = 5;

/** A clip that is dragged to about where it belongs, and what is done there. */
export function useRough(day: Day, bands: Band[], view: SheetView, onDrop: (clip: number) => void) {
  const { layByHand } = useCommands();
  const [kept, setRough] = useState<Rough | null>(null);
  const pass = day.pass?.id;
  const rough = kept?.pass === pass ? kept : null;
  const { box, laid } = view;
  const clear = useCallback(() => setRough(null), []);

  /** Begins to drag; the pointer is followed wherever it goes. */
  const grab = useCallback(
    (own: Grab, from: { clientX: number; clientY: number }) => {
      if (!box) return;
      const put = (event: PointerEvent, held: boolean) => {
        const y = event.clientY - box.getBoundingClientRect().top + box.scrollTop - own.below;
        const found = momentAt(laid, y);
        if (found) setRough({ clip: own.clip, ...found, at: found.at - own.before, held, pass });
      };
      const over = new AbortController();
      const { signal } = over;
      let moved = false;
      const follow = (event: PointerEvent) => {
        moved ||= Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) > PRESSED;
        if (moved) put(event, true);
      };
      const drop = (event: PointerEvent) => {
        over.abort();
        if (!moved) return;
        put(event, false);
        onDrop(own.clip);
        swallowPress();
      };
      const leave = () => {
        over.abort();
        if (moved) setRough(null);
      };
      addEventListener('pointermove', follow, { signal });
      addEventListener('pointerup', drop, { signal });
      addEventListener('pointercancel', leave, { signal });
      addEventListener('keydown', (event) => event.key === 'Escape' && leave(), { signal });
    },
    [box, laid, pass, onDrop],
  );
  /** Where a clip lies, in seconds of the day. */
  const startOf = useCallback(
    (clip: number) => {
      const first = day.placements.find((one) => one.clip === clip)?.placement.stretches[0];
      // The clip that starts the axis lies where it lies.
      return first && clip !== day.pass?.origin ? zeroOf(day.pass) + first.start_s : undefined;
    },
    [day],
  );
  const grabSlip = useCallback(
    (slip: Slip, top: number, event: { clientX: number; clientY: number }) => {
      const began = startOf(slip.clip.id);
      if (!box || began === undefined) return;
      const below = event.clientY - box.getBoundingClientRect().top + box.scrollTop - top;
      grab({ clip: slip.clip.id, below, before: slip.from - began }, event);
    },
    [box, grab, startOf],
  );
  const grabLost = useCallback(
    (clip: ClipView, event: { clientX: number; clientY: number }) =>
      grab({ clip: clip.id, below: 10, before: 0 }, event),
    [grab],
  );
  /** Moves a clip by so many pixels, from where it was put or lies. */
  const shift = (clip: number, by: number) => {
    if (rough?.clip === clip) {
      setRough({ ...rough, at: rough.at + by / rough.scale });
      return;
    }
    const at = startOf(clip);
    const band = bands.find(({ slips }) => slips.some((slip) => slip.clip.id === clip));
    const own = band && momentAt(laid, placeOf(laid, { band, share: 0 }) + 1e-6);
    if (at !== undefined && own) {
      setRough({ clip, at: at + by / own.scale, band: own.band, scale: own.scale, held: false, pass });
    }
  };
  /** Lays the clip where it was put. */
  const lay = async () => {
    if (!rough) return;
    const start_us = Math.round((rough.at - zeroOf(day.pass)) * 1e6);
    // Where it was put anew meanwhile, it stays there.
    if ((await layByHand({ clip: rough.clip, start_us })) !== undefined)
      setRough((now) => (now === rough ? null : now));
  };
  return { rough, clear, grabSlip, grabLost, shift, lay };
}

/** The press that ends a drag chooses nothing. */
function swallowPress() {
  const swallow = (press: Event) => {
    press.stopPropagation();
    press.preventDefault();
  };
  addEventListener('click', swallow, { capture: true, once: true });
  setTimeout(() => removeEventListener('click', swallow, { capture: true }));
}
