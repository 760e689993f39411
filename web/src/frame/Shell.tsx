import { useCallback, useEffect, useMemo, useState } from 'react';
import { Redirect, Route, Switch as Choose, useLocation } from 'wouter';
import { useDay } from '../api/day';
import { useEvents } from '../api/events';
import { KeysShown } from '../keys/shown';
import { late } from './late';
import { SayContext } from '../parts/message';
import { DaySheet } from '../places/day/DaySheet';
import { Groups } from '../places/groups/Groups';
import { Intake } from '../places/intake/Intake';
import { Sound } from '../places/turnover/Sound';
import { Turnover } from '../places/turnover/Turnover';
import { Rail } from './Rail';

// Decoders come with these, and not with the first page.
const [Round, fetchRound] = late(() => import('../places/bench/Round').then((place) => place.Round));
const [Bench, fetchBench] = late(() => import('../places/bench/Bench').then((place) => place.Bench));
const [Assembly, fetchAssembly] = late(() =>
  import('../places/assembly/Assembly').then((place) => place.Assembly),
);
const [Films, fetchFilms] = late(() => import('../places/films/Films').then((place) => place.Films));
const [Switch, fetchSwitch] = late(() => import('../places/switch/Switch').then((place) => place.Switch));

/** Places are fetched when the first one stands: a key to another does not wait for them. */
function useAllPlaces(ready: boolean) {
  useEffect(() => {
    if (!ready) return;
    const idle = requestIdleCallback(
      () =>
        void Promise.allSettled([fetchRound(), fetchBench(), fetchSwitch(), fetchAssembly(), fetchFilms()]),
    );
    return () => cancelIdleCallback(idle);
  }, [ready]);
}

/** The rail at the left, the place at the right, messages at the foot. */
export function Shell() {
  const { day: opened, error, again } = useDay();
  useAllPlaces(opened !== undefined);
  const [location] = useLocation();
  // A sentence belongs to the place where it was said.
  const [said, setSaid] = useState({ text: '', at: location });
  const say = useCallback((text: string) => setSaid({ text, at: location }), [location]);
  const message = said.at === location ? said.text : '';
  useEvents(say);
  const [shown, show] = useState(false);
  const keys = useMemo(() => ({ shown, show }), [shown]);
  if (error) {
    return (
      <main className="p-8">
        <h1 className="text-[15px] font-semibold">The day cannot be shown</h1>
        <p className="mt-2">{error.message}</p>
        <button type="button" className="mt-3 underline" onClick={again}>
          Try again
        </button>
      </main>
    );
  }
  if (!opened) return <main className="p-8 text-soft">Opening the production…</main>;
  return (
    <SayContext value={say}>
      <div className="flex h-screen min-w-[1180px]">
        <Rail day={opened} />
        <main className="relative flex min-w-0 flex-1 flex-col">
          <KeysShown value={keys}>
            <Choose>
              <Route path="/intake">
                <Intake day={opened} />
              </Route>
              <Route path="/day">
                <DaySheet day={opened} />
              </Route>
              <Route path="/bench/:id/against/:other?">
                {({ id, other }) => (
                  <Round day={opened} id={Number(id)} against={other ? Number(other) : undefined} />
                )}
              </Route>
              <Route path="/bench/round">
                <Round day={opened} id={undefined} against={undefined} />
              </Route>
              <Route path="/bench/:id?">
                {({ id }) => <Bench day={opened} id={id ? Number(id) : undefined} />}
              </Route>
              <Route path="/groups/:id?">
                {({ id }) => <Groups day={opened} id={id ? Number(id) : undefined} />}
              </Route>
              <Route path="/switch/:id?">
                {({ id }) => <Switch day={opened} id={id ? Number(id) : undefined} />}
              </Route>
              <Route path="/turnover/sound">
                <Sound day={opened} />
              </Route>
              <Route path="/turnover/films">
                <Films day={opened} />
              </Route>
              <Route path="/turnover/assembly/:id?">
                {({ id }) => <Assembly day={opened} id={id ? Number(id) : undefined} />}
              </Route>
              <Route path="/turnover/:id?">
                {({ id }) => <Turnover day={opened} id={id ? Number(id) : undefined} />}
              </Route>
              <Route>
                <Redirect to={opened.pass ? '/day' : '/intake'} replace />
              </Route>
            </Choose>
          </KeysShown>
          <div aria-live="polite" role="status">
            {message && (
              <div className="absolute right-4 bottom-4 z-40 flex max-w-[560px] items-start gap-3 rounded-[3px] border border-ink bg-sheet px-3 py-2 shadow-lg">
                <span>{message}</span>
                <button type="button" className="text-soft underline" onClick={() => say('')}>
                  close
                </button>
              </div>
            )}
          </div>
        </main>
      </div>
    </SayContext>
  );
}
