import { useState } from 'react';
import { useCommands } from '../../api/commands';
import type { LogColumn, LogPreview } from '../../api/types';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { FilePick } from '../../parts/FilePick';

const MEANING: Record<LogColumn, string> = {
  scene: 'scene',
  take: 'take',
  camera: 'camera',
  picture: 'picture file',
  sound: 'sound file',
  circled: 'circled',
  notes: 'notes',
  ignore: 'not used',
};

const SEPARATORS: [string, string][] = [
  [',', 'comma'],
  [';', 'semicolon'],
  ['\t', 'tab'],
  ['|', 'upright line'],
];

/** Takes a slate log in: shown as it would be read, its columns to be put right, then taken. */
export function SlateLogPart() {
  const { readLog, edit } = useCommands();
  const [file, setFile] = useState<File | null>(null);
  const [preview, setPreview] = useState<LogPreview | null>(null);
  const read = async (from: File, columns?: LogColumn[], separator?: string) => {
    const how = new URLSearchParams();
    if (columns) how.set('columns', columns.join(','));
    if (separator) how.set('separator', separator);
    const found = await readLog(how, from);
    if (found) setPreview(found);
    return found;
  };
  const close = () => {
    setFile(null);
    setPreview(null);
  };
  const take = async () => {
    if (!file || !preview) return;
    const log = { name: file.name, log: preview.log };
    await edit({ do: 'take_log', log });
    close();
  };
  return (
    <section aria-label="Slate log" className="border-t border-line py-2">
      <FilePick
        small
        word="Slate log…"
        label="Slate log to take in"
        accept=".csv,.tsv,.txt"
        onFiles={([chosen]) => chosen && void read(chosen).then((found) => found && setFile(chosen))}
      />
      <Ask title={<>Slate log {file?.name}</>} open={!!file && !!preview} onClose={close} width={980}>
        {preview && file && (
          <>
            <p className="flex items-center gap-2 py-2 text-soft">
              {preview.log.rows.length} takes · {preview.encoding} · fields separated by
              <select
                aria-label="What separates the fields"
                value={preview.separator}
                onChange={(event) => void read(file, undefined, event.target.value)}
                className="rounded-[3px] border border-line bg-sheet px-1 py-0.5 text-ink"
              >
                {SEPARATORS.map(([sign, name]) => (
                  <option key={name} value={sign}>
                    {name}
                  </option>
                ))}
              </select>
            </p>
            <div
              className="min-h-0 overflow-auto border-y border-line"
              tabIndex={0}
              role="group"
              aria-label="The first lines"
            >
              <table className="w-full text-left text-[12px]">
                <thead>
                  <tr>
                    {preview.headers.map((header, i) => (
                      <th key={i} scope="col" className="border-b border-line px-2 py-1 font-normal">
                        <div className="truncate">{header || `column ${i + 1}`}</div>
                        <select
                          aria-label={`What ${header || `column ${i + 1}`} means`}
                          value={preview.columns[i] ?? 'ignore'}
                          onChange={(event) => {
                            const columns = preview.headers.map((_, at) => preview.columns[at] ?? 'ignore');
                            columns[i] = event.target.value as LogColumn;
                            void read(file, columns, preview.separator);
                          }}
                          className={`rounded-[3px] border border-line bg-sheet py-0.5 ${preview.columns[i] === 'ignore' ? 'text-soft' : ''}`}
                        >
                          {Object.entries(MEANING).map(([value, word]) => (
                            <option key={value} value={value}>
                              {word}
                            </option>
                          ))}
                        </select>
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {preview.lines.map((line, i) => (
                    <tr key={i}>
                      {preview.headers.map((_, at) => (
                        <td key={at} className="num max-w-[180px] truncate border-b border-line px-2 py-1">
                          {line[at] ?? ''}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          </>
        )}
        <div className="flex justify-end gap-2 pt-3">
          <Button onClick={close}>Leave it</Button>
          <Button main disabled={!preview || preview.log.rows.length === 0} onClick={() => void take()}>
            Take the log
          </Button>
        </div>
      </Ask>
    </section>
  );
}
