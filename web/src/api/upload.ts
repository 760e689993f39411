/** Sending files to the server piece by piece: what broke off goes on where it was. */
import { createBLAKE3 } from 'hash-wasm';
import { get, RefusedError } from './client';
import { send } from './commands';
import type { Arrived, Refusal } from './types';

/** A file and the path it had in what was dropped. */
export type Dropped = { path: string; file: File };

/** Bytes of a piece. */
const PIECE = 8 << 20;
/** Times a broken piece is tried again. */
const TRIES = 4;

/** What was dropped, folders and all. */
export async function filesOf(items: DataTransferItemList): Promise<Dropped[]> {
  const entries = [...items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
  const found = await Promise.all(entries.map((entry) => walk(entry)));
  return found.flat();
}

async function walk(entry: FileSystemEntry): Promise<Dropped[]> {
  const path = entry.fullPath.replace(/^\//, '');
  if (entry.name.startsWith('.')) return [];
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) =>
      (entry as FileSystemFileEntry).file(resolve, reject),
    );
    return [{ path, file }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const all: FileSystemEntry[] = [];
  // A reader gives a hundred entries at a time, and none at the end.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (some.length === 0) break;
    all.push(...some);
  }
  return (await Promise.all(all.map(walk))).flat();
}

/** What a file field holds. */
export const chosenFiles = (files: FileList): Dropped[] =>
  [...files].map((file) => ({ path: file.webkitRelativePath || file.name, file }));

/** How far the sending is: bytes of all files, and whether one is being read through first. */
export type Progress = { done: number; reading: boolean };

/** Sends all files, then takes them in. */
export async function upload(files: Dropped[], onProgress: (at: Progress) => void, stop: AbortSignal) {
  let before = 0;
  for (const { path, file } of files) {
    const at = (reading: boolean) => (done: number) => onProgress({ done: before + done, reading });
    // What is sent is bound to its content: no other file of the same name goes on in it, and what arrives is checked.
    const content = await contentOf(file, at(true), stop);
    const ask = `path=${encodeURIComponent(path)}&size=${file.size}&blake3=${content}`;
    let { have, complete } = await get<Arrived>(`/uploads?${ask}`);
    while (!complete) {
      at(false)(have);
      ({ have, complete } = await piece(ask, file, have, stop));
    }
    before += file.size;
    onProgress({ done: before, reading: false });
  }
  await send.uploadsDone();
}

const STOPPED = 'The upload was stopped; drop the same files to go on.';

/** BLAKE3 of a file, read piece by piece. */
async function contentOf(file: File, onRead: (bytes: number) => void, stop: AbortSignal): Promise<string> {
  const hash = await createBLAKE3();
  for (let from = 0; from < file.size; from += PIECE) {
    if (stop.aborted) throw new RefusedError(STOPPED, 0);
    const piece = await file
      .slice(from, from + PIECE)
      .arrayBuffer()
      .catch(() => {
        throw new RefusedError(`${file.name} cannot be read on this computer; is its card still there?`, 0);
      });
    hash.update(new Uint8Array(piece));
    onRead(Math.min(from + PIECE, file.size));
  }
  return hash.digest();
}

async function piece(ask: string, file: File, from: number, stop: AbortSignal): Promise<Arrived> {
  for (let tries = 1; ; tries++) {
    try {
      const body = file.slice(from, from + PIECE);
      const response = await fetch(`/api/uploads?${ask}&offset=${from}`, {
        method: 'PUT',
        body,
        signal: stop,
      });
      if (response.ok) return (await response.json()) as Arrived;
      const refusal = (await response.json().catch(() => null)) as Refusal | null;
      throw new RefusedError(refusal?.error ?? `The server answered ${response.status}.`, response.status);
    } catch (error) {
      if (stop.aborted) throw new RefusedError(STOPPED, 0);
      if (error instanceof RefusedError) throw error;
      if (tries === TRIES)
        throw new RefusedError('The connection broke off; drop the same files to go on.', 0);
      // The connection broke: what arrived stays, and says where to go on.
      await new Promise((resolve) => setTimeout(resolve, 500 * tries));
      const now = await get<Arrived>(`/uploads?${ask}`).catch(() => null);
      if (now) return now;
    }
  }
}
