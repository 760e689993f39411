import type { GroupView, LineEdit, Switch } from '../../api/types';
import { stretchAt } from '../../model/line';
import { BLACK } from '../../model/onAir';
import type { What } from './useRun';
import type { Span } from './useSpan';

const GRID: Switch[] = [{ at: 0, angle: BLACK }];

/** The switches of what is heard: the grid's sound throughout where nobody switched. */
export const soundOf = ({ line }: Pick<GroupView, 'line'>): Switch[] => line.sound?.switches ?? GRID;

/** The line that is mended: what is seen, or what is heard where keys switch that alone. */
export function useMend(view: GroupView, what: What, edit: (edit: LineEdit) => Promise<unknown>) {
  const ofSound = what === 'sound';
  const switches = ofSound ? soundOf(view) : view.line.switches;
  const { frames, start } = view.group;
  const own = (next: LineEdit) => edit(ofSound ? { do: 'sound', edit: next } : next);
  return {
    ofSound,
    switches,
    edit: own,
    /** The frames of a stretch. */
    span: (stretch: number): Span => ({
      from: switches[stretch]?.at ?? 0,
      to: switches[stretch + 1]?.at ?? frames,
    }),
    /** So many frames before the cut at the head of a stretch (below nought), or behind it: of the stretch that loses them one stays. */
    beside: (stretch: number, by: number): Span | null => {
      const at = switches[stretch]?.at ?? 0;
      const from = Math.max((switches[stretch - 1]?.at ?? 0) + 1, at + Math.min(by, 0));
      const to = Math.min((switches[stretch + 1]?.at ?? frames) - 1, at + Math.max(by, 0));
      return stretch > 0 && from < to ? { from, to } : null;
    },
    /** The cut at the head of a stretch dissolves, or cuts again. */
    dissolve: (stretch: number) => {
      const fps = start.rate.num / start.rate.den;
      const length = switches[stretch]?.dissolve ? 0 : habitual(switches, stretch, frames, fps);
      return own({ do: 'dissolve', index: stretch, frames: length });
    },
    /** Nothing is shown from and up to a frame, or no other sound is heard; what was there goes on behind. One step to undo. */
    hole: async ({ from, to }: Span) => {
      const run = Date.now() % 2 ** 31;
      const angle = (at: number) => switches[stretchAt(switches, at)]?.angle ?? BLACK;
      if (angle(from) !== BLACK) await own({ do: 'take', at: from, angle: BLACK, run });
      const isCut = switches.some(({ at }) => at === to);
      const between = switches.some(({ at }) => at > from && at < to);
      if (to >= frames) await own({ do: 'hold', from, to, run, before: switches });
      else if (!isCut || between) await own({ do: 'take', at: to, angle: angle(to), since: from, run });
    },
  };
}

/** How long a dissolve is unless another length is typed: as the last one before, else half a second, as far as there is room. */
function habitual(switches: readonly Switch[], index: number, frames: number, fps: number): number {
  const before = switches.slice(0, index).findLast(({ dissolve }) => dissolve);
  const room = (switches[index + 1]?.at ?? frames) - (switches[index]?.at ?? 0);
  return Math.min(before?.dissolve ?? Math.round(fps / 2), room);
}
