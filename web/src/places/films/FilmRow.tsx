import type { FilmStep, FilmView } from '../../api/types';
import { filmLeft, filmState, WRAPPERS } from '../../model/films';
import { Name } from '../../parts/Name';

type Props = {
  film: FilmView;
  /** What its codec is called. */
  codec: string;
  onStep: (step: FilmStep) => void;
};

/** Columns of the queue. */
export const FILM_GRID = 'grid-cols-[minmax(160px,1.6fr)_150px_minmax(150px,1.2fr)_168px]';

const LOOKS: Partial<Record<FilmView['state'], string>> = { done: 'text-accent', failed: 'text-fault' };

/** One film of the queue: what it is, how far it is, and what can be done about it. */
export function FilmRow({ film, codec, onStep }: Props) {
  const { order, state, message, done, total } = film;
  const rows = order.form.height ? ` ${order.form.height}` : '';
  const acts: [step: FilmStep, word: string][] =
    state === 'running'
      ? [['stop', 'Rest']]
      : state === 'queued'
        ? [
            ['next', 'Next'],
            ['stop', 'Rest'],
            ['forget', 'Out'],
          ]
        : [
            ['again', state === 'stopped' ? 'Go on' : 'Again'],
            ['forget', 'Out'],
          ];
  return (
    <>
      <span role="gridcell" className="min-w-0 py-1">
        <span className="block font-semibold">
          <Name text={film.path} />
        </span>
        {message && (
          <span className={`block text-[12px] ${state === 'failed' ? 'text-fault' : 'text-soft'}`}>
            {message}
          </span>
        )}
      </span>
      <span role="gridcell" className="whitespace-nowrap text-soft">
        {codec}
        {rows} · {WRAPPERS[order.form.wrapper]}
      </span>
      <span role="gridcell" className="min-w-0 py-1">
        <span className={`num ${LOOKS[state] ?? ''}`}>{filmState(film)}</span>{' '}
        <span className="text-[12px] text-soft">
          {[film.pace && `${film.pace.toFixed(0)} frames a second`, filmLeft(film)]
            .filter(Boolean)
            .join(' · ')}
        </span>
        {(state === 'running' || state === 'stopped') && (
          <span
            role="progressbar"
            aria-label={`How far ${film.path} is`}
            aria-valuemin={0}
            aria-valuemax={total}
            aria-valuenow={done}
            className="mt-1 block h-[3px] bg-line"
          >
            <span
              className="block h-full bg-accent"
              style={{ width: `${(100 * done) / Math.max(1, total)}%` }}
            />
          </span>
        )}
      </span>
      <span role="gridcell" className="flex justify-end gap-2 whitespace-nowrap">
        {film.there && (
          <a
            href={`/api/films/${film.id}/file`}
            download
            className="underline"
            aria-label={`Save ${film.path}`}
          >
            Save
          </a>
        )}
        {acts.map(([step, word]) => (
          <button
            key={step}
            type="button"
            className="underline"
            aria-label={`${word}: ${film.path}`}
            onClick={(event) => {
              event.stopPropagation();
              onStep(step);
            }}
          >
            {word}
          </button>
        ))}
      </span>
    </>
  );
}
