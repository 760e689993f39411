import { useQuery } from '@tanstack/react-query';
import { useContext, useState } from 'react';
import { Link, useSearchParams } from 'wouter';
import { useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import { assembliesQuery, filmsQuery } from '../../api/queries';
import type { FilmForm as Form, FilmsOf, FilmsView, FilmStep } from '../../api/types';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { kept } from '../../model/films';
import { Button } from '../../parts/Button';
import { Check } from '../../parts/Check';
import { Choice } from '../../parts/Choice';
import { Kinds } from '../../parts/Kinds';
import { LongList } from '../../parts/LongList';
import { SayContext } from '../../parts/message';
import { FilmForm } from './FilmForm';
import { FILM_GRID, FilmRow } from './FilmRow';
import { filmKeys } from './keys';

const KEPT = 'film-form';

const KINDS: [what: FilmsOf, one: string, many: string][] = [
  ['lines', 'line', 'lines'],
  ['walls', 'wall', 'walls'],
  ['angles', 'angle', 'angles'],
  ['clips', 'clip', 'clips'],
  ['assemblies', 'assembly', 'assemblies'],
];

/** Films: what they are made of and how, and the queue. */
export function Films({ day }: { day: Day }) {
  const films = useQuery(filmsQuery);
  if (films.data && day.clips.length > 0) return <Ready day={day} view={films.data} />;
  return (
    <Empty day={day} title="Films" keys={filmKeys(idle())}>
      {films.error?.message ??
        (films.data ? (
          <>
            There is nothing to make a film of yet. Take a folder in at <Link href="/intake">Intake</Link>.
          </>
        ) : (
          'Looking what this machine can make …'
        ))}
    </Empty>
  );
}

function Ready({ day, view }: { day: Day; view: FilmsView }) {
  // Who comes from an assembly wants a film of that.
  const [asked] = useSearchParams();
  const wished = Number(asked.get('assembly')) || null;
  const [what, setWhat] = useState<FilmsOf>(
    wished !== null ? 'assemblies' : day.groups.length > 0 ? 'lines' : 'clips',
  );
  const [only, setOnly] = useState<number | null>(null);
  const [onlyAssembly, setOnlyAssembly] = useState(wished);
  const together = (useQuery(assembliesQuery).data ?? []).filter((own) => !own.aside && own.parts > 0);
  const [form, setForm] = useState<Form>(() => kept(localStorage.getItem(KEPT)));
  const [folder, setFolder] = useState('');
  const [replace, setReplace] = useState(false);
  const [at, setAt] = useState(0);
  const commands = useCommands();
  const say = useContext(SayContext);
  const { films } = view;
  const codecs = new Map(view.codecs.map(({ codec, name }) => [codec, name]));
  const chosen = films[Math.min(at, films.length - 1)];
  const group = day.groups.find((own) => own.id === only);
  const groups = group ? [group] : day.groups;
  const assembly = together.find((own) => own.id === onlyAssembly);
  const moving = day.clips.filter(({ facts }) => facts.picture && !facts.picture.still);
  const counts: Record<FilmsOf, number> = {
    lines: groups.length,
    walls: groups.length,
    angles: groups.flatMap((own) => own.group.angles.filter((angle) => !angle.hidden)).length,
    clips: moving.length,
    assemblies: assembly ? 1 : together.length,
  };
  const keep = (next: Form) => {
    localStorage.setItem(KEPT, JSON.stringify(next));
    setForm(next);
  };
  const make = () =>
    void commands
      .orderFilms({
        what,
        groups: group ? [group.id] : null,
        clips: null,
        ...(assembly && { assemblies: [assembly.id] }),
        form,
        folder,
        replace,
      })
      .then(
        (done) =>
          done &&
          say(done.films === 1 ? '1 film waits for its turn.' : `${done.films} films wait for their turn.`),
      );
  const step = (to: FilmStep) => chosen && void commands.film(chosen.id, to);
  const keys = filmKeys({
    step: (by) => setAt(Math.max(0, Math.min(films.length - 1, at + by))),
    lines: () => setWhat('lines'),
    walls: () => setWhat('walls'),
    angles: () => setWhat('angles'),
    clips: () => setWhat('clips'),
    assemblies: () => setWhat('assemblies'),
    make,
    rest: () => step(chosen?.state === 'running' || chosen?.state === 'queued' ? 'stop' : 'again'),
    next: () => step('next'),
    out: () => step('forget'),
  });
  useKeys(keys);
  const many = counts[what];
  const word = KINDS.find(([own]) => own === what);
  const done = films.filter((own) => own.state === 'done').length;
  return (
    <>
      <Head day={day} title="Films" keys={keys}>
        <Link href="/turnover" className="underline">
          Documents
        </Link>
        <Link href="/turnover/sound" className="underline">
          Sound
        </Link>
      </Head>
      <div className="flex min-h-0 flex-1">
        <FilmForm view={view} form={form} folder={folder} onForm={keep} onFolder={setFolder} />
        <section aria-label="Films" className="flex min-w-0 flex-1 flex-col">
          <div className="flex h-11 shrink-0 items-center gap-3 border-b border-line px-4">
            <Kinds
              kinds={KINDS.map(
                ([own, one, more]) => [own, `${counts[own]} ${counts[own] === 1 ? one : more}`] as const,
              )}
              shown={what}
              onShow={setWhat}
            />
            <div className="flex-1" />
            {what === 'assemblies' && (
              <Only
                all="all assemblies"
                of={together.map(({ id, name }) => ({ id, name }))}
                only={onlyAssembly}
                onChoose={setOnlyAssembly}
              />
            )}
            {what !== 'clips' && what !== 'assemblies' && (
              <Only
                all="all groups"
                of={day.groups.map(({ id, group: { name } }) => ({ id, name }))}
                only={only}
                onChoose={setOnly}
              />
            )}
            <Check word="replace what is there" on={replace} onTurn={setReplace} className="gap-1" />
            <Button main disabled={many === 0} onClick={make}>
              Make {many} {many === 1 ? word?.[1] : word?.[2]}
            </Button>
          </div>
          <p className="border-b border-line px-4 py-1.5 text-soft">
            {
              {
                lines:
                  'Each line as it is when its turn comes, with what lies over it and the sound that goes with it.',
                walls: 'All angles of a group side by side, in the order of their number keys.',
                angles: 'Each angle from the group’s first frame to its last; black where it did not run.',
                clips:
                  'Each clip at its own rate, with its name and timecode, and the recorders’ sound in its place.',
                assemblies: 'Lines one behind another as one file, with gaps and clips between them.',
              }[what]
            }
          </p>
          <div className="flex h-9 shrink-0 items-center gap-3 border-b border-line px-4">
            <h2 className="font-semibold">Queue</h2>
            <span className="flex-1 text-soft">One after the other, also after a restart.</span>
            {done > 0 && (
              <Button small onClick={() => void commands.forgetFilms()}>
                Clear {done} that {done === 1 ? 'is' : 'are'} made
              </Button>
            )}
          </div>
          {films.length === 0 ? (
            <p className="p-4 text-soft">
              Nothing waits. Choose what films are made of and how, then make them; the page may be closed
              meanwhile.
            </p>
          ) : (
            <LongList
              label="Queue of films"
              grid={FILM_GRID}
              heads={['Film', 'Coded', 'How far', '']}
              rows={films}
              keyOf={(film) => film.id}
              height={44}
              at={Math.min(at, films.length - 1)}
              onChoose={setAt}
              cells={(film) => (
                <FilmRow
                  film={film}
                  codec={codecs.get(film.order.form.codec) ?? film.order.form.codec}
                  onStep={(to) => void commands.film(film.id, to)}
                />
              )}
            />
          )}
        </section>
      </div>
    </>
  );
}

/** One of several, or all. */
function Only({
  all,
  of,
  only,
  onChoose,
}: {
  all: string;
  of: { id: number; name: string }[];
  only: number | null;
  onChoose: (id: number | null) => void;
}) {
  if (of.length < 2) return null;
  return (
    <Choice label="of" value={only ?? ''} onChange={(id) => onChoose(id === '' ? null : Number(id))}>
      <option value="">{all}</option>
      {of.map(({ id, name }) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </Choice>
  );
}
