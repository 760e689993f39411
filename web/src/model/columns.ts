/** The columns of the clip table: what each shows and how it sorts. */
import type { ClipView, JobSummary, Part } from '../api/types';
import { bytes, clock, length, metres, rate, timecode } from './format';

export const PART: Record<Part, string> = {
  sync: 'sync',
  no_sync: 'no sync',
  silent: 'silent',
  wild: 'wild',
  playback: 'playback',
};

/** What a person can type into a cell. */
export type Field = 'scene' | 'take' | 'notes';

export type Column = {
  name: string;
  width: string;
  text: (clip: ClipView) => string;
  order: (clip: ClipView) => string | number;
  number?: boolean;
  /** Not lined up by digits. */
  plain?: boolean;
  field?: Field;
  /** Shown unless a person chose otherwise. */
  shown?: boolean;
};

export const COLUMNS: Column[] = [
  {
    name: 'Clip',
    width: 'minmax(118px,1fr)',
    text: (c) => c.file_name,
    order: (c) => c.relative,
    shown: true,
  },
  { name: 'Part', width: '54px', text: (c) => PART[c.part], order: (c) => c.part, plain: true, shown: true },
  {
    name: 'Length',
    width: '66px',
    text: (c) => (c.facts.picture?.still ? 'still' : length(c.facts.duration_s)),
    order: (c) => c.facts.duration_s,
    number: true,
    shown: true,
  },
  { name: 'Picture', width: '140px', text: picture, order: picture, shown: true },
  { name: 'Sound', width: '104px', text: sound, order: sound, shown: true },
  {
    name: 'Starts at',
    width: '74px',
    text: (c) => (c.own_clock_s === null ? '' : clock(c.own_clock_s)),
    order: (c) => c.own_clock_s ?? -1,
    number: true,
    shown: true,
  },
  {
    name: 'Timecode',
    width: '98px',
    text: (c) => (c.facts.timecode ? timecode(c.facts.timecode) : ''),
    order: (c) => c.facts.timecode?.frames ?? -1,
    number: true,
    shown: true,
  },
  {
    name: 'Scene',
    width: '46px',
    text: (c) => c.scene ?? '',
    order: (c) => c.scene ?? '',
    field: 'scene',
    shown: true,
  },
  {
    name: 'Take',
    width: '42px',
    text: (c) => c.take ?? '',
    order: (c) => c.take ?? '',
    field: 'take',
    shown: true,
  },
  {
    name: 'Circled',
    width: '56px',
    text: (c) => (c.circled ? 'circled' : ''),
    order: (c) => (c.circled ? 0 : 1),
    plain: true,
  },
  {
    name: 'Notes',
    width: '150px',
    text: (c) => c.notes ?? '',
    order: (c) => c.notes ?? '',
    field: 'notes',
    plain: true,
  },
  { name: 'Day', width: '88px', text: (c) => c.day ?? '', order: (c) => c.day ?? '' },
  {
    name: 'Distance',
    width: '66px',
    text: (c) => (c.distance_m === null ? '' : metres(c.distance_m)),
    order: (c) => c.distance_m ?? -1,
    number: true,
  },
  { name: 'Reel', width: '64px', text: (c) => c.facts.reel ?? '', order: (c) => c.facts.reel ?? '' },
  { name: 'Codec', width: '128px', text: codec, order: codec },
  { name: 'Size', width: '72px', text: (c) => bytes(c.bytes), order: (c) => c.bytes, number: true },
  { name: 'Folder', width: '170px', text: folder, order: folder },
  { name: 'State', width: '72px', text: state, order: state, plain: true, shown: true },
];

function picture({ facts, frames_vary }: ClipView): string {
  if (!facts.picture) return '–';
  const { width, height, constant_rate, still } = facts.picture;
  if (still) return `${width}×${height}`;
  const varies = !constant_rate || frames_vary;
  return `${width}×${height} ${rate(facts.picture.rate)}${varies ? ' ~' : ''}`;
}

function sound({ facts, channels }: ClipView): string {
  if (!facts.sound) return '–';
  const timecodeAt = channels?.findIndex((channel) => channel.audio_timecode) ?? -1;
  return `${facts.sound.channels} ch ${facts.sound.rate / 1000}k${timecodeAt >= 0 ? ` tc${timecodeAt + 1}` : ''}`;
}

function codec({ facts }: ClipView): string {
  return [facts.picture?.codec, facts.sound?.codec].filter(Boolean).join(' · ');
}

function folder({ relative }: ClipView): string {
  return relative.includes('/') ? relative.slice(0, relative.lastIndexOf('/')) : '';
}

function state({ proxy, channels, facts, missing }: ClipView): string {
  if (missing) return 'missing';
  if (facts.sound && !channels) return 'unheard';
  return proxy ? 'ready' : 'no proxy';
}

const DOING: Record<string, string> = { listen: 'heard', proxy: 'proxy' };

/** What is being made of each clip right now, and what failed: for the column of the state. */
export function atWork(jobs: JobSummary[]): Map<number, string> {
  const said = new Map<number, string>();
  for (const { kind, clips } of jobs) {
    for (const { clip, share, failed } of clips) {
      const percent = share > 0 ? ` ${Math.round(100 * share)} %` : '…';
      said.set(clip, failed ? 'failed' : `${DOING[kind] ?? kind}${percent}`);
    }
  }
  return said;
}

const KEY = 'intake-columns';

/** Names of the columns that are shown, as they were last left. */
export function keptColumns(): string[] {
  const usual = COLUMNS.filter((column) => column.shown).map((column) => column.name);
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEY) ?? 'null');
    if (Array.isArray(kept) && kept.includes('Clip')) return kept.filter((name) => typeof name === 'string');
  } catch {
    // What was kept is no list: the usual columns.
  }
  return usual;
}

export function keepColumns(names: string[]) {
  localStorage.setItem(KEY, JSON.stringify(names));
}

/** Whether a clip has all the words somewhere in it. */
export function matches(clip: ClipView, called: string, words: string[]): boolean {
  if (words.length === 0) return true;
  const text = [
    called,
    clip.relative,
    PART[clip.part],
    clip.scene && `scene ${clip.scene}`,
    clip.take && `take ${clip.take}`,
    clip.notes,
    clip.day,
    codec(clip),
    state(clip),
    clip.circled ? 'circled' : '',
  ]
    .filter(Boolean)
    .join(' ')
    .toLowerCase();
  return words.every((word) => text.includes(word));
}
