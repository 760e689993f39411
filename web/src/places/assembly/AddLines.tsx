import { useState } from 'react';
import type { Day } from '../../api/day';
import { frameCount } from '../../model/format';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';

type Props = { day: Day; onAdd: (groups: number[]) => void; onClose: () => void };

/** Which groups' lines are added, in the order in which they are ticked. */
export function AddLines({ day, onAdd, onClose }: Props) {
  const [ticked, setTicked] = useState<readonly number[]>([]);
  const tick = (id: number) =>
    setTicked(ticked.includes(id) ? ticked.filter((own) => own !== id) : [...ticked, id]);
  const add = (groups: readonly number[]) => {
    onAdd([...groups]);
    onClose();
  };
  return (
    <Ask title="Add lines" onClose={onClose}>
      <p className="pt-1 text-soft">They are added in the order in which they are ticked.</p>
      <ul aria-label="Groups" className="my-3 min-h-0 overflow-y-auto border-t border-line">
        {day.groups.map(({ id, group, switches }, i) => {
          const place = ticked.indexOf(id);
          return (
            <li key={id} className="border-b border-line">
              <label className="flex h-8 items-center gap-3">
                <input
                  type="checkbox"
                  data-autofocus={i === 0 ? true : undefined}
                  checked={place >= 0}
                  onChange={() => tick(id)}
                />
                <span className="num w-6 text-soft">{place >= 0 ? place + 1 : ''}</span>
                <span className="min-w-0 flex-1 truncate">{group.name}</span>
                <span className="text-soft">{switches > 1 ? `${switches} stretches` : 'not cut yet'}</span>
                <span className="num w-20 text-right text-soft">
                  {frameCount(group.frames, group.start.rate)}
                </span>
              </label>
            </li>
          );
        })}
      </ul>
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button onClick={() => add(day.groups.map(({ id }) => id))}>Add all</Button>
        <Button disabled={ticked.length === 0} onClick={() => add(ticked)}>
          {`Add ${ticked.length}`}
        </Button>
      </div>
    </Ask>
  );
}
