import type { GridChange, GridView } from '../../api/types';
import { LOUDEST, SOFTEST, pointOf, sourceSaid } from '../../model/grid';

type Props = { view: GridView; row: number; column: number; onChange: (change: GridChange) => void };

/** What can be done where the chosen track and the chosen output meet. */
export function PointTools({ view, row, column, onChange }: Props) {
  const [source, output] = [view.sources[row], view.grid.outputs[column]];
  if (!source || !output) return null;
  const point = pointOf(view, source.key, column);
  const level = point?.level_db ?? 0;
  const set = (text: string) => {
    const db = Number(text);
    if (text.trim() === '' || Number.isNaN(db) || db === level) return;
    const level_db = Math.max(SOFTEST, Math.min(LOUDEST, db));
    onChange({ do: 'level', source: source.key, output: column, level_db });
  };
  return (
    <div className="flex flex-wrap items-center gap-3 border-t border-line pt-2">
      <b className="max-w-[320px] truncate">
        {sourceSaid(source)} to {output.name}
      </b>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={point?.on ?? false}
          onChange={(event) =>
            onChange({ do: 'cross', source: source.key, output: column, on: event.target.checked })
          }
        />
        goes there
      </label>
      <label className="flex items-center gap-1.5">
        <span className="text-soft">Level</span>
        <input
          // Another crosspoint, or another level, begins anew.
          key={`${row} ${column} ${level}`}
          type="number"
          step={0.1}
          min={SOFTEST}
          max={LOUDEST}
          defaultValue={level}
          aria-label="Level, dB"
          onBlur={(event) => set(event.target.value)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === 'Enter') event.currentTarget.blur();
          }}
          className="num w-[68px] rounded-[3px] border border-line bg-sheet px-1.5"
        />
        <span className="text-soft">dB</span>
      </label>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={point?.inverted ?? false}
          onChange={(event) =>
            onChange({ do: 'invert', source: source.key, output: column, inverted: event.target.checked })
          }
        />
        inverted
      </label>
    </div>
  );
}
