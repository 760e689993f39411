import type { Ear, GridChange, GridView } from '../../api/types';
import { Button } from '../Button';
import { Choice } from '../Choice';
import { Editable } from '../Editable';

type Props = { view: GridView; column: number; onChange: (change: GridChange) => void };

const EARS: readonly [Ear, string][] = [
  ['both', 'on both sides'],
  ['left', 'on the left'],
  ['right', 'on the right'],
];

/** What can be done about the chosen output. */
export function OutputTools({ view, column, onChange }: Props) {
  const output = view.grid.outputs[column];
  if (!output) return null;
  const set = (part: Partial<typeof output>) =>
    onChange({ do: 'output', output: column, now: { ...output, ...part } });
  return (
    <div className="flex flex-wrap items-center gap-3 pt-2">
      <span className="text-soft">Output {column + 1}</span>
      <Editable
        key={column}
        label="Name of the output"
        value={output.name}
        max={80}
        onSave={(name) => set({ name })}
        className="w-[130px] font-semibold"
      />
      <Choice
        label="Heard"
        value={output.ear}
        onChange={(ear) => set({ ear: EARS.find(([own]) => own === ear)?.[0] ?? 'both' })}
      >
        {EARS.map(([ear, word]) => (
          <option key={ear} value={ear}>
            {word}
          </option>
        ))}
      </Choice>
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={output.muted}
          onChange={(event) => set({ muted: event.target.checked })}
        />
        muted
      </label>
      <label
        className="flex items-center gap-1.5"
        title="what cameras heard is there only while they are shown"
      >
        <input
          type="checkbox"
          checked={output.follows}
          onChange={(event) => set({ follows: event.target.checked })}
        />
        cameras follow the picture
      </label>
      <Button
        small
        disabled={view.grid.outputs.length < 2}
        onClick={() => onChange({ do: 'remove_output', output: column })}
      >
        Remove
      </Button>
    </div>
  );
}
