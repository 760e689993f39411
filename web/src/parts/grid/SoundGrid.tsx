import { memo, useState, type KeyboardEvent } from 'react';
import type { Day } from '../../api/day';
import type { GridChange, GridView } from '../../api/types';
import { runs } from '../../keys/table';
import { isMuted, levelSaid, louder, originSaid, pointOf, sourceSaid, rowsOf } from '../../model/grid';
import type { GridHeard } from '../../play/useGrid';
import { Button } from '../Button';
import { Stamp } from '../Stamp';
import { Turn } from '../Turn';
import { GridKept } from './GridKept';
import { gridKeys } from './keys';
import { OutputTools } from './OutputTools';
import { PointTools } from './PointTools';
import { useMeters } from './useMeters';

type Props = {
  day: Day;
  sound: GridHeard;
  playing: boolean;
  onPlay: () => void;
  /** What the chosen crosspoint is found by; with “-play”, the button that plays. */
  id?: string;
  /** It has the focus as soon as it is there. */
  focused?: boolean;
};

/** The sound of a group: its tracks down, its outputs across, a dot where they meet. */
export const SoundGrid = memo(function SoundGrid(props: Props) {
  const { why, view } = props.sound;
  if (why !== null) return <p className="text-soft">{why}.</p>;
  if (!view) return <p className="text-soft">Opening the sound…</p>;
  return <Table {...props} view={view} />;
});

function Table({ day, sound, view, playing, onPlay, id, focused }: Props & { view: GridView }) {
  const [at, setAt] = useState({ row: 0, column: 0 });
  const meter = useMeters(sound.mix, playing);
  const [table, setTable] = useState<HTMLTableElement | null>(null);
  const { outputs } = view.grid;
  const rows = rowsOf(view);
  const row = Math.min(at.row, rows.length - 1);
  const column = Math.min(at.column, outputs.length - 1);
  const source = rows[row];
  const change = (change: GridChange) => void sound.step({ do: 'change', change });
  const go = (row: number, column: number) => {
    setAt({ row, column });
    table?.querySelector<HTMLElement>(`[data-at="${row} ${column}"]`)?.focus();
  };
  if (!source) return <p className="text-soft">Nothing was heard while this group ran.</p>;
  const point = pointOf(view, source.key, column);
  const cross = (row: number, column: number) => {
    const own = rows[row];
    if (!own) return;
    const on = pointOf(view, own.key, column)?.on ?? false;
    change({ do: 'cross', source: own.key, output: column, on: !on });
  };
  const level = (db: number) => change({ do: 'level', source: source.key, output: column, level_db: db });
  const mute = (row: number) => {
    const own = rows[row];
    if (own) change({ do: 'mute', source: own.key, muted: !isMuted(view, own.key) });
  };
  const keys = gridKeys({
    go: (down, across) =>
      go(
        Math.max(0, Math.min(rows.length - 1, row + down)),
        Math.max(0, Math.min(outputs.length - 1, column + across)),
      ),
    cross: () => cross(row, column),
    louder: (by) => level(louder(point?.on ? point.level_db : 0, point?.on ? by : 0)),
    invert: () =>
      change({ do: 'invert', source: source.key, output: column, inverted: !(point?.inverted ?? false) }),
    mute: () => mute(row),
    alone: () => sound.listenAlone(row),
    output: () => change({ do: 'add_output' }),
    play: onPlay,
    undo: () => void sound.turn('undo'),
    redo: () => void sound.turn('redo'),
  });
  const pressed = (event: KeyboardEvent) => {
    const run = runs(keys, event.nativeEvent);
    if (!run) return;
    // The keys of the place mean other things.
    event.preventDefault();
    event.stopPropagation();
    run();
  };
  return (
    <div className="flex min-h-0 flex-col">
      <div className="min-h-0 overflow-auto">
        <table ref={setTable} role="grid" aria-label="Sound grid" className="border-collapse text-[13px]">
          <thead>
            <tr>
              <th scope="col" className="sticky left-0 bg-sheet pr-3 text-left font-normal text-soft">
                Tracks
              </th>
              <td />
              {outputs.map((output, i) => (
                <th
                  key={i}
                  scope="col"
                  className={`w-[92px] max-w-[92px] px-2 pb-1 text-left align-bottom ${i === column ? '' : 'font-normal'}`}
                >
                  <span
                    className={`block truncate ${output.muted ? 'text-soft line-through' : ''}`}
                    title={output.name}
                  >
                    {output.name}
                  </span>
                  <span className="block h-4 truncate text-[11px] font-normal text-soft">
                    {[output.ear !== 'both' && output.ear, output.follows && 'follows']
                      .filter(Boolean)
                      .join(', ')}
                  </span>
                  <Meter take={meter(`o${i}`)} wide />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((own, i) => {
              const muted = isMuted(view, own.key);
              const alone = sound.alone === i;
              const quiet = muted || (sound.alone !== null && !alone);
              return (
                <tr
                  key={`${own.key.device ?? ''} ${own.key.name ?? ''} ${own.key.channel} ${own.key.lane}`}
                  className="border-t border-line"
                >
                  <th
                    scope="row"
                    className={`sticky left-0 bg-sheet pr-3 text-left whitespace-nowrap ${i === row ? '' : 'font-normal'}`}
                  >
                    <span className="flex h-7 items-center gap-2">
                      <Stamp devices={day.devices} id={own.key.device} />
                      <span
                        className={`w-[170px] truncate ${muted ? 'line-through' : ''} ${quiet ? 'text-soft' : ''}`}
                        title={sourceSaid(own)}
                      >
                        {sourceSaid(own)}
                      </span>
                      <Meter take={meter(`s${i}`)} />
                    </span>
                  </th>
                  <td className="pr-3 whitespace-nowrap">
                    <Word pressed={muted} label={`${sourceSaid(own)} mute`} onPress={() => mute(i)}>
                      mute
                    </Word>
                    <Word
                      pressed={alone}
                      label={`${sourceSaid(own)} alone`}
                      onPress={() => sound.listenAlone(i)}
                    >
                      alone
                    </Word>
                  </td>
                  {outputs.map((output, j) => {
                    const meets = pointOf(view, own.key, j);
                    const on = meets?.on ?? false;
                    const here = i === row && j === column;
                    const said = on
                      ? `${levelSaid(meets?.level_db ?? 0)} dB${meets?.inverted ? ', inverted' : ''}`
                      : 'not there';
                    return (
                      <td key={j} className="border-l border-line p-0">
                        <button
                          type="button"
                          id={here ? id : undefined}
                          data-at={`${i} ${j}`}
                          aria-label={`${sourceSaid(own)} to ${output.name}: ${said}`}
                          aria-pressed={on}
                          tabIndex={here ? 0 : -1}
                          data-autofocus={focused && here ? true : undefined}
                          onFocus={() => setAt({ row: i, column: j })}
                          onKeyDown={pressed}
                          onClick={() => {
                            setAt({ row: i, column: j });
                            cross(i, j);
                          }}
                          className={`num flex h-7 w-[92px] items-center gap-1.5 px-2 ${here ? 'bg-band' : 'hover:bg-band'}`}
                        >
                          <Dot on={on} inverted={meets?.inverted ?? false} quiet={quiet || output.muted} />
                          {on && <span aria-hidden>{levelSaid(meets?.level_db ?? 0)}</span>}
                        </button>
                      </td>
                    );
                  })}
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <PointTools view={view} row={row} column={column} onChange={change} />
      <OutputTools view={view} column={column} onChange={change} />
      <div className="flex flex-wrap items-center gap-2 pt-3">
        <Button small id={id && `${id}-play`} onClick={onPlay}>
          {playing ? 'Stand still' : 'Play'}
        </Button>
        <Button small onClick={() => change({ do: 'add_output' })}>
          One more output
        </Button>
        {focused && <Turn turns={day.groups_turns} onTurn={(way) => void sound.turn(way)} />}
        <GridKept view={view} onStep={(step) => void sound.step(step)} />
      </div>
      <p className="pt-1.5 text-[12px] text-soft">
        {originSaid(view)} Keys in the grid: {keys.map(({ keys, does }) => `${keys} ${does}`).join(' · ')}.
      </p>
    </div>
  );
}

/** Where a track and an output meet: full where it goes there, a ring where it goes there upside down. */
function Dot({ on, inverted, quiet }: { on: boolean; inverted: boolean; quiet: boolean }) {
  const full = quiet ? 'border-soft bg-soft' : 'border-accent bg-accent';
  const ring = quiet ? 'border-soft' : 'border-accent';
  return (
    <span
      aria-hidden
      className={`h-3 w-3 shrink-0 rounded-full ${on ? `border-[3px] ${inverted ? ring : full}` : 'border border-soft/60'}`}
    />
  );
}

function Meter({ take, wide }: { take: (bar: HTMLElement | null) => void; wide?: boolean }) {
  return (
    <span aria-hidden className={`block h-1 overflow-hidden bg-band ${wide ? 'w-full' : 'w-14'}`}>
      <span
        ref={take}
        className="block h-full origin-left bg-accent data-[full=true]:bg-fault"
        style={{ transform: 'scaleX(0)' }}
      />
    </span>
  );
}

type WordProps = { pressed: boolean; label: string; onPress: () => void; children: string };

function Word({ pressed, label, onPress, children }: WordProps) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      aria-label={label}
      onClick={onPress}
      className={`rounded-[3px] border px-1.5 text-[12px] ${pressed ? 'border-current font-semibold' : 'border-transparent text-soft underline'}`}
    >
      {children}
    </button>
  );
}
