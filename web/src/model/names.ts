/** Names as they are written. */
import type { ClipView, DayView } from '../api/types';

/** A clip's file name without its extension. */
export const stem = (clip: Pick<ClipView, 'file_name'>) => clip.file_name.replace(/\.[^.]+$/, '');

/** The same of a clip by its number. */
export function stemOf(day: DayView, clip: number): string {
  const found = day.clips.find((one) => one.id === clip);
  return found ? stem(found) : '';
}

/** A device's name by its number. */
export const deviceName = (day: DayView, device: number | null | undefined) =>
  day.devices.find((one) => one.id === device)?.name ?? '';
