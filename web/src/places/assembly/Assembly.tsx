import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useEffect, useState, useSyncExternalStore } from 'react';
import { Link, useLocation } from 'wouter';
import { send, useCommands } from '../../api/commands';
import type { Day } from '../../api/day';
import { assembliesQuery, assemblyQuery, keys as queryKeys } from '../../api/queries';
import type { AssemblyEdit, AssemblyPart, AssemblyView } from '../../api/types';
import { useEdits } from '../../api/useEdits';
import { Empty } from '../../frame/Empty';
import { Head } from '../../frame/Head';
import { idle } from '../../keys/table';
import { useKeys } from '../../keys/useKeys';
import { framesOf, movedTo, ranged } from '../../model/assembly';
import { frameCount, timecode } from '../../model/format';
import { Button } from '../../parts/Button';
import { Choice } from '../../parts/Choice';
import { Editable } from '../../parts/Editable';
import { LayAsk } from '../../parts/LayAsk';
import { assemblyKeys } from './keys';
import { AddLines } from './AddLines';
import { PartPlayer } from './PartPlayer';
import { Place } from './place';

/** The place where lines of several groups are put one behind another. */
export function Assembly({ day, id }: { day: Day; id: number | undefined }) {
  const [, go] = useLocation();
  const all = useQuery(assembliesQuery);
  const commands = useCommands();
  const client = useQueryClient();
  const first = all.data?.find((own) => !own.aside)?.id;
  useEffect(() => {
    if (id === undefined && first !== undefined) go(`/turnover/assembly/${first}`, { replace: true });
  }, [id, first, go]);
  const view = useQuery(assemblyQuery(id));
  const make = async (groups: number[]) => {
    const name = `Assembly ${(all.data?.length ?? 0) + 1}`;
    const made = await commands.makeAssembly({ name, groups });
    if (!made) return;
    client.setQueryData(assemblyQuery(made.id).queryKey, made);
    await client.invalidateQueries({ queryKey: queryKeys.assemblies });
    go(`/turnover/assembly/${made.id}`);
  };
  if (day.groups.length === 0) {
    return (
      <Empty day={day} title="Assembly" keys={assemblyKeys(idle())}>
        There is nothing to put together yet. Sync the day on the <Link href="/day">Day sheet</Link>, then cut
        its groups.
      </Empty>
    );
  }
  if (!view.data) {
    return (
      <Empty day={day} title="Assembly" keys={assemblyKeys(idle())}>
        {view.isError ? `${view.error.message}. ` : ''}
        An assembly is lines of several groups one behind another, in any order, with gaps closed or kept.{' '}
        <span className="mt-3 flex gap-2">
          <Button onClick={() => void make(day.groups.map((own) => own.id))}>One of all lines</Button>
          <Button onClick={() => void make([])}>An empty one</Button>
        </span>
      </Empty>
    );
  }
  return <Assembling key={view.data.id} day={day} view={view.data} onMake={() => void make([])} />;
}

function Assembling({ day, view, onMake }: { day: Day; view: AssemblyView; onMake: () => void }) {
  const [, leave] = useLocation();
  const client = useQueryClient();
  const commands = useCommands();
  const all = useQuery(assembliesQuery);
  const { parts, assembly, start } = view;
  const [wished, setChosen] = useState(0);
  const chosen = Math.max(0, Math.min(parts.length - 1, wished));
  const part = parts[chosen];
  const [playing, setPlaying] = useState(false);
  const [adding, setAdding] = useState<'lines' | 'clip' | null>(null);
  // The frame to stand at in the chosen part; its head where none is asked for.
  const [at, setAt] = useState<{ frame: number } | null>(null);
  const [place] = useState(() => new Place(part?.range[0] ?? 0));
  const choose = useCallback(
    (next: number) => {
      place.free();
      setChosen(next);
      setAt(null);
    },
    [place],
  );
  const onFrame = useCallback((frame: number) => place.seen(frame), [place]);
  const next = useEdits(assemblyQuery(view.id).queryKey, versionOf, queryKeys.assemblies);
  const edit = (edit: AssemblyEdit) => next((version) => send.assemble(view.id, { version, edit }));
  const turn = (way: 'undo' | 'redo') => next((version) => send.turnAssembly(view.id, { version, way }));
  const behind = parts.length === 0 ? 0 : chosen + 1;
  const put = async (put: Extract<AssemblyEdit, { do: 'put' }>['parts']) => {
    await edit({ do: 'put', at: behind, parts: put });
    choose(behind);
  };
  const change = (range: [number, number] | null) => {
    const own = assembly.parts[chosen];
    if (own?.is === 'line') void edit({ do: 'change', at: chosen, part: ranged(own, range) });
  };
  const move = (by: 1 | -1) => {
    const to = movedTo(parts.length, chosen, by);
    if (to === chosen) return;
    choose(to);
    void edit({ do: 'move', from: chosen, to });
  };
  const take = () => {
    choose(chosen);
    void edit({ do: 'take', at: chosen });
  };
  const play = () => {
    place.free();
    setPlaying(!playing);
  };
  const rate = start?.rate ?? { num: 25, den: 1 };
  const gap = () => void put([{ is: 'gap', frames: Math.round(rate.num / rate.den) }]);
  const begin = () => {
    const frame = place.frame();
    if (part) change([frame, Math.max(frame + 1, part.range[1])]);
  };
  const end = () => {
    const frame = place.frame();
    if (part) change([Math.min(part.range[0], frame), frame + 1]);
  };
  const keys = assemblyKeys({
    choose: (by) => choose(movedTo(parts.length, chosen, by)),
    move,
    play,
    step: (by) => {
      setPlaying(false);
      const [from, to] = part?.range ?? [0, 1];
      const frame = Math.max(from, Math.min(to - 1, place.frame() + by));
      place.ask(frame);
      setAt({ frame });
    },
    add: () => setAdding('lines'),
    gap,
    slow: () => setAdding('clip'),
    begin,
    end,
    whole: () => change(null),
    take,
    cut: () => part?.group != null && leave(`/switch/${part.group}`),
    film: () => leave(`/turnover/films?assembly=${view.id}`),
    undo: () => void turn('undo'),
    redo: () => void turn('redo'),
  });
  useKeys(keys);
  const onEnd = useCallback(() => {
    if (chosen >= parts.length - 1) setPlaying(false);
    else choose(chosen + 1);
  }, [chosen, parts.length, choose]);
  const label = (frames: number) => (start ? timecode({ ...start, frames: start.frames + frames }) : '');
  const seen = [chosen, chosen + 1].filter((own) => own < parts.length);
  return (
    <>
      <Head day={day} title="Assembly" keys={keys}>
        <Choice
          label="Assembly"
          value={view.id}
          onChange={(other) => (other === 'new' ? onMake() : leave(`/turnover/assembly/${other}`))}
        >
          {(all.data ?? []).map((own) => (
            <option key={own.id} value={own.id}>
              {own.aside ? `${own.name} (aside)` : own.name}
            </option>
          ))}
          <option value="new">a new one…</option>
        </Choice>
        <Button
          onClick={() =>
            void commands
              .putAssemblyAside(view.id, {
                aside: !all.data?.find((own) => own.id === view.id)?.aside,
              })
              .then((now) => now && client.setQueryData(assembliesQuery.queryKey, now))
          }
        >
          {all.data?.find((own) => own.id === view.id)?.aside ? 'Take it up again' : 'Put aside'}
        </Button>
        <Link href="/turnover" className="underline">
          Groups
        </Link>
      </Head>
      <div className="flex min-h-0 flex-1">
        <section
          aria-label="Parts"
          className="flex w-[520px] shrink-0 flex-col border-r border-line px-4 py-3"
        >
          <div className="flex items-center gap-3 pb-2">
            <Editable
              label="Name of the assembly"
              value={assembly.name}
              max={80}
              onSave={(name) => void edit({ do: 'name', name })}
              className="flex-1 text-[14px] font-semibold"
            />
            <span className="num text-soft">{frameCount(view.frames, rate)}</span>
          </div>
          {view.why_not && <p className="pb-2 text-fault">{view.why_not}</p>}
          {parts.length === 0 && <p className="text-soft">Nothing is in it yet: A adds lines.</p>}
          <ol data-testid="parts" className="min-h-0 flex-1 overflow-y-auto">
            {parts.map((own, i) => (
              <li key={`${i} ${own.name}`} className="border-t border-line">
                <button
                  type="button"
                  aria-current={i === chosen}
                  onClick={() => choose(i)}
                  className={`grid w-full grid-cols-[28px_92px_1fr_92px_92px_60px] items-baseline gap-2 px-1 py-1.5 text-left ${i === chosen ? 'bg-band' : ''}`}
                >
                  <span className="num text-soft">{i + 1}</span>
                  <span className="num">{label(own.at)}</span>
                  <span className={`truncate ${own.group === null ? 'text-soft' : ''}`} title={own.name}>
                    {own.name}
                  </span>
                  <span className="num text-soft">{own.labels ? timecode(own.labels[0]) : ''}</span>
                  <span className="num text-soft">{own.labels ? timecode(own.labels[1]) : ''}</span>
                  <span className="num text-right text-soft">{frameCount(framesOf(own), rate)}</span>
                  {own.remark && <span className="col-span-6 text-check">{own.remark}</span>}
                </button>
              </li>
            ))}
          </ol>
          <div className="flex flex-wrap gap-1.5 border-t border-line pt-2.5">
            <Button small onClick={() => setAdding('lines')}>
              Add lines…
            </Button>
            <Button small onClick={gap}>
              Gap
            </Button>
            <Button small onClick={() => setAdding('clip')}>
              Clip…
            </Button>
            <Button small disabled={chosen === 0} onClick={() => move(-1)}>
              Earlier
            </Button>
            <Button small disabled={chosen >= parts.length - 1} onClick={() => move(1)}>
              Later
            </Button>
            <Button small disabled={part?.group == null} onClick={begin}>
              Begins here
            </Button>
            <Button small disabled={part?.group == null} onClick={end}>
              Ends here
            </Button>
            <Button small disabled={part?.group == null} onClick={() => change(null)}>
              Whole
            </Button>
            <Button small disabled={!part} onClick={take}>
              Take out
            </Button>
            <Button small disabled={!view.turns.undo} onClick={() => void turn('undo')}>
              Undo
            </Button>
            <Button small disabled={!view.turns.redo} onClick={() => void turn('redo')}>
              Redo
            </Button>
          </div>
          <ul className="mt-2.5 flex gap-4 border-t border-line pt-2.5">
            <li className="text-soft">Save</li>
            {FILES.map(([file, said]) => (
              <li key={file}>
                <a
                  href={`/api/assemblies/${view.id}/turnover/${file}`}
                  download
                  className="num whitespace-nowrap underline"
                >
                  {said}
                </a>
              </li>
            ))}
            <li>
              <Link href={`/turnover/films?assembly=${view.id}`} className="underline">
                As a film…
              </Link>
            </li>
          </ul>
        </section>
        <section
          aria-label="Picture"
          className="dark-pictures flex min-w-0 flex-1 flex-col bg-black px-4 py-3.5 text-[#dce7e2]"
        >
          <div className="relative min-h-0 flex-1">
            <div className="absolute inset-0 flex items-center justify-center">
              <div className="relative aspect-video max-h-full w-full">
                {seen.map((i) => {
                  const own = parts[i];
                  return own ? (
                    <PartPlayer
                      key={`${i} ${own.group} ${own.name} ${own.range.join()}`}
                      part={own}
                      start={start}
                      live={i === chosen}
                      playing={playing}
                      blended={isBlended(assembly.parts[i])}
                      sound={soundOf(view, i)}
                      at={i === chosen ? at : null}
                      onFrame={onFrame}
                      onEnd={onEnd}
                    />
                  ) : null;
                })}
                {part && <Standing place={place} label={(frame) => label(part.at + frame - part.range[0])} />}
              </div>
            </div>
          </div>
          <div className="flex gap-2.5 pt-2 text-[12px]">
            <button
              type="button"
              className="rounded-[3px] border border-[#51615d] px-2.5 py-0.5 hover:border-[#dce7e2]"
              onClick={play}
            >
              {playing ? 'Stand still' : 'Play'}
            </button>
          </div>
        </section>
      </div>
      {adding === 'lines' && (
        <AddLines
          day={day}
          onAdd={(groups) => void put(groups.map((group) => ({ is: 'line', group })))}
          onClose={() => setAdding(null)}
        />
      )}
      {adding === 'clip' && (
        <LayAsk
          day={day}
          title={`Put a clip in behind part ${behind}`}
          hint="What follows comes later by as much."
          verb="in"
          unheard="none"
          rate={rate}
          frames={Math.round((2 * rate.num) / rate.den)}
          running={[]}
          onLay={(layer) => void put([{ is: 'clip', layer }])}
          onClose={() => setAdding(null)}
        />
      )}
    </>
  );
}

/** The timecode of the frame on screen. */
function Standing({ place, label }: { place: Place; label: (frame: number) => string }) {
  const frame = useSyncExternalStore(place.subscribe, place.frame);
  return (
    <span
      data-testid="assembly-timecode"
      className="num absolute bottom-[9%] left-3 bg-black/60 px-1.5 text-[20px]"
    >
      {label(frame)}
    </span>
  );
}

const versionOf = ({ turns }: AssemblyView) => turns.version;

const isBlended = (part: AssemblyPart | undefined) => part?.is === 'clip' && !!part.layer.blended;

/** What is heard of a part that is no line. */
const soundOf = ({ id, assembly, turns }: AssemblyView, part: number) => {
  const own = assembly.parts[part];
  const heard = own?.is === 'clip' && !!own.layer.own_sound;
  return heard ? { assembly: id, part, version: turns.version } : null;
};

const FILES = [
  ['assembly.otio', 'assembly.otio'],
  ['assembly.otioz', 'with its media'],
  ['assembly.edl', 'assembly.edl'],
] as const;
