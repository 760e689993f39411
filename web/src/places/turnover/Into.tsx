import type { SoundChange, SoundView } from '../../api/types';
import { Choice } from '../../parts/Choice';
import { Editable } from '../../parts/Editable';

type Props = { view: SoundView; onChange: (change: SoundChange) => void };

/** Where files go: to the production's own folder, or to one of those that the server was told of, or below it. */
export function Into({ view, onChange }: Props) {
  const { folder } = view.habit;
  const root = view.folders.find((own) => folder === own || folder.startsWith(`${own}/`)) ?? '';
  const go = (to: string) => onChange({ do: 'folder', folder: to });
  return (
    <div className="flex flex-col items-end gap-1 pt-1">
      <Choice label="Into" value={root} onChange={go}>
        <option value="">the production’s</option>
        {view.folders.map((own) => (
          <option key={own} value={own}>
            {own}
          </option>
        ))}
      </Choice>
      {root && (
        <Editable
          label="Folder below it"
          value={folder.slice(root.length + 1)}
          max={200}
          placeholder="folder below it"
          onSave={(below) => go(below ? `${root}/${below}` : root)}
          className="num w-[124px] border-line"
        />
      )}
    </div>
  );
}
