import type { Day } from '../../api/day';
import type { GroupView, Layer, LineEdit } from '../../api/types';
import { angleName, angleOf } from '../../model/angles';
import { timecode } from '../../model/format';
import { stemOf } from '../../model/names';
import { layerAt } from '../../model/over';
import { Button } from '../../parts/Button';
import { useWall } from '../../play/useWall';
import type { Look, Wall } from '../../play/wall';
import { Frames } from '../../parts/Frames';
import { Percent } from '../../parts/Percent';

type Props = {
  day: Day;
  view: GroupView;
  wall: Wall;
  onSeek: (frame: number) => void;
  onEdit: (edit: LineEdit) => void;
};

/** What lies over the line: from when on, how long, at which speed, from which frame of its clip. */
export function Layers({ day, view: { group, line }, wall, onSeek, onEdit }: Props) {
  const layers = line.layers ?? [];
  const here = useWall(wall, (state) => layerAt(layers, state.frame));
  if (layers.length === 0) return null;
  const label = (at: number) => timecode({ ...group.start, frames: group.start.frames + at });
  return (
    <section aria-label="Layers" className="flex max-h-[40%] flex-col border-t border-line pt-2">
      <h2 className="pb-1 text-[14px] font-semibold">
        Over the line <span className="font-normal text-soft">{layers.length}</span>
      </h2>
      <ul className="min-h-0 overflow-y-auto">
        {layers.map((layer, index) => {
          const change = (to: Partial<Layer>) => onEdit({ do: 'relay', index, layer: { ...layer, ...to } });
          const name = stemOf(day, layer.clip);
          return (
            <li
              key={index}
              data-layer={index}
              className={`border-t border-line py-1 ${index === here ? 'bg-band' : ''}`}
            >
              <div className="flex items-center gap-2">
                <button type="button" className="num hover:underline" onClick={() => onSeek(layer.at)}>
                  {label(layer.at)}
                </button>
                <span className="min-w-0 flex-1 truncate" title={name}>
                  {name}
                </span>
                <Button
                  small
                  aria-label={`Lift ${name} at ${label(layer.at)}`}
                  onClick={() => onEdit({ do: 'lift', index })}
                >
                  ×
                </Button>
              </div>
              {index === here && (
                <div className="flex flex-wrap items-center gap-1.5 pt-1">
                  <Frames label="For" value={layer.frames} onSet={(frames) => change({ frames })} />
                  <Frames label="from its" value={layer.from} onSet={(from) => change({ from, skip: 0 })} />
                  <Percent value={layer.speed} onSet={(speed) => change({ speed })} />
                  <Button small onClick={() => change({ blended: !layer.blended })}>
                    {layer.blended ? 'Blended' : 'Whole frames'}
                  </Button>
                  {day.clips.some(({ id, facts }) => id === layer.clip && facts.sound) && (
                    <Button small onClick={() => change({ own_sound: !layer.own_sound })}>
                      {layer.own_sound ? 'Its own sound' : 'The line’s sound'}
                    </Button>
                  )}
                  <Button
                    small
                    aria-label="The layer a frame earlier"
                    disabled={layer.at === 0}
                    onClick={() => change({ at: layer.at - 1 })}
                  >
                    −1 f
                  </Button>
                  <Button
                    small
                    aria-label="The layer a frame later"
                    onClick={() => change({ at: layer.at + 1 })}
                  >
                    +1 f
                  </Button>
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

type OverProps = Pick<Props, 'day' | 'view' | 'wall'> & { look: Look | null };

/** What is seen instead of the line at the frame on screen, over the picture: a layer, or what is looked at below it. */
export function OverLabel({ day, view: { group, line }, wall, look }: OverProps) {
  const layers = line.layers ?? [];
  const here = useWall(wall, (state) => layerAt(layers, state.frame));
  const layer = layers[here];
  const said = look
    ? look.angle === null
      ? 'without what lies over it'
      : `a look at ${angleName(day, group, angleOf(group, look.angle))}`
    : layer && `${stemOf(day, layer.clip)} over the line`;
  return said ? (
    <span data-testid="over" className="absolute top-2.5 left-3 bg-black/60 px-1.5 py-0.5 text-[12px]">
      {said}
    </span>
  ) : null;
}
