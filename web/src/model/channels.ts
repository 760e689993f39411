/** The channels of a clip, as they are chosen from. */
import type { ClipView } from '../api/types';

/** A channel: its number from 0, and what it is called. */
export type Channel = { number: number; name: string };

/** What of a clip can be looked at by itself: every channel that was listened to, but timecode and dead ones. */
export function channelsOf({ channels, facts }: ClipView): Channel[] {
  return (channels ?? []).flatMap(({ carries }, number) => {
    if (carries !== 'sound') return [];
    const named = facts.sound?.channel_names[number];
    return [{ number, name: named ? `${number + 1} ${named}` : `channel ${number + 1}` }];
  });
}
