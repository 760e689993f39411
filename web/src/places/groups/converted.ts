import type { GroupSummary } from '../../api/types';
import { rate } from '../../model/format';

type Converted = GroupSummary['converted'];

function how(way: Converted[number][1]): string {
  if (way === 'none') return 'frame for frame';
  if (way === 'some_twice') return 'some frames twice';
  if (way === 'some_left_out') return 'some frames left out';
  if ('repeated' in way) return way.repeated === 2 ? 'each frame twice' : `each frame ${way.repeated} times`;
  return way.skipped === 2 ? 'every second frame' : `every ${way.skipped}th frame`;
}

/** How pictures of other rates than the group's are shown, in words. */
export const convertedSaid = (all: Converted): string =>
  all.map(([own, way]) => `${rate(own)} fps: ${how(way)}`).join(' · ');
