import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import type { Day } from '../../api/day';
import type { GroupView } from '../../api/types';
import { deviceName } from '../../model/names';
import { TrackList } from '../../parts/TrackList';
import type { TracksHeard } from '../../play/useTracks';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';

type Props = { day: Day; view: GroupView; wall: Wall; tracks: TracksHeard };

/** What is heard whatever the picture does: the recorders' tracks as they will be written, some of them or one alone. */
export function Heard({ day, view: { group }, wall, tracks }: Props) {
  const silent = useWall(wall, (state) => state.silent);
  const own = group.sound ? deviceName(day, group.sound.device) : 'none';
  if (tracks.names.length === 0) {
    return (
      <span className={`flex-1 ${silent ? 'text-[#e0a54a]' : 'text-[#9db0a9]'}`}>
        {silent
          ? `The sound of ${own} cannot be played: ${silent}`
          : `Sound: ${own}, whatever the picture does`}
      </span>
    );
  }
  return (
    <span className="flex flex-1 items-center gap-3">
      <Popover className="relative">
        <PopoverButton className="rounded-[3px] border border-[#51615d] px-2.5 py-0.5 hover:border-[#dce7e2]">
          Tracks
        </PopoverButton>
        <PopoverPanel
          anchor="top start"
          className="z-10 max-h-[60vh] w-[260px] overflow-y-auto rounded-[3px] border border-[#51615d] bg-[#14201c] p-3 text-[#dce7e2] [--anchor-gap:6px]"
        >
          <TrackList tracks={tracks} />
        </PopoverPanel>
      </Popover>
      <span role="status" className={silent ? 'text-[#e0a54a]' : 'text-[#9db0a9]'}>
        {silent
          ? `The sound cannot be played: ${silent}`
          : `Sound: ${tracks.said}, whatever the picture does`}
      </span>
    </span>
  );
}
