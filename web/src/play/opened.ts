import { ALL_FORMATS, Input, UrlSource } from 'mediabunny';

/** Bytes of a file that are kept: half a minute of a light copy. What is gone back to further than that comes again from beside. */
const KEPT = 4 * 2 ** 20;

/** A file of the server that is read piece by piece: however long it plays, no more of it is held than that. */
export const opened = (path: string) =>
  new Input({ formats: ALL_FORMATS, source: new UrlSource(path, { maxCacheSize: KEPT }) });
