/** Edges of a group: the frames at which something begins or ends. */
import type { Angle, Group } from '../api/types';
import { seenOf } from './angles';

/** What has edges: the angles that are switched to, and the sound. */
const withSound = (group: Pick<Group, 'angles' | 'sound'>): Angle[] =>
  group.sound ? [...seenOf(group), group.sound] : seenOf(group);

/** All of them, in order: head and tail, and those of every part. */
export function edgesOf(group: Pick<Group, 'frames' | 'angles' | 'sound' | 'seams'>): number[] {
  const parts = withSound(group).flatMap((angle) => angle.parts);
  const seams = (group.seams ?? []).map((seam) => seam.at);
  const all = [0, group.frames, ...seams, ...parts.flatMap((part) => [part.from_frame, part.to_frame])];
  return [...new Set(all)].sort((a, b) => a - b);
}

/** The next edge that way; the last one where there is none. */
export function edgeFrom(edges: readonly number[], at: number, by: 1 | -1): number {
  const next = by > 0 ? edges.find((edge) => edge > at) : edges.findLast((edge) => edge < at);
  return next ?? at;
}

/** What begins or ends at an edge, in words. */
export function edgeSaid(
  group: Pick<Group, 'frames' | 'angles' | 'sound' | 'seams'>,
  at: number,
  name: (angle: Angle) => string,
): string {
  if (at === 0) return 'head';
  if (at === group.frames) return 'tail';
  if (group.seams?.some((seam) => seam.at === at)) return 'a piece is taken out here';
  const angles = withSound(group);
  const at_ = (edge: 'from_frame' | 'to_frame') =>
    angles.filter(({ parts }) => parts.some((part) => part[edge] === at)).map(name);
  const [begin, end] = [at_('from_frame'), at_('to_frame')];
  const said = [
    ...(end.length > 0 ? [`${end.join(', ')} ${end.length === 1 ? 'ends' : 'end'}`] : []),
    ...(begin.length > 0 ? [`${begin.join(', ')} ${begin.length === 1 ? 'begins' : 'begin'}`] : []),
  ];
  return said.join('; ');
}
