/** Names as they are written. */
import type { Day } from '../api/day';
import type { ClipView } from '../api/types';

/** A clip's file name without its extension. */
export const stem = (clip: Pick<ClipView, 'file_name'>) => clip.file_name.replace(/\.[^.]+$/, '');

/** The same of a clip by its number. */
export function stemOf(day: Day, clip: number): string {
  const found = day.clips.find((one) => one.id === clip);
  return found ? stem(found) : '';
}

/** A device's name by its number. */
export const deviceName = (day: Pick<Day, 'devices'>, device: number | null | undefined) =>
  day.devices.find((one) => one.id === device)?.name ?? '';

/** Those of a clip's channels that are to be heard: what carries timecode is loud and says nothing. */
export function audible<T>(clip: ClipView, channels: readonly T[]): T[] {
  const found = channels.filter((_, i) => !clip.channels?.[i]?.audio_timecode);
  return found.length > 0 ? found : [...channels];
}
