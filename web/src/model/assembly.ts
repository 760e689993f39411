/** Assemblies: lines one behind another. */
import type { AssemblyPart, AssemblyPartView, AssemblyView, GroupView } from '../api/types';

/** How many frames a part has. */
export const framesOf = ({ range }: Pick<AssemblyPartView, 'range'>) => range[1] - range[0];

/** What is played of a part that is no line: black, or a clip's pictures over it. */
export function plainView(
  part: Pick<AssemblyPartView, 'range' | 'over'>,
  start: AssemblyView['start'],
): Pick<GroupView, 'axis_start_s' | 'group' | 'over'> {
  const rate = start?.rate ?? { num: 25, den: 1 };
  return {
    axis_start_s: 0,
    group: {
      name: '',
      start: { frames: 0, rate, drop: false },
      axis_zero: 0,
      component: 0,
      frames: framesOf(part),
      width: 0,
      height: 0,
      angles: [],
      sound: null,
    },
    over: part.over ? [{ layer: 0, part: part.over }] : [],
  };
}

/** The chosen part once one went from a place to another. */
export const movedTo = (count: number, from: number, by: number) =>
  Math.max(0, Math.min(count - 1, from + by));

/** A part that is cut to a range of its line; all of it where that is all there is. */
export function ranged(part: AssemblyPart, range: [number, number] | null): AssemblyPart {
  if (part.is !== 'line') return part;
  const { group } = part;
  return range ? { is: 'line', group, range } : { is: 'line', group };
}
