import { useQueryClient } from '@tanstack/react-query';
import { useRef } from 'react';
import { needleQuery } from '../../api/queries';
import type { ClipView, Placement } from '../../api/types';
import { heardAt, ownAt, type Heard } from '../../model/mirror';
import { useKept } from '../../parts/useKept';

/** The least and the most about the place where a hand let go, seconds. */
const REACH = { least: 0.005, most: 1 };

type Laid = { clip: ClipView; placed: Placement; against: ClipView; there: Heard };

/**
 * Where a clip that was let go snaps to: what fits best within a finger's breadth of there, measured as the needle does; by
 * choice.
 */
export function useSnap({ clip, placed, against, there }: Laid, onShift: (shift: number) => void) {
  const client = useQueryClient();
  const [on, turn] = useKept('bench-snap');
  const drops = useRef(0);
  /** Laid with so much shift, it goes to what fits about the moment `at`; unless it was dragged again meanwhile. */
  const drop = async (shift: number, at: number, finger: number) => {
    const own = ++drops.current;
    onShift(shift);
    if (!on) return;
    const meeting = {
      clip,
      own: ownAt(heardAt(placed, shift), at),
      against,
      there: ownAt(there, at),
      reach: Math.min(REACH.most, Math.max(REACH.least, finger)),
    };
    // Where nothing can be measured it stays where it was let go.
    const found = await client.fetchQuery(needleQuery(meeting)).catch(() => null);
    if (found?.clear && own === drops.current) onShift(shift + found.later_s);
  };
  return { on, turn, drop };
}
