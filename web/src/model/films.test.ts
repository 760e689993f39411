import { describe, expect, it } from 'vitest';
import { filmLeft, filmState, kept, USUAL, withFilm } from './films';
import type { FilmsView, FilmView } from '../api/types';

const film = (own: Partial<FilmView>) =>
  ({ state: 'running', done: 0, total: 100, pace: null, ...own }) as FilmView;

describe('a film', () => {
  it('says how far it is', () => {
    expect(filmState(film({ done: 42 }))).toBe('42 %');
    expect(filmState(film({ done: 100 }))).toBe('putting it together');
    expect(filmState(film({ state: 'stopped', done: 42 }))).toBe('rests');
  });

  it('says how long it takes only where that is known', () => {
    expect(filmLeft(film({ done: 50, pace: 1 }))).toBe('50 s left');
    expect(filmLeft(film({ done: 50 }))).toBe('');
    expect(filmLeft(film({ state: 'queued', pace: 2 }))).toBe('');
  });

  it('is further where it is told, and no other is', () => {
    const films = [film({ id: 1, state: 'queued' }), film({ id: 2, state: 'queued' })];
    const told = withFilm({ films } as FilmsView, { event: 'filming', film: 1, done: 30, pace: 12 });
    expect(told.films.map(filmState)).toEqual(['30 %', 'waits']);
    expect(told.films.map(filmLeft)).toEqual(['a few s left', '']);
  });

  it('is made as it was made last', () => {
    expect(kept(JSON.stringify({ ...USUAL, codec: 'av1', burn: { name: true } }))).toEqual({
      ...USUAL,
      codec: 'av1',
      burn: { ...USUAL.burn, name: true },
    });
    expect(kept('{')).toEqual(USUAL);
    expect(kept(null)).toEqual(USUAL);
  });
});
