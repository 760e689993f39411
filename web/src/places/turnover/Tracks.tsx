import { useEffect, useRef } from 'react';
import type { SoundChange, SoundView, TrackOffered } from '../../api/types';
import { Ask } from '../../parts/Ask';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { Editable } from '../../parts/Editable';

/** Names that are often wanted; another is typed. */
const PATTERNS: [string, string][] = [
  ['', 'as recorded'],
  ['{device} {track}', 'device and track'],
  ['{picture} {track}', 'picture and track'],
  ['{scene} {take} {track}', 'scene, take, track'],
  ['{number} {track}', 'number and track'],
];

type Props = {
  view: SoundView;
  open: boolean;
  onClose: () => void;
  onChange: (change: SoundChange) => void;
};

/** The order with the track at `from` moved by one place; nothing where there is no such place. */
function moved(tracks: readonly TrackOffered[], from: number, by: 1 | -1) {
  const keys = tracks.map(({ key }) => key);
  const [own, other] = [keys[from], keys[from + by]];
  if (!own || !other) return null;
  keys[from] = other;
  keys[from + by] = own;
  return keys;
}

/** Which tracks go out, in which order, and what they are called: for all pictures, and the next days. */
export function Tracks({ view, open, onClose, onChange }: Props) {
  const { tracks, habit } = view;
  const { pattern } = habit.tracks;
  const list = useRef<HTMLUListElement>(null);
  const carried = useRef<number | null>(null);
  const focus = (at: number) =>
    list.current?.querySelectorAll<HTMLInputElement>('input[type="checkbox"]')[at]?.focus();
  const move = (from: number, by: 1 | -1) => {
    const order = moved(tracks, from, by);
    if (!order) return;
    carried.current = from + by;
    onChange({ do: 'order_tracks', order });
  };
  // A row that changed its place has lost the focus.
  useEffect(() => {
    if (carried.current !== null) focus(carried.current);
    carried.current = null;
  }, [tracks]);
  const example = (view.clips[0] ?? view.groups[0])?.report.tracks.map(({ name }) => name) ?? [];
  return (
    <Ask title="Tracks that go out" open={open} onClose={onClose} width={560}>
      <p className="pb-2 text-soft">
        In this order under every picture. Arrows go up and down; with alt they take the track along; space
        leaves it out.
      </p>
      <ul
        ref={list}
        aria-label="Tracks in their order"
        className="min-h-0 overflow-y-auto border-y border-line"
      >
        {tracks.map((track, i) => (
          <li
            key={JSON.stringify(track.key)}
            className="flex h-7 items-center gap-2 border-b border-line last:border-0"
          >
            <label className={`flex min-w-0 flex-1 items-center gap-2 ${track.off ? 'text-soft' : ''}`}>
              <input
                type="checkbox"
                data-autofocus={i === 0 ? true : undefined}
                checked={!track.off}
                onChange={() => onChange({ do: 'switch_tracks', tracks: [track.key], off: !track.off })}
                onKeyDown={(event) => {
                  const by = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
                  if (!by) return;
                  event.preventDefault();
                  if (event.altKey) move(i, by);
                  else focus(i + by);
                }}
              />
              <span className="num w-5 text-right text-soft">{i + 1}</span>
              <span className="min-w-0 flex-1 truncate font-semibold">{track.name}</span>
              <span className="max-w-[160px] truncate text-soft">{track.device}</span>
              <span className="num w-28 text-right whitespace-nowrap text-soft">
                {track.off ? 'left out' : `${track.pictures} picture${track.pictures === 1 ? '' : 's'}`}
              </span>
            </label>
            <Button small disabled={i === 0} aria-label={`${track.name} up`} onClick={() => move(i, -1)}>
              up
            </Button>
            <Button
              small
              disabled={i === tracks.length - 1}
              aria-label={`${track.name} down`}
              onClick={() => move(i, 1)}
            >
              down
            </Button>
          </li>
        ))}
      </ul>
      <div className="flex items-center gap-3 pt-3">
        <Choice
          label="Names"
          value={PATTERNS.some(([own]) => own === pattern) ? pattern : 'own'}
          onChange={(value) => value !== 'own' && onChange({ do: 'name_tracks', pattern: value })}
        >
          {PATTERNS.map(([own, word]) => (
            <option key={word} value={own}>
              {word}
            </option>
          ))}
          {!PATTERNS.some(([own]) => own === pattern) && <option value="own">as typed</option>}
        </Choice>
        <Editable
          label="Pattern of names"
          value={pattern}
          max={120}
          placeholder="a pattern of your own"
          onSave={(value) => onChange({ do: 'name_tracks', pattern: value })}
          className="num flex-1 border-line"
        />
      </div>
      <p className="num pt-2 text-[12px] text-soft">
        {'{track} {device} {channel} {number} {picture} {scene} {take}'}
      </p>
      {example.length > 0 && (
        <p className="truncate pt-1 text-soft" title={example.join(', ')}>
          So: {example.join(', ')}
        </p>
      )}
      <div className="flex items-center justify-end gap-2 pt-3">
        {habit.tracks.order.length > 0 && (
          <Button onClick={() => onChange({ do: 'order_tracks', order: [] })}>Order as recorded</Button>
        )}
        <Button main onClick={onClose}>
          Done
        </Button>
      </div>
    </Ask>
  );
}
