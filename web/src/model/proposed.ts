/** Groups that are proposed, in words. */
import type { Difference, ProposedGroup } from '../api/types';

const count = (many: number, what: string) => `${many} ${what}${many === 1 ? '' : 's'}`;

/** How a group differs from the one that it is most like. */
export function differsSaid({ begins, ends, more, fewer }: Difference): string {
  const moved = (what: string, frames: number) =>
    frames === 0 ? [] : [`${what} ${Math.abs(frames)} f ${frames < 0 ? 'earlier' : 'later'}`];
  const all = [
    ...moved('begins', begins),
    ...moved('ends', ends),
    ...(more > 0 ? [`has ${count(more, 'clip')} more`] : []),
    ...(fewer > 0 ? [`has ${count(fewer, 'clip')} fewer`] : []),
  ];
  return all.length > 0 ? all.join(', ') : 'is made up otherwise';
}

/** What a proposed group is beside those that are there. */
export const besideSaid = ({ there, like, sound }: ProposedGroup): string =>
  there !== null
    ? 'there already'
    : [
        like ? `unlike ${like.name} it ${differsSaid(like.differs)}` : 'new',
        ...(sound ? [] : ['no recorder']),
      ].join(', ');
