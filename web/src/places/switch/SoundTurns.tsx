import type { Day } from '../../api/day';
import type { GroupView, LineEdit } from '../../api/types';
import { angleName, angleOf } from '../../model/angles';
import { timecode } from '../../model/format';
import { BLACK } from '../../model/onAir';
import { Button } from '../../parts/Button';
import { Frames } from '../../parts/Frames';

type Props = {
  day: Day;
  view: GroupView;
  /** The stretch that keys mend, where they mend what is heard. */
  chosen: number | null;
  onSeek: (frame: number) => void;
  onEdit: (edit: LineEdit) => void;
};

/** Where other sound is heard than what comes out of the grid: from when on, over how many frames it comes. */
export function SoundTurns({ day, view: { group, line }, chosen, onSeek, onEdit }: Props) {
  const switches = line.sound?.switches ?? [];
  if (switches.length === 0) return null;
  const label = (at: number) => timecode({ ...group.start, frames: group.start.frames + at });
  const name = (id: number) => (id === BLACK ? 'grid' : angleName(day, group, angleOf(group, id)));
  const ofSound = (edit: LineEdit) => onEdit({ do: 'sound', edit });
  return (
    <section aria-label="Sound switches" className="flex max-h-[30%] flex-col border-t border-line pt-2">
      <h2 className="pb-1 text-[14px] font-semibold">Sound</h2>
      <ul className="min-h-0 overflow-y-auto">
        {switches.map((one, index) => (
          <li
            key={one.at}
            aria-current={index === chosen}
            className={`flex h-8 items-center gap-2 border-t border-line ${index === chosen ? 'bg-band' : ''}`}
          >
            <button type="button" className="num hover:underline" onClick={() => onSeek(one.at)}>
              {label(one.at)}
            </button>
            <span className="min-w-0 flex-1 truncate">{name(one.angle)}</span>
            {index > 0 && (
              <>
                <Frames
                  label="over"
                  value={one.dissolve ?? 0}
                  onSet={(frames) => ofSound({ do: 'dissolve', index, frames })}
                />
                <Button
                  small
                  aria-label={`Take the sound cut at ${label(one.at)} out`}
                  onClick={() => ofSound({ do: 'remove', index })}
                >
                  ×
                </Button>
              </>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
