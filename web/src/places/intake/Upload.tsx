import { useRef, useState, type DragEvent, type ReactNode } from 'react';
import { bytes } from '../../model/format';
import { useAsk } from '../../parts/message';
import { chosenFiles, filesOf, upload, type Dropped, type Progress } from '../../api/upload';

type Sending = { files: number; sent: number; total: number; reading: boolean } | null;

/** Takes files that are dropped anywhere on the place, and files chosen in a dialog. */
export function useUpload() {
  const ask = useAsk();
  const [sending, setSending] = useState<Sending>(null);
  const stop = useRef<AbortController | null>(null);
  const send = async (files: Dropped[]) => {
    if (files.length === 0 || stop.current) return;
    const total = files.reduce((sum, one) => sum + one.file.size, 0);
    stop.current = new AbortController();
    const show = ({ done, reading }: Progress) =>
      setSending({ files: files.length, sent: done, total, reading });
    show({ done: 0, reading: true });
    await ask(upload(files, show, stop.current.signal));
    stop.current = null;
    setSending(null);
  };
  return { sending, send, stop: () => stop.current?.abort() };
}

type Uploading = ReturnType<typeof useUpload>;

/** A place that files can be dropped on. */
export function DropArea({ uploading, children }: { uploading: Uploading; children: ReactNode }) {
  const [over, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void filesOf(event.dataTransfer.items).then(uploading.send);
  };
  return (
    <div
      className={`flex min-h-0 flex-1 ${over ? 'outline-2 -outline-offset-2 outline-accent' : ''}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (event.currentTarget === event.target) setOver(false);
      }}
      onDrop={drop}
    >
      {children}
    </div>
  );
}

/** Files from this computer: how to send them, and how far they are. */
export function UploadPart({ uploading }: { uploading: Uploading }) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const { sending } = uploading;
  const choose = (field: HTMLInputElement) => {
    if (field.files) void uploading.send(chosenFiles(field.files));
    field.value = '';
  };
  if (sending) {
    return (
      <section aria-label="Upload" className="border-t border-line py-2">
        <div className="flex justify-between">
          <span>
            {sending.reading ? 'Reading' : 'Sending'} {sending.files} {sending.files === 1 ? 'file' : 'files'}
          </span>
          <button type="button" className="text-soft underline" onClick={uploading.stop}>
            stop
          </button>
        </div>
        <div
          role="progressbar"
          aria-label="Upload"
          aria-valuemin={0}
          aria-valuemax={sending.total}
          aria-valuenow={sending.sent}
          className="my-1 h-[3px] bg-line"
        >
          <div
            className="h-full bg-accent"
            style={{ width: `${(100 * sending.sent) / Math.max(sending.total, 1)}%` }}
          />
        </div>
        <span className="num text-[12px] text-soft">
          {bytes(sending.sent)} of {bytes(sending.total)}
        </span>
      </section>
    );
  }
  return (
    <section aria-label="Upload" className="border-t border-line py-2 text-soft">
      Or drop files here, or choose{' '}
      <button type="button" className="text-ink underline" onClick={() => files.current?.click()}>
        files
      </button>{' '}
      or{' '}
      <button type="button" className="text-ink underline" onClick={() => folder.current?.click()}>
        a folder
      </button>{' '}
      of this computer.
      <input
        ref={files}
        type="file"
        multiple
        hidden
        aria-label="Files to send"
        onChange={(event) => choose(event.target)}
      />
      <input
        ref={folder}
        type="file"
        hidden
        aria-label="Folder to send"
        {...{ webkitdirectory: '' }}
        onChange={(event) => choose(event.target)}
      />
    </section>
  );
}
