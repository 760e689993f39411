import { useQueryClient } from '@tanstack/react-query';
import { useContext, useMemo, useRef } from 'react';
import { RefusedError } from '../../api/client';
import { send } from '../../api/commands';
import { groupQuery, keys } from '../../api/queries';
import type { GroupView, LineEdit } from '../../api/types';
import { SayContext } from '../../parts/message';

/** Edits of the line, one after the other, each on the version it was made on. */
export function useLine({ id }: GroupView) {
  const client = useQueryClient();
  const say = useContext(SayContext);
  const last = useRef<Promise<unknown>>(Promise.resolve());
  return useMemo(() => {
    const { queryKey } = groupQuery(id);
    const next = (work: (version: number) => Promise<GroupView>) => {
      last.current = last.current.then(async () => {
        try {
          const newer = await work(client.getQueryData(queryKey)?.version ?? 0);
          client.setQueryData(queryKey, newer);
          void client.invalidateQueries({ queryKey: keys.day });
        } catch (error) {
          // Somebody else changed it: theirs is shown, and this one is said.
          if (error instanceof RefusedError && error.status === 409) {
            await client.invalidateQueries({ queryKey });
          }
          say(error instanceof Error ? error.message : String(error));
        }
      });
      return last.current;
    };
    return {
      edit: (edit: LineEdit) => next((version) => send.cut(id, { version, edit })),
      /** All of a live run, or its last switch. */
      undo: (whole = true) => next((version) => send.turnLine(id, 'undo', { version, whole })),
      redo: (whole = true) => next((version) => send.turnLine(id, 'redo', { version, whole })),
    };
  }, [client, id, say]);
}
