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

async function request<T>(method: string, path: string, body?: unknown): Promise<T> {
  const blob = body instanceof Blob;
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers: body === undefined || blob ? {} : { 'content-type': 'application/json' },
      body: body === undefined ? null : blob ? body : JSON.stringify(body),
    });
  } catch {
    throw new RefusedError('The server does not answer. Is it still running?', 0);
  }
  if (!response.ok) {
    const refusal = (await response.json().catch(() => null)) as Refusal | null;
    throw new RefusedError(refusal?.error ?? `The server answered ${response.status}.`, response.status);
  }
  return (await response.json()) as T;
}

export const get = <T>(path: string) => request<T>('GET', path);
export const post = <T>(path: string, body: unknown) => request<T>('POST', path, body);
export const patch = <T>(path: string, body: unknown) => request<T>('PATCH', path, body);

/** Sends a file as it is. */
export const postBytes = <T>(path: string, body: Blob) => request<T>('POST', path, body);

/** A document as text. */
export async function getText(path: string): Promise<string> {
  const response = await fetch(`/api${path}`);
  if (!response.ok) {
    const refusal = (await response.json().catch(() => null)) as Refusal | null;
    throw new RefusedError(refusal?.error ?? `The server answered ${response.status}.`, response.status);
  }
  return response.text();
}
