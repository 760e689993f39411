import { useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { useCommands } from '../../api/commands';
import { foldersQuery } from '../../api/queries';
import type { Day } from '../../api/day';
import { Button } from '../../parts/Button';

/** Folders that may be taken in; and where to look for files that moved. */
export function Folders({ day }: { day: Day }) {
  const { takeIn, relink } = useCommands();
  const folders = useQuery(foldersQuery);
  const [path, setPath] = useState('');
  const missing = day.clips.filter((clip) => clip.missing).length;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (path.trim()) void takeIn({ path });
  };
  return (
    <section aria-label="Folders">
      <h2 className="pb-1 font-semibold">Take in a folder</h2>
      {folders.data?.map((root) => (
        <div key={root.path} className="border-t border-line py-1.5">
          <div className="flex items-center gap-2">
            <span className="min-w-0 flex-1 truncate" title={root.path}>
              {root.path.split('/').pop()}
            </span>
            <Button small onClick={() => void takeIn({ path: root.path })}>
              All of it
            </Button>
          </div>
          <ul>
            {root.folders.map((name) => (
              <li key={name} className="flex h-6 items-center pl-3">
                <button
                  type="button"
                  className="min-w-0 truncate text-left text-soft hover:text-ink hover:underline"
                  title={`Put ${name} into the field below`}
                  onClick={() => setPath(`${root.path}/${name}`)}
                >
                  {name}
                </button>
              </li>
            ))}
          </ul>
        </div>
      ))}
      <form onSubmit={submit} className="border-t border-line py-2">
        <input
          aria-label="Path of a folder"
          placeholder="/full/path/of/a/folder"
          value={path}
          onChange={(event) => setPath(event.target.value)}
          className="w-full min-w-0 rounded-[3px] border border-line bg-sheet px-2 py-0.5"
        />
        <div className="flex gap-1.5 pt-1.5">
          <Button small type="submit" disabled={!path.trim()}>
            Take in
          </Button>
          {missing > 0 && (
            <Button small disabled={!path.trim()} onClick={() => void relink({ path })}>
              Find moved files here
            </Button>
          )}
        </div>
        {missing > 0 && (
          <p className="pt-1.5 text-fault">
            {missing === 1 ? 'One file is' : `${missing} files are`} not where{' '}
            {missing === 1 ? 'it was' : 'they were'}. Nothing is lost: name the folder they lie in now.
          </p>
        )}
      </form>
    </section>
  );
}
