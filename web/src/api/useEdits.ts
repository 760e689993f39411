import { useQueryClient, type QueryKey } from '@tanstack/react-query';
import { useContext, useMemo, useRef } from 'react';
import { SayContext } from '../parts/message';
import { RefusedError } from './client';

/**
 * Edits of a document that is shown, one after the other, each on the version that the one before made: keys may come faster
 * than answers. What somebody else changed meanwhile is shown, and what is refused is said. `stale` is asked anew after each.
 */
export function useEdits<View>(
  queryKey: QueryKey,
  versionOf: (view: View) => number,
  stale: QueryKey,
): (work: (version: number) => Promise<View>) => Promise<unknown> {
  const client = useQueryClient();
  const say = useContext(SayContext);
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const latest = useRef({ queryKey, versionOf, stale });
  return useMemo(
    () => (work) => {
      const { queryKey, versionOf, stale } = latest.current;
      last.current = last.current.then(async () => {
        try {
          const known = client.getQueryData<View>(queryKey);
          client.setQueryData<View>(queryKey, await work(known === undefined ? 0 : versionOf(known)));
          void client.invalidateQueries({ queryKey: stale });
        } catch (error) {
          // Somebody else changed it: theirs is shown, and this one is said.
          if (error instanceof RefusedError && error.status === 409) {
            await client.invalidateQueries({ queryKey });
          }
          say(error instanceof Error ? error.message : String(error));
        }
      });
      return last.current;
    },
    [client, say],
  );
}
