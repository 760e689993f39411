/** Everything the page does at the server: each command with its types, once. */
import { useQueryClient } from '@tanstack/react-query';
import { useCallback, useContext, useMemo } from 'react';
import { SayContext } from '../parts/message';
import { patch, post, postBytes } from './client';
import { keys } from './queries';
import type {
  AcceptGroups,
  AssemblySummary,
  AssemblyView,
  ByHand,
  ChangeBreak,
  Declare,
  EditAssembly,
  EditGroups,
  EditLine,
  EditSound,
  FilmStep,
  FilmsOrdered,
  FormatGroup,
  GoBack,
  GridStep,
  GridView,
  GroupNamed,
  GroupView,
  GroupsMade,
  IntakeChange,
  JobSummary,
  KeptLineView,
  LineRead,
  LogPreview,
  LookAt,
  LutView,
  MakeAssembly,
  MakeFirstCut,
  MakeMusicCut,
  MergeGroups,
  NameGroups,
  NameLine,
  NamePass,
  NewDevice,
  NudgeClip,
  OrderFilms,
  PutAside,
  RelayClips,
  SetAside,
  StartPass,
  TakeClip,
  TakeIn,
  TurnAssembly,
  Turned,
  Versioned,
  Want,
  WriteSound,
} from './types';

/** The commands: what each sends, and what comes back. */
export const send = {
  takeIn: (body: TakeIn) => post<null>('/intake', body),
  relink: (body: TakeIn) => post<null>('/intake/relink', body),
  edit: (body: IntakeChange) => post<null>('/intake/edits', body),
  turnIntake: (way: 'undo' | 'redo') => post<Turned>(`/intake/edits/${way}`, {}),
  turnShown: (way: 'undo' | 'redo') => post<Turned>(`/shown/edits/${way}`, {}),
  turnPass: (pass: number, way: 'undo' | 'redo') => post<Turned>(`/passes/${pass}/edits/${way}`, {}),
  shape: (body: EditGroups) => post<null>('/groups/edits', body),
  turnGroups: (way: 'undo' | 'redo') => post<Turned>(`/groups/edits/${way}`, {}),
  merge: (body: MergeGroups) => post<GroupsMade>('/groups/merge', body),
  nameGroups: (body: NameGroups) => post<GroupNamed[]>('/groups/names', body),
  takeClipIn: (group: number, body: TakeClip) => post<null>(`/groups/${group}/take-in`, body),
  nudge: (group: number, body: NudgeClip) => post<null>(`/groups/${group}/nudge`, body),
  relay: (group: number, body: RelayClips) => post<null>(`/groups/${group}/relay`, body),
  formatGroup: (group: number, body: FormatGroup) => post<GroupsMade>(`/groups/${group}/format`, body),
  grid: (group: number, body: GridStep) => post<GridView>(`/groups/${group}/grid`, body),
  accept: (body: AcceptGroups) => post<GroupsMade>('/groups/accept', body),
  newDevice: (body: NewDevice) => post<null>('/intake/device', body),
  readLog: (how: URLSearchParams, log: Blob) => postBytes<LogPreview>(`/intake/log?${how}`, log),
  keepLine: (group: number, body: NameLine) => post<KeptLineView[]>(`/groups/${group}/lines`, body),
  nameLine: (group: number, line: number, body: NameLine) =>
    patch<KeptLineView[]>(`/groups/${group}/lines/${line}`, body),
  readLine: (group: number, file: File) =>
    postBytes<LineRead>(
      `/groups/${group}/lines/read?name=${encodeURIComponent(file.name.slice(0, 80))}`,
      file,
    ),
  goBackTo: (group: number, line: number, body: GoBack) =>
    post<GroupView>(`/groups/${group}/lines/${line}`, body),
  firstCut: (group: number, body: MakeFirstCut) => post<KeptLineView[]>(`/groups/${group}/first-cut`, body),
  musicCut: (group: number, body: MakeMusicCut) => post<KeptLineView[]>(`/groups/${group}/music-cut`, body),
  bringLut: (file: File) => postBytes<LutView>(`/luts?file=${encodeURIComponent(file.name)}`, file),
  again: (clip: number) => post<null>(`/clips/${clip}/again`, {}),
  want: (body: Want) => post<null>('/clips/want', body),
  uploadsDone: () => post<null>('/uploads/done', {}),
  clearStorage: () => post<null>('/storage/clear', {}),
  job: (kind: JobSummary['kind'], what: 'stop' | 'resume') => post<null>(`/jobs/${kind}/${what}`, {}),
  pass: (body: StartPass) => post<null>('/passes', body),
  namePass: (pass: number, body: NamePass) => patch<null>(`/passes/${pass}`, body),
  showPass: (pass: number) => post<null>(`/passes/${pass}/show`, {}),
  look: (body: LookAt) => post<null>('/looks', body),
  turnRound: (way: 'undo' | 'redo') => post<Turned>(`/looks/edits/${way}`, {}),
  declare: (body: Declare) => post<null>('/checked', body),
  layByHand: (body: ByHand) => post<null>('/placements/hand', body),
  changeBreak: (body: ChangeBreak) => post<null>('/placements/breaks', body),
  setAside: (body: SetAside) => post<null>('/placements/aside', body),
  editSound: (body: EditSound) => post<null>('/sound/edits', body),
  turnSound: (way: 'undo' | 'redo') => post<Turned>(`/sound/edits/${way}`, {}),
  writeSound: (body: WriteSound) => post<null>('/sound/write', body),
  orderFilms: (body: OrderFilms) => post<FilmsOrdered>('/films', body),
  film: (id: number, step: FilmStep) => post<null>(`/films/${id}/${step}`, {}),
  forgetFilms: () => post<null>('/films/done/forget', {}),
  makeAssembly: (body: MakeAssembly) => post<AssemblyView>('/assemblies', body),
  assemble: (id: number, body: EditAssembly) => post<AssemblyView>(`/assemblies/${id}`, body),
  turnAssembly: (id: number, body: TurnAssembly) => post<AssemblyView>(`/assemblies/${id}/turn`, body),
  putAssemblyAside: (id: number, body: PutAside) => post<AssemblySummary[]>(`/assemblies/${id}/aside`, body),
  cut: (group: number, body: EditLine) => post<GroupView>(`/groups/${group}/line`, body),
  turnLine: (group: number, way: 'undo' | 'redo', body: Versioned) =>
    post<GroupView>(`/groups/${group}/line/${way}`, body),
};

type Commands = typeof send;
/** A command that is run by a hand: what was refused is said, and gives nothing. */
type Said<F> = F extends (...with_: infer A) => Promise<infer T>
  ? (...with_: A) => Promise<T | undefined>
  : never;

/** The commands for a place: a refusal is said at the foot of the page, not swallowed. */
export function useCommands(): { [K in keyof Commands]: Said<Commands[K]> } {
  const say = useContext(SayContext);
  return useMemo(() => {
    const said =
      (run: (...with_: never[]) => Promise<unknown>) =>
      async (...with_: never[]) => {
        try {
          return await run(...with_);
        } catch (error) {
          say(error instanceof Error ? error.message : String(error));
          return undefined;
        }
      };
    const all = Object.entries(send).map(([name, run]) => [name, said(run)]);
    return Object.fromEntries(all) as { [K in keyof Commands]: Said<Commands[K]> };
  }, [say]);
}

/** Asks for the day, and a group of it, anew. */
export function useRefresh() {
  const client = useQueryClient();
  return useMemo(
    () => ({
      day: () => {
        // A group that nobody looks at is not shown as it was when somebody does.
        client.removeQueries({ queryKey: keys.groups, type: 'inactive' });
        return Promise.all([
          client.invalidateQueries({ queryKey: keys.day }),
          client.invalidateQueries({ queryKey: keys.pass }),
          // The groups themselves, and not what was worked out of them.
          client.invalidateQueries({
            queryKey: keys.groups,
            predicate: ({ queryKey }) => queryKey.length === 2,
          }),
        ]);
      },
      group: (id: number) => client.invalidateQueries({ queryKey: keys.group(id) }),
      storage: () => client.invalidateQueries({ queryKey: keys.storage }),
    }),
    [client],
  );
}

/** Says what was taken back, or made again. */
export function useTurned() {
  const say = useContext(SayContext);
  return useCallback(
    (way: 'undo' | 'redo', turned: Turned | undefined) =>
      turned && say(`${way === 'undo' ? 'Taken back' : 'Made again'}: ${turned.what}`),
    [say],
  );
}
