/** What is said of films that are made. */
import type { Event, FilmForm, FilmsView, FilmView } from '../api/types';
import { leftSaid } from './left';

/** Names of what holds a film. */
export const WRAPPERS: Record<FilmForm['wrapper'], string> = {
  mp4: 'MP4',
  mov: 'MOV',
  mxf: 'MXF OP1a',
  atom: 'MXF OP-Atom',
  mkv: 'Matroska',
};

/** What became of a film, in a word. */
export const filmState = ({ state, done, total }: Pick<FilmView, 'state' | 'done' | 'total'>): string => {
  if (state === 'running')
    return done >= total ? 'putting it together' : `${Math.floor((100 * done) / total)} %`;
  if (state === 'queued') return 'waits';
  if (state === 'stopped') return 'rests';
  return state === 'failed' ? 'not made' : 'made';
};

/** How long it takes yet, by its pace; nothing where that is not known. */
export const filmLeft = ({ state, done, total, pace }: FilmView): string =>
  state === 'running' && pace && done < total ? leftSaid((total - done) / pace) : '';

/** The films with one that is further than it was. */
export const withFilm = (
  view: FilmsView,
  { film, done, pace }: Extract<Event, { event: 'filming' }>,
): FilmsView => ({
  ...view,
  films: view.films.map((own) => (own.id === film ? { ...own, state: 'running', done, pace } : own)),
});

/** A form as it is kept from one visit to the next. */
export const USUAL: FilmForm = {
  codec: 'h264',
  wrapper: 'mov',
  grade: 'good',
  height: null,
  sound: 'mix',
  burn: { name: false, timecode: false, scene: false, notes: false },
  through: false,
};

/** What was kept, as far as it is a form. */
export function kept(text: string | null): FilmForm {
  try {
    const own = JSON.parse(text ?? '') as Partial<FilmForm>;
    return { ...USUAL, ...own, burn: { ...USUAL.burn, ...own.burn } };
  } catch {
    return USUAL;
  }
}
