import { useMemo } from 'react';
import { send } from '../../api/commands';
import { groupQuery, keys } from '../../api/queries';
import type { GroupView, LineEdit } from '../../api/types';
import { useEdits } from '../../api/useEdits';

const versionOf = ({ version }: GroupView) => version;

/** Edits of the line of a group. */
export function useLine({ id }: GroupView) {
  const next = useEdits(groupQuery(id).queryKey, versionOf, keys.day);
  return useMemo(
    () => ({
      edit: (edit: LineEdit) => next((version) => send.cut(id, { version, edit })),
      /** All of a live run, or its last switch. */
      undo: (whole = true) => next((version) => send.turnLine(id, 'undo', { version, whole })),
      redo: (whole = true) => next((version) => send.turnLine(id, 'redo', { version, whole })),
    }),
    [id, next],
  );
}
