import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import { groupLevelsQuery } from '../../api/queries';
import type { GroupSummary } from '../../api/types';
import { Outline } from '../../draw/Outline';
import type { Window } from '../../model/mirror';
import { tileOf } from '../../model/tile';

/** Levels across what is asked for. */
const LEVELS = 2000;

/** How loud the group's sound is, under its bars. */
export function Level({ summary, view }: { summary: GroupSummary; view: Window }) {
  const tile = tileOf(view, summary.group.frames);
  const levels = useQuery(groupLevelsQuery(summary, LEVELS, tile));
  const none: number[] = useMemo(() => [], []);
  const share = (frames: number) => `${(100 * frames) / (view.to - view.from)}%`;
  return (
    <div className="flex pt-1 pl-[248px]">
      <div className="relative h-8 min-w-0 flex-1 overflow-hidden" role="img" aria-label="Level of the sound">
        <div
          className="absolute inset-y-0"
          style={{ left: share(tile.from - view.from), width: share(tile.to - tile.from) }}
        >
          <Outline levels={levels.data ?? none} className="h-full w-full" />
        </div>
      </div>
    </div>
  );
}
