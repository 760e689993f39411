/** Where the islands of a day lie on it, in words. */
import type { Day } from '../api/day';
import type { Evidence, Island } from '../api/types';
import { zeroOf } from './axis';
import { clock } from './format';

/** The island that a component is; the axis's own component is none. */
export function islandOf(day: Day, component: number | undefined): Island | undefined {
  return component ? day.pass?.islands.find((island) => island.component === component) : undefined;
}

const BY: Record<Evidence['kind'], string> = {
  waveform: 'sound',
  file_timecode: 'file timecode',
  audio_timecode: 'audio timecode',
  slate: 'timecode slates',
  device_clock: "the devices' clocks",
  hand: 'hand',
};

/** How well it is known when an island ran. */
export function margin({ sigma_s }: Island): string {
  if (sigma_s === null) return 'time unknown';
  return sigma_s < 0.1 ? `± ${Math.max(1, Math.round(sigma_s * 1000))} ms` : `± ${sigma_s.toFixed(1)} s`;
}

/** When an island ran, and what says so; null where nothing does. */
export function ran(day: Day, island: Island): string | null {
  if (!island.by || island.sigma_s === null) return null;
  const zero = zeroOf(day.pass);
  return `${clock(zero + island.zero_s)} by ${BY[island.by]}, ${margin(island)}`;
}

/** The same as a sentence. */
export function lies(day: Day, island: Island): string {
  const when = ran(day, island);
  return when ? `It lies at ${when}.` : 'Nothing says when it ran: it stands behind the others.';
}
