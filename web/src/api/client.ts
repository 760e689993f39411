/** Talking to the server: typed requests, refusals as sentences. */
import type { Refusal } from './types';

/** What the server refused, in its own words. */
export class RefusedError extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

/** So much, in letters, is sent to its end even where the page is closed: browsers let 64 KB be on their way. */
const OUTLIVES = 8192;

async function answer(method: string, path: string, body?: unknown): Promise<Response> {
  const blob = body instanceof Blob;
  const sent = body === undefined ? null : blob ? body : JSON.stringify(body);
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers: body === undefined || blob ? {} : { 'content-type': 'application/json' },
      body: sent,
      keepalive: typeof sent === 'string' && sent.length < OUTLIVES,
    });
  } catch {
    throw new RefusedError('The server does not answer. Is it still running?', 0);
  }
  if (!response.ok) {
    const refusal = (await response.json().catch(() => null)) as Refusal | null;
    throw new RefusedError(refusal?.error ?? `The server answered ${response.status}.`, response.status);
  }
  return response;
}

async function request<T>(method: string, path: string, body?: unknown): Promise<T> {
  return (await (await answer(method, path, body)).json()) as T;
}

export const get = <T>(path: string) => request<T>('GET', path);
export const post = <T>(path: string, body: unknown) => request<T>('POST', path, body);
export const patch = <T>(path: string, body: unknown) => request<T>('PATCH', path, body);

/** Sends a file as it is. */
export const postBytes = <T>(path: string, body: Blob) => request<T>('POST', path, body);

/** A document as text. */
export const getText = async (path: string) => (await answer('GET', path)).text();

/** A file's bytes. */
export const getBytes = async (path: string) => (await answer('GET', path)).arrayBuffer();
