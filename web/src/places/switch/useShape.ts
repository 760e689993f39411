import { useQueryClient } from '@tanstack/react-query';
import type { RefObject } from 'react';
import { useCommands, useRefresh } from '../../api/commands';
import { groupQuery, passQuery } from '../../api/queries';
import type { GroupChange, GroupView } from '../../api/types';

/** What was done last to the shape of the group, or taken back, by the versions that there were then. */
export type Shaped = RefObject<{ groups: number; line: number; way: 'undo' | 'redo' } | null>;

type Turning = Record<'undo' | 'redo', (whole?: boolean) => unknown>;

/**
 * Changes of the group itself while its line is cut: a passage that is taken out through all of it. The same key takes it back as
 * takes back a cut, as long as nothing else was done since.
 */
export function useShape({ id }: GroupView, shapedRef: Shaped, line: Turning) {
  const client = useQueryClient();
  const commands = useCommands();
  const refresh = useRefresh();
  const now = () => ({
    groups: client.getQueryData(passQuery.queryKey)?.groups_turns.version,
    line: client.getQueryData(groupQuery(id).queryKey)?.version,
  });
  const done = async (way: 'undo' | 'redo') => {
    await Promise.all([refresh.day(), refresh.group(id)]);
    const { groups, line } = now();
    shapedRef.current = groups === undefined || line === undefined ? null : { groups, line, way };
  };
  const turn = async (way: 'undo' | 'redo', whole?: boolean) => {
    const { groups, line: version } = now();
    const own = shapedRef.current;
    if (own?.way !== way || own.groups !== groups || own.line !== version) return void line[way](whole);
    if (await commands.turnGroups(way)) await done(way === 'undo' ? 'redo' : 'undo');
  };
  return {
    shape: async (change: GroupChange) => {
      const version = now().groups;
      if (version === undefined) return;
      if ((await commands.shape({ version, change })) !== undefined) await done('undo');
    },
    undo: (whole?: boolean) => turn('undo', whole),
    redo: (whole?: boolean) => turn('redo', whole),
  };
}
