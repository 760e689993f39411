/** What stands over and below the pictures of the wall. */
import type { GroupView } from '../../api/types';
import { length, timecode } from '../../model/format';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';
import { SLOWEST_MS } from './useRun';

/** So much earlier than the frame on screen a key press is taken to mean. */
export function Reaction({ ms, onSet }: { ms: number; onSet: (ms: number) => void }) {
  return (
    <label
      className="flex items-center gap-1.5 whitespace-nowrap text-[#9db0a9]"
      title="taken off the moment of a key while it plays"
    >
      Reaction
      <input
        type="number"
        min={0}
        max={SLOWEST_MS}
        step={10}
        value={ms}
        onChange={(event) => onSet(Number(event.target.value) || 0)}
        className="num w-14 rounded-[3px] border border-[#51615d] bg-transparent px-1"
      />
      ms
    </label>
  );
}

type OfWall = { view: GroupView; wall: Wall };

/** The timecode of the frame on screen. */
export function Label({ view: { group }, wall }: OfWall) {
  const frame = useWall(wall, (state) => state.frame);
  return (
    <span data-testid="timecode" className="num absolute bottom-[9%] left-3 bg-black/60 px-1.5 text-[20px]">
      {timecode({ ...group.start, frames: group.start.frames + frame })}
    </span>
  );
}

/** How far into the group it is. */
export function Passed({ view: { group }, wall }: OfWall) {
  const frame = useWall(wall, (state) => state.frame);
  const { num, den } = group.start.rate;
  return <span className="num text-[#9db0a9]">{length((frame * den) / num)}</span>;
}

export function DarkButton(props: { onClick: () => void; children: string }) {
  return (
    <button
      type="button"
      className="rounded-[3px] border border-[#51615d] px-2.5 py-0.5 hover:border-[#dce7e2]"
      onClick={props.onClick}
    >
      {props.children}
    </button>
  );
}
