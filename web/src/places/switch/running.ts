import type { Day } from '../../api/day';
import type { GroupView } from '../../api/types';
import { angleName, seenOf } from '../../model/angles';
import { covers } from '../../model/line';
import type { Offer } from '../../parts/LayAsk';
import type { Wall } from '../../play/wall';

/** The angles that run at a frame, each from the frame of its clip that is seen there. */
export const runningAt = (day: Day, { group }: GroupView, wall: Wall, frame: number): Offer[] =>
  seenOf(group).flatMap((angle): Offer[] => {
    const part = angle.parts.find((own) => covers(own, frame));
    const clip = day.clips.find(({ id }) => id === part?.clip);
    if (!part || !clip || part.still) return [];
    return [{ clip, from: wall.clipFrame(part, frame), said: angleName(day, group, angle) }];
  });
