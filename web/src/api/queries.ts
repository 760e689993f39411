/** Everything the page asks for: each question with its key, its type and when it is asked anew, once. */
import { queryOptions, skipToken } from '@tanstack/react-query';
import type { Course } from '../model/left';
import { Lut } from '../model/lut';
import { get, getBytes, getText, post } from './client';
import type {
  BundleView,
  PrinterView,
  AssemblySummary,
  AssemblyView,
  AngleBalance,
  ArrivingClip,
  Beside,
  Changed,
  CheckPoint,
  ClapView,
  ClipDetail,
  ClipView,
  DayView,
  DriftView,
  FilmsView,
  FirstCutView,
  FolderView,
  GroupBy,
  GroupNamed,
  GridView,
  GroupView,
  HeardView,
  JobSummary,
  KeptLineView,
  LutView,
  MovedClip,
  NameGroups,
  Needle,
  PeaksView,
  Proposed,
  QuietView,
  SeenClap,
  ShownPass,
  SomeClips,
  SoundView,
  StorageView,
} from './types';

/** Samples a second of what is matched. */
export const MATCHED_RATE = 16_000;

/** Groups by what makes them stale. */
export const keys = {
  day: ['day'],
  pass: ['pass'],
  jobs: ['jobs'],
  group: (id: number) => ['group', id],
  groups: ['group'],
  levels: ['levels'],
  course: ['course'],
  arriving: ['arriving'],
  sound: ['sound'],
  films: ['films'],
  luts: ['luts'],
  assemblies: ['assemblies'],
  anyAssembly: ['assembly'],
  assembly: (id: number) => ['assembly', id],
  storage: ['storage'],
} as const;

/** The files of the day, what is chosen and remarked of them. */
export const dayQuery = queryOptions({ queryKey: keys.day, queryFn: () => get<DayView>('/day') });

/** Some clips as they are now: what changes of a day where files were listened to. */
export const someClips = (ids: Iterable<number>) => get<SomeClips>(`/clips?ids=${[...ids].join(',')}`);

/** The pass that is shown, with its groups. */
export const passQuery = queryOptions({ queryKey: keys.pass, queryFn: () => get<ShownPass>('/pass') });

/** The films of the production: what is made, what waits, what became of the others. */
export const filmsQuery = queryOptions({ queryKey: keys.films, queryFn: () => get<FilmsView>('/films') });

/** What groups would be made of the pass that is shown; `version` is that of the groups there are. */
export const proposedQuery = (by: GroupBy, version: number) =>
  queryOptions({
    queryKey: ['proposed', by, version],
    queryFn: () => post<Proposed>('/groups/proposed', by),
  });

/** How groups would be called by a pattern; `version` is that of the groups there are. */
export const namesQuery = (wanted: Omit<NameGroups, 'version'>, version: number) =>
  queryOptions({
    queryKey: ['names', wanted, version],
    queryFn: () => post<GroupNamed[]>('/groups/names', { ...wanted, version: null }),
    retry: false,
  });

/** The picture clips that are not in a group; `version` is that of the groups there are. */
export const besideQuery = (group: number, version: number) =>
  queryOptions({
    queryKey: ['beside', group, version],
    queryFn: () => get<Beside[]>(`/groups/${group}/beside`),
  });

/** The clips of a group that lie elsewhere than the day has them; `groups` are all groups, `pass` the pass that is shown. */
export const movedQuery = (group: number, groups: number, pass: number) =>
  queryOptions({
    queryKey: ['moved', group, groups, pass],
    queryFn: () => get<MovedClip[]>(`/groups/${group}/moved`),
  });

/** What lies under each picture, what is chosen about sound, and which files were made of it. */
export const soundQuery = queryOptions({ queryKey: keys.sound, queryFn: () => get<SoundView>('/sound') });

/** Sound of a picture as it will be written, to be listened to. */
export const clipHeardQuery = (clip: number) => heardQuery(`/clips/${clip}/heard`);

/** The grid of a group's sound. */
export const groupGridQuery = (group: number) =>
  queryOptions({
    queryKey: [...keys.sound, 'grid', group],
    queryFn: () => get<GridView>(`/groups/${group}/grid`),
    retry: false,
    gcTime: 0,
    staleTime: 0,
  });

const heardQuery = (path: string) =>
  queryOptions({
    queryKey: [...keys.sound, path],
    queryFn: () => get<HeardView>(path),
    retry: false,
    // The server closes what nobody listens to.
    gcTime: 0,
    staleTime: 0,
  });

/** The own sound of a clip that is a part of an assembly; none where nothing is named. */
export const partHeardQuery = (of: { assembly: number; part: number; version: number } | null) =>
  queryOptions({
    ...heardQuery(of ? `/assemblies/${of.assembly}/heard/${of.part}?version=${of.version}` : ''),
    enabled: of !== null,
  });

/** The lines that a group keeps; `version` is that of its own. */
export const keptLinesQuery = (group: number, version: number) =>
  queryOptions({
    queryKey: ['lines', group, version],
    queryFn: () => get<KeptLineView[]>(`/groups/${group}/lines`),
  });

/** What a first cut of a group can be made of. */
export const firstCutQuery = (group: number) =>
  queryOptions({
    queryKey: ['first-cut', group],
    queryFn: () => get<FirstCutView>(`/groups/${group}/first-cut`),
    retry: false,
    gcTime: 0,
    staleTime: 0,
  });

/** What quiet passages are looked for by. */
export type QuietWanted = {
  channel: number | null;
  threshold_db: number | null;
  least_s: number;
  after_s: number;
  before_s: number;
};

/** Quiet passages of what is shown of a group. */
export const quietQuery = ({ id, group }: Pick<GroupView, 'id' | 'group'>, wanted: QuietWanted) =>
  queryOptions({
    queryKey: ['quiet', id, group.frames, group.start, group.seams, wanted],
    queryFn: () => {
      const given = Object.entries(wanted).filter(([, value]) => value !== null);
      return get<QuietView>(`/groups/${id}/quiet?${given.map((own) => own.join('=')).join('&')}`);
    },
    retry: false,
  });

/** The viewing LUTs that can be chosen. */
export const lutsQuery = queryOptions({ queryKey: keys.luts, queryFn: () => get<LutView[]>('/luts') });

/** The samples of one; what a key stands for never changes. */
export const lutQuery = (key: string) =>
  queryOptions({
    queryKey: ['lut', key],
    queryFn: async () => new Lut(new Uint8Array(await getBytes(`/luts/${encodeURIComponent(key)}`))),
    staleTime: Infinity,
    retry: false,
  });

/** How the angles of a group differ from its first; `seen` is through what they are seen. */
export const balanceQuery = (group: number, seen: string) =>
  queryOptions({
    queryKey: ['balance', group, seen],
    queryFn: () => get<AngleBalance[]>(`/groups/${group}/balance`),
    retry: false,
  });

/** What the server is at; it comes by itself. */
export const jobsQuery = queryOptions({ queryKey: keys.jobs, queryFn: () => get<JobSummary[]>('/jobs') });

/** A group with its line. */
export const groupQuery = (id: number | undefined) =>
  queryOptions({
    queryKey: id === undefined ? keys.groups : keys.group(id),
    queryFn: id === undefined ? skipToken : () => get<GroupView>(`/groups/${id}`),
  });

/** First places that the running pass found, in the order in which it did; they come by themselves. */
export const arrivingQuery = queryOptions({
  queryKey: keys.arriving,
  queryFn: (): ArrivingClip[] => [],
  staleTime: Infinity,
  refetchOnMount: false,
});

/** How far the jobs were of late; it comes by itself. */
export const courseQuery = queryOptions({
  queryKey: keys.course,
  queryFn: (): Course => ({}),
  staleTime: Infinity,
  refetchOnMount: false,
});

/** Waveform levels, 0 to 127. */
const levels = (path: string, enabled: boolean) =>
  queryOptions({ queryKey: [...keys.levels, path], queryFn: () => get<number[]>(path), enabled });

/** Levels of a clip, where it was listened to. */
export const clipLevelsQuery = (clip: ClipView, bins: number) =>
  levels(`/clips/${clip.id}/levels?bins=${bins}`, clip.channels !== null && clip.facts.sound !== null);

/** Levels of a group's sound, as far as the group reaches now; of some of its frames where they are given. */
export const groupLevelsQuery = (
  { id, group }: Pick<GroupView, 'id' | 'group'>,
  bins: number,
  { from, to } = { from: 0, to: group.frames },
) =>
  queryOptions({
    queryKey: [...keys.levels, 'group', id, bins, group.frames, group.start, from, to],
    queryFn: () => get<number[]>(`/groups/${id}/levels?bins=${bins}&from=${from}&to=${to}`),
  });

/** Waveforms of all channels of a clip; another file under its name has others. */
export const peaksQuery = ({ id, bytes, channels }: ClipView, bins: number) =>
  queryOptions({
    queryKey: ['peaks', id, bytes, bins],
    queryFn: () => get<PeaksView>(`/clips/${id}/peaks?bins=${bins}`),
    enabled: channels !== null,
  });

/** Waveforms of all channels of a part of a clip. */
export const peaksBetweenQuery = (
  { id, bytes, channels }: ClipView,
  from: number,
  to: number,
  bins: number,
) =>
  queryOptions({
    queryKey: ['peaks', id, bytes, bins, from, to],
    queryFn: () => get<PeaksView>(`/clips/${id}/peaks?bins=${bins}&from_s=${from}&to_s=${to}`),
    enabled: channels !== null,
    staleTime: Infinity,
    gcTime: 60_000,
  });

/** What is left to the best match about a moment; nothing is asked while there is no moment. */
export const needleQuery = (
  about: { clip: ClipView; own: number; against: ClipView; there: number; reach: number } | null,
) =>
  queryOptions({
    queryKey: ['needle', about?.clip.id, about?.own, about?.against.id, about?.there, about?.reach],
    queryFn: !about
      ? skipToken
      : () =>
          get<Needle | null>(
            `/clips/${about.clip.id}/needle?own_s=${about.own}&against=${about.against.id}&there_s=${about.there}&within_s=${about.reach}`,
          ),
    retry: false,
    gcTime: 30_000,
    placeholderData: (last: Needle | null | undefined) => last,
  });

/** Moments that are sharp to see and hear in both; a clip without a place begins at `start` on the axis. */
export const pointsQuery = (clip: ClipView, against: ClipView, start: number | null) =>
  queryOptions({
    queryKey: ['points', clip.id, against.id, start],
    queryFn: () => {
      const begins = start === null ? '' : `&start_s=${start}`;
      return get<CheckPoint[]>(`/clips/${clip.id}/points?against=${against.id}${begins}`);
    },
    retry: false,
  });

/** What is left along a clip where a pass has it. */
export const driftQuery = (clip: ClipView, pass: number | undefined) =>
  queryOptions({
    queryKey: ['drift', clip.id, pass],
    queryFn: () => get<DriftView>(`/clips/${clip.id}/drift`),
  });

/** What a clip's file says. */
export const clipQuery = ({ id, relative }: ClipView) =>
  queryOptions({ queryKey: ['clip', id, relative], queryFn: () => get<ClipDetail>(`/clips/${id}`) });

/** Claps in a clip's sound. */
export const clapsQuery = (clip: number, enabled: boolean) =>
  queryOptions({
    queryKey: ['claps', clip],
    queryFn: () => get<ClapView>(`/clips/${clip}/claps`),
    enabled,
    retry: false,
  });

/** The strike in a clip's picture of a clap that its sound has at `heard` seconds. */
export const seenQuery = (clip: number, heard: number | undefined) =>
  queryOptions({
    queryKey: ['seen', clip, heard],
    queryFn:
      heard === undefined ? skipToken : () => get<SeenClap | null>(`/clips/${clip}/seen?heard_s=${heard}`),
    retry: false,
    staleTime: Infinity,
  });

/** Samples of a clip from a moment on, −1 to 1: of one channel, or of what is matched. */
export const samplesQuery = (clip: number, from: number, seconds: number, channel: number | null = null) =>
  queryOptions({
    queryKey: ['samples', clip, from, seconds, channel],
    queryFn: async () => {
      const count = Math.round(seconds * MATCHED_RATE);
      const only = channel === null ? '' : `&channel=${channel}`;
      const values = new Int16Array(
        await getBytes(`/clips/${clip}/samples?from_s=${from}&count=${count}${only}`),
      );
      return Float32Array.from(values, (value) => value / 32_768);
    },
    staleTime: Infinity,
    gcTime: 60_000,
    retry: false,
  });

/** What a pass changed since another one. */
export const changesQuery = (from: number, to: number | undefined) =>
  queryOptions({
    queryKey: ['changes', from, to],
    queryFn:
      from === 0 || to === undefined ? skipToken : () => get<Changed[]>(`/passes/${from}/changes/${to}`),
  });

/** A document as text, by its address; another state of what it tells, as `state` says, has another. */
export const documentQuery = (address: string, state: readonly unknown[] | undefined) =>
  queryOptions({
    queryKey: ['document', address, state],
    queryFn: state === undefined ? skipToken : () => getText(`${address}?shown=true`),
  });

/** What this machine prints pages with. */
export const printerQuery = queryOptions({
  queryKey: ['printer'],
  queryFn: () => get<PrinterView>('/turnover/printer'),
  staleTime: Infinity,
});

/** How much a document is with its media, by its address; none of what has no media. */
export const bundleQuery = (address: string | null, state: readonly unknown[]) =>
  queryOptions({
    queryKey: ['bundle', address, state],
    queryFn: address === null ? skipToken : () => get<BundleView>(`${address}?told=true`),
    retry: false,
  });

/** Folders that may be taken in. */
export const foldersQuery = queryOptions({
  queryKey: ['folders'],
  queryFn: () => get<FolderView[]>('/folders'),
});

/** The space that derived files take; asked anew with each light copy that is ready. */
export const storageQuery = (ready: number) =>
  queryOptions({ queryKey: [...keys.storage, ready], queryFn: () => get<StorageView>('/storage') });

/** All assemblies. */
export const assembliesQuery = queryOptions({
  queryKey: keys.assemblies,
  queryFn: () => get<AssemblySummary[]>('/assemblies'),
});

/** An assembly as it is found now. */
export const assemblyQuery = (id: number | undefined) =>
  queryOptions({
    queryKey: keys.assembly(id ?? 0),
    queryFn: id === undefined ? skipToken : () => get<AssemblyView>(`/assemblies/${id}`),
    retry: false,
  });
