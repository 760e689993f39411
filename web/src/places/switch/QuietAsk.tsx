import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useRef, useState, type KeyboardEvent } from 'react';
import { groupLevelsQuery, quietQuery, type QuietWanted } from '../../api/queries';
import type { GroupView } from '../../api/types';
import { Outline } from '../../draw/Outline';
import { length, timecode } from '../../model/format';
import { levelsAbout, saved } from '../../model/quiet';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';

type Props = {
  view: GroupView;
  onSeek: (frame: number) => void;
  /** Plays from a frame on. */
  onHear: (frame: number) => void;
  onTakeOut: (pieces: [number, number][]) => Promise<unknown>;
  onClose: () => void;
};

/** Levels of the whole group that are looked at for the small outlines. */
const LEVELS = 4000;

/** Quiet passages, found on one sound: each taken or refused by key, then all out at once, through picture and sound. */
export function QuietAsk({ view, onSeek, onHear, onTakeOut, onClose }: Props) {
  const { group } = view;
  const fps = group.start.rate.num / group.start.rate.den;
  const [wanted, setWanted] = useState<QuietWanted>({
    channel: null,
    threshold_db: null,
    least_s: 0.6,
    after_s: 0.2,
    before_s: 0.2,
  });
  const [refused, setRefused] = useState<ReadonlySet<number>>(new Set());
  const [at, setAt] = useState(0);
  const list = useRef<HTMLUListElement>(null);
  const found = useQuery({ ...quietQuery(view, wanted), placeholderData: keepPreviousData });
  const levels = useQuery(groupLevelsQuery(view, LEVELS)).data ?? [];
  const passages = found.data?.passages ?? [];
  const here = Math.min(at, passages.length - 1);
  const seconds = (frames: number) => length(frames / fps);
  const label = (frame: number) => timecode({ ...group.start, frames: group.start.frames + frame });
  const frames = saved(passages, refused);
  const out = passages.filter(([from]) => !refused.has(from));
  const turn = (from: number) => {
    const next = new Set(refused);
    if (!next.delete(from)) next.add(from);
    setRefused(next);
  };
  const go = (to: number) => {
    const next = Math.max(0, Math.min(passages.length - 1, to));
    const passage = passages[next];
    if (!passage) return;
    setAt(next);
    onSeek(passage[0]);
    list.current?.children[next]?.scrollIntoView({ block: 'nearest' });
  };
  const pressed = (event: KeyboardEvent) => {
    if (event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement) return;
    const passage = passages[here];
    const run: Record<string, () => void> = {
      ArrowDown: () => go(here + 1),
      ArrowUp: () => go(here - 1),
      ' ': () => passage && turn(passage[0]),
      h: () => passage && onHear(Math.max(0, passage[0] - Math.round(fps))),
    };
    const own = run[event.key];
    if (!own || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    own();
  };
  const number = (name: 'least_s' | 'after_s' | 'before_s', words: string) => (
    <label className="flex items-center gap-1.5">
      <span className="text-soft">{words}</span>
      <input
        type="number"
        min={0}
        step={0.05}
        value={wanted[name]}
        onChange={(event) => setWanted({ ...wanted, [name]: Math.max(0, Number(event.target.value) || 0) })}
        className="num w-16 rounded-[3px] border border-line bg-sheet px-1 py-0.5"
      />
      <span className="text-soft">s</span>
    </label>
  );
  return (
    <Ask title="Quiet passages" onClose={onClose} width={820}>
      <div onKeyDown={pressed} className="flex min-h-0 flex-col">
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2 pt-2">
          <Choice
            label="Judged on"
            value={wanted.channel ?? ''}
            onChange={(value) => setWanted({ ...wanted, channel: value === '' ? null : Number(value) })}
          >
            <option value="">as matched</option>
            {(found.data?.channels ?? []).map((name, channel) => (
              <option key={channel} value={channel}>
                {name}
              </option>
            ))}
          </Choice>
          <label className="flex items-center gap-1.5">
            <span className="text-soft">Softer than</span>
            <input
              type="number"
              step={1}
              aria-label="Threshold, decibels"
              placeholder={found.data ? found.data.threshold_db.toFixed(0) : ''}
              value={wanted.threshold_db ?? ''}
              onChange={(event) =>
                setWanted({
                  ...wanted,
                  threshold_db: event.target.value === '' ? null : Number(event.target.value),
                })
              }
              className="num w-16 rounded-[3px] border border-line bg-sheet px-1 py-0.5"
            />
            <span className="text-soft">dB</span>
          </label>
          {number('least_s', 'for at least')}
          {number('after_s', 'left after a word')}
          {number('before_s', 'before the next')}
        </div>
        {found.isError && (
          <p role="status" className="pt-3 text-check">
            They cannot be looked for: {found.error.message}
          </p>
        )}
        <p className="pt-3 pb-1" role="status">
          {found.isPending && !found.isError && 'listening…'}
          {found.data &&
            (passages.length === 0
              ? 'No passage is quiet for so long.'
              : `${passages.length} quiet passages; ${out.length} go, ${seconds(frames)} in all: ${seconds(group.frames)} become ${seconds(group.frames - frames)}.`)}
        </p>
        <ul
          ref={list}
          aria-label="Quiet passages"
          tabIndex={0}
          data-autofocus
          className="min-h-24 flex-1 overflow-y-auto border-y border-line outline-offset-[-2px]"
        >
          {passages.map((passage, i) => (
            <li
              key={passage[0]}
              data-passage={passage[0]}
              aria-current={i === here}
              onClick={() => go(i)}
              className={`flex h-9 items-center gap-3 border-b border-line px-2 ${i === here ? 'bg-band' : ''}`}
            >
              <input
                type="checkbox"
                tabIndex={-1}
                aria-label={`Take out what is quiet from ${label(passage[0])} on`}
                checked={!refused.has(passage[0])}
                onChange={() => turn(passage[0])}
              />
              <span className="num">{label(passage[0])}</span>
              <span className="num w-16 text-right">{seconds(passage[1] - passage[0])}</span>
              <span className="relative h-7 min-w-0 flex-1">
                <Outline levels={levelsAbout(levels, passage, fps, group.frames)} className="h-full w-full" />
                <About passage={passage} about={fps} frames={group.frames} />
              </span>
            </li>
          ))}
        </ul>
        <div className="flex items-center gap-2 pt-3">
          <span className="flex-1 text-soft">
            <span className="num">↑ ↓</span> go, <span className="num">space</span> takes or refuses,{' '}
            <span className="num">H</span> hears it
          </span>
          <Button onClick={onClose}>Leave all</Button>
          <Button
            main
            disabled={out.length === 0}
            onClick={() => void onTakeOut(out.map(([from, to]) => [from, to])).then(onClose)}
          >
            {`Take out ${out.length}`}
          </Button>
        </div>
      </div>
    </Ask>
  );
}

/** What of the outline goes. */
function About({
  passage: [from, to],
  about,
  frames,
}: {
  passage: readonly [number, number];
  about: number;
  frames: number;
}) {
  const [begin, end] = [Math.max(0, from - about), Math.min(frames, to + about)];
  const share = (frame: number) => `${(100 * (frame - begin)) / Math.max(1, end - begin)}%`;
  return (
    <span
      className="pointer-events-none absolute inset-y-0 border-x border-accent bg-accent/15"
      style={{ left: share(from), right: `calc(100% - ${share(to)})` }}
    />
  );
}
