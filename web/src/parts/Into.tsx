import { Choice } from './Choice';
import { Editable } from './Editable';

type Props = {
  /** Where they go; the production’s own folder where empty. */
  folder: string;
  /** What there is beside that. */
  folders: readonly string[];
  onFolder: (folder: string) => void;
};

/** Where files go: to the production's own folder, or to one of those that the server was told of, or below it. */
export function Into({ folder, folders, onFolder }: Props) {
  const root = folders.find((own) => folder === own || folder.startsWith(`${own}/`)) ?? '';
  return (
    <div className="flex flex-col items-end gap-1 pt-1">
      <Choice label="Into" value={root} onChange={onFolder}>
        <option value="">its own folder</option>
        {folders.map((own) => (
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
          onSave={(below) => onFolder(below ? `${root}/${below}` : root)}
          className="num w-[124px] border-line"
        />
      )}
    </div>
  );
}
