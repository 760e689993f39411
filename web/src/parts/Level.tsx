import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { groupLevelsQuery } from '../api/queries';
import type { GroupSummary } from '../api/types';
import { Outline } from '../draw/Outline';
import type { Window } from '../model/mirror';
import { tileOf } from '../model/tile';

/** Levels across what is asked for. */
const LEVELS = 2000;
/** A view that rests for so long is drawn finely; until then what is there is stretched, milliseconds. */
const REST_MS = 120;

const NONE: number[] = [];

/** How loud the group's sound is, under its bars. */
export function Level({ summary, view }: { summary: GroupSummary; view: Window }) {
  const { from, to } = tileOf(view, summary.group.frames);
  const [asked, setAsked] = useState<Window>({ from, to });
  useEffect(() => {
    const rest = window.setTimeout(() => setAsked({ from, to }), REST_MS);
    return () => window.clearTimeout(rest);
  }, [from, to]);
  const { data } = useQuery(groupLevelsQuery(summary, LEVELS, asked));
  const [drawn, setDrawn] = useState<{ tile: Window; levels: number[] }>({ tile: asked, levels: NONE });
  if (data && drawn.levels !== data) setDrawn({ tile: asked, levels: data });
  const { tile, levels } = drawn;
  const share = (frames: number) => `${(100 * frames) / (view.to - view.from)}%`;
  return (
    <div className="flex pt-1 pl-[248px]">
      <div className="relative h-8 min-w-0 flex-1 overflow-hidden" role="img" aria-label="Level of the sound">
        <div
          className="absolute inset-y-0"
          style={{ left: share(tile.from - view.from), width: share(tile.to - tile.from) }}
        >
          <Outline levels={levels} className="h-full w-full" />
        </div>
      </div>
    </div>
  );
}
