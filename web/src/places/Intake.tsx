import { useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import { get, patch, post } from '../api/client';
import type { DayView, DeviceView, FolderView, NoteView } from '../api/types';
import { Head } from '../frame/Head';
import { Button } from '../parts/Button';
import { Editable } from '../parts/Editable';
import type { KeyLine } from '../parts/KeysDialog';
import { useAsk } from '../parts/message';
import { hue } from '../parts/Stamp';
import { ClipTable } from './ClipTable';

const KEYS: KeyLine[] = [
  ['↑ ↓', 'clip before, clip after'],
  ['shift ↑ ↓', 'choose several'],
  ['ctrl A', 'choose all'],
  ['escape', 'choose none'],
];

/** The place where the day is brought in. */
export function Intake({ day }: { day: DayView }) {
  const total = day.clips.reduce((sum, clip) => sum + clip.facts.duration_s, 0);
  return (
    <>
      <Head day={day} title="Intake" keys={KEYS}>
        <span className="text-soft">
          {day.clips.length} clips · {Math.round(total / 60)} min
        </span>
      </Head>
      <div className="flex min-h-0 flex-1">
        <aside
          aria-label="Folders and devices"
          className="flex w-[252px] shrink-0 flex-col overflow-y-auto border-r border-line px-4 py-3"
        >
          <Folders />
          <Devices day={day} />
        </aside>
        <section aria-label="Clips" className="flex min-w-0 flex-1 flex-col bg-sheet">
          <Notes notes={day.notes} />
          {day.clips.length > 0 ? (
            <ClipTable day={day} />
          ) : (
            <p className="max-w-[520px] p-8 text-[14px]">
              No clips yet. Choose a folder on the left: its sub-folders become devices, and every file in it
              is read, never changed.
            </p>
          )}
        </section>
      </div>
    </>
  );
}

function Folders() {
  const ask = useAsk();
  const folders = useQuery({ queryKey: ['folders'], queryFn: () => get<FolderView[]>('/folders') });
  const [path, setPath] = useState('');
  const takeIn = (folder: string) => void ask(post('/intake', { path: folder }));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (path.trim()) takeIn(path);
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
            <Button small onClick={() => takeIn(root.path)}>
              All of it
            </Button>
          </div>
          <ul>
            {root.folders.map((name) => (
              <li key={name} className="flex h-6 items-center pl-3">
                <button
                  type="button"
                  className="min-w-0 truncate text-left text-soft hover:text-ink hover:underline"
                  title={`Take in ${name} alone`}
                  onClick={() => setPath(`${root.path}/${name}`)}
                >
                  {name}
                </button>
              </li>
            ))}
          </ul>
        </div>
      ))}
      <form onSubmit={submit} className="flex gap-1.5 border-t border-line py-2">
        <input
          aria-label="Path of a folder"
          placeholder="/full/path/of/a/folder"
          value={path}
          onChange={(event) => setPath(event.target.value)}
          className="min-w-0 flex-1 rounded-[3px] border border-line bg-sheet px-2 py-0.5"
        />
        <Button small type="submit" disabled={!path.trim()}>
          Take in
        </Button>
      </form>
    </section>
  );
}

function Devices({ day }: { day: DayView }) {
  const ask = useAsk();
  const save = (device: DeviceView, change: Partial<DeviceView>) =>
    void ask(patch(`/devices/${device.id}`, { letter: device.letter, name: device.name, ...change }));
  return (
    <section aria-label="Devices" className="pt-3">
      <h2 className="pb-1 font-semibold">Devices</h2>
      {day.devices.length === 0 && <p className="text-soft">They are named by their folders.</p>}
      <ul>
        {day.devices.map((device) => (
          <li
            key={device.id}
            className="flex h-7 items-center gap-2 border-t border-line"
            title={`Folder ${device.folder}`}
          >
            <Editable
              label={`Letter of ${device.name}`}
              value={device.letter}
              max={2}
              onSave={(letter) => save(device, { letter })}
              className="num w-6 rounded-[2px] border-[1.5px]! text-center"
            />
            <Editable
              label={`Name of device ${device.letter}`}
              value={device.name}
              onSave={(name) => save(device, { name })}
              className="flex-1"
            />
            <span className="num text-soft">{device.clips}</span>
            <span aria-hidden className="h-3 w-[3px]" style={{ background: hue(day.devices, device.id) }} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function Notes({ notes }: { notes: NoteView[] }) {
  const faults = notes.filter((note) => note.code !== 'skipped');
  const skipped = notes.filter((note) => note.code === 'skipped');
  if (notes.length === 0) return null;
  return (
    <div className="border-b border-line px-4 py-2">
      {faults.length > 0 && (
        <p className="font-semibold text-check">
          {faults.length === 1 ? 'One file could not be read' : `${faults.length} files could not be read`}
        </p>
      )}
      <ul className="max-h-[84px] overflow-y-auto">
        {faults.map((note) => (
          <li key={note.path + note.code} className="py-0.5">
            {note.message}
          </li>
        ))}
      </ul>
      {skipped.length > 0 && (
        <p className="text-soft" title={skipped.map((note) => note.path).join('\n')}>
          Passed over, without sound or moving picture:{' '}
          {skipped
            .map((note) => note.path)
            .slice(0, 4)
            .join(', ')}
          {skipped.length > 4 && ` and ${skipped.length - 4} more`}
        </p>
      )}
    </div>
  );
}
