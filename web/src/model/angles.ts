/** The angles of a group: which are switched to, and what they are called. */
import type { Day } from '../api/day';
import type { Angle, Group } from '../api/types';
import { deviceName } from './names';

type Angles = Pick<Group, 'angles'>;

/** The angles that are switched to, in the order of their number keys. */
export const seenOf = ({ angles }: Angles): Angle[] => angles.filter((angle) => !angle.hidden);

/** The clips whose pictures are in a group. */
export const clipsOf = ({ angles }: Angles): number[] =>
  angles.flatMap(({ parts }) => parts.map(({ clip }) => clip));

/** The angle of a number. */
export const angleOf = ({ angles }: Angles, id: number | undefined) =>
  angles.find((angle) => angle.id === id);

/** Which of its device's angles one is, from 0. */
export const rankOf = ({ angles }: Angles, angle: Angle): number =>
  angles.filter((own) => own.device === angle.device && own.id < angle.id).length;

/** What an angle is called: by a person, else as its device, the second of one with a number. */
export function angleName(day: Pick<Day, 'devices'>, group: Angles, angle: Angle | undefined): string {
  if (!angle) return '';
  if (angle.name) return angle.name;
  const rank = rankOf(group, angle);
  if (angle.device === null) return `Angle ${rank + 1}`;
  const device = deviceName(day, angle.device);
  return rank > 0 ? `${device} ${rank + 1}` : device;
}
