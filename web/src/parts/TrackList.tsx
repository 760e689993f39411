import { isHeard } from '../model/mix';
import type { TracksHeard } from '../play/useTracks';

/** The tracks of a sound: which are heard together, and one alone. */
export function TrackList({ tracks }: { tracks: TracksHeard }) {
  const { names, chosen } = tracks;
  return (
    <ol aria-label="Tracks" className="num text-[12px]">
      {names.map((name, i) => (
        <li key={name} className="flex h-6 items-center gap-1.5">
          <label
            className={`flex min-w-0 flex-1 items-center gap-1.5 ${isHeard(chosen, i) ? '' : 'opacity-70'}`}
          >
            <input type="checkbox" checked={chosen.together[i] ?? false} onChange={() => tracks.tick(i)} />
            <span className="w-4 text-right">{i + 1}</span>
            <span className="truncate" title={name}>
              {name}
            </span>
          </label>
          <button
            type="button"
            aria-label={`${name} alone`}
            aria-pressed={chosen.alone === i}
            onClick={() => tracks.alone(i)}
            className={`rounded-[3px] border px-1.5 ${chosen.alone === i ? 'border-current font-semibold' : 'border-transparent underline'}`}
          >
            alone
          </button>
        </li>
      ))}
    </ol>
  );
}
