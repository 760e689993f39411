import type { Day } from '../../api/day';
import { gridSaid } from '../../model/grid';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { SoundGrid } from '../../parts/grid/SoundGrid';
import type { GridHeard } from '../../play/useGrid';
import { useWall } from '../../play/useWall';
import type { Wall } from '../../play/wall';

type Props = {
  day: Day;
  wall: Wall;
  sound: GridHeard;
  playing: boolean;
  onPlay: () => void;
  onGrid: () => void;
};

/** What is heard: which tracks by the group's grid, or one alone. */
export function Heard({
  wall,
  sound,
  instead,
  onGrid,
}: Pick<Props, 'wall' | 'sound' | 'onGrid'> & {
  /** The angle whose own sound is heard here instead. */
  instead: string | null;
}) {
  const silent = useWall(wall, (state) => state.silent);
  const follows = sound.view?.grid.outputs.some((output) => output.follows) ?? false;
  const said = sound.view ? gridSaid(sound.view, sound.alone) : (sound.why ?? 'opening');
  return (
    <span className="flex min-w-60 flex-1 items-center gap-3">
      <button
        type="button"
        disabled={!sound.view}
        onClick={onGrid}
        className="rounded-[3px] border border-[#51615d] px-2.5 py-0.5 whitespace-nowrap hover:border-[#dce7e2]"
      >
        Sound grid
      </button>
      <span role="status" className={`truncate ${silent ? 'text-[#e0a54a]' : 'text-[#9db0a9]'}`}>
        {silent
          ? `The sound cannot be played: ${silent}`
          : instead !== null
            ? `Sound: ${instead}’s own`
            : `Sound: ${said}${follows ? ', cameras with the picture' : ', whatever the picture does'}`}
      </span>
    </span>
  );
}

/** The grid over the place; what plays goes on. */
export function GridAsk({
  day,
  sound,
  playing,
  onPlay,
  onClose,
}: Omit<Props, 'wall' | 'onGrid'> & { onClose: () => void }) {
  return (
    <Ask title="Sound grid" onClose={onClose} width={900}>
      <div className="flex min-h-0 flex-col pt-3">
        <SoundGrid day={day} sound={sound} playing={playing} onPlay={onPlay} focused />
      </div>
      <div className="flex justify-end pt-3">
        <Button onClick={onClose}>Done</Button>
      </div>
    </Ask>
  );
}
